<script lang="ts">
  /** The close looks at one cell. */
  interface Props {
    tray: number;
    photo: number;
    recipe: number;
    on: string;
  }
  let { tray, photo, recipe, on }: Props = $props();

  const LOOKS = [['frame', 'Frame'], ['tone', 'Tone'], ['outline', 'Outline'], ['sharpness', 'Sharpness'], ['weight', 'Weight'], ['color', 'Color']] as const;
</script>

<nav aria-label="Looks">
  {#each LOOKS as [name, title] (name)}
    <a class="pill ring" class:on={on === name} aria-current={on === name ? 'page' : undefined} href="/trays/{tray}/bench/{photo}/{recipe}{name === 'frame' ? '' : `/${name}`}">{title}</a>
  {/each}
</nav>

<style>
  nav { display: flex; gap: 3px; }
  a { padding: 2px 11px; text-decoration: none; color: inherit; }
  a.on { color: var(--on-accent); }
</style>
