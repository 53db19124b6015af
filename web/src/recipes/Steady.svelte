<script lang="ts">
  /** A picture that stays until the next one has come: no flicker while something is changed. */
  interface Props {
    src: string;
    alt: string;
    width: number;
    height: number;
    /** Milliseconds before it is asked for: what matters more comes first. */
    after?: number;
  }
  let { src, alt, width, height, after = 0 }: Props = $props();

  let shown = $state('');
  $effect(() => {
    const wanted = src;
    const next = new Image();
    next.onload = () => (shown = wanted);
    const timer = setTimeout(() => (next.src = wanted), after);
    return () => {
      clearTimeout(timer);
      next.onload = null;
    };
  });
</script>

<div class="holder" style:width="{width}px" style:height="{height}px">
  {#if shown}<img src={shown} {alt} draggable="false" />{/if}
</div>

<style>
  .holder { display: grid; background: var(--empty); max-width: 100%; }
  img { width: 100%; height: 100%; display: block; }
</style>
