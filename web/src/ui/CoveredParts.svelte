<script lang="ts" module>
  export interface Area {
    by: string;
    x: number;
    y: number;
    width: number;
    height: number;
  }

  /** The parts of a recipe's renditions that its outlet's page covers. */
  export function coveredOf(content: Record<string, unknown> | undefined): readonly Area[] {
    const outlet = content?.['outlet'] as { rules?: { covered?: Area[] } } | undefined;
    return outlet?.rules?.covered ?? [];
  }
</script>

<script lang="ts">
  /** Laid over a picture, as the outlet's page lies over it. */
  let { areas }: { areas: readonly Area[] } = $props();
</script>

{#each areas as area, i (i)}<span title="covered by {area.by}" style:left="{area.x * 100}%" style:top="{area.y * 100}%" style:width="{area.width * 100}%" style:height="{area.height * 100}%"></span>{/each}

<style>
  span { position: absolute; background: repeating-linear-gradient(45deg, rgb(20 20 19 / 0.5) 0 4px, rgb(20 20 19 / 0.25) 4px 8px); pointer-events: none; }
</style>
