<script lang="ts">
  import { valueAt, type Json } from './fields';

  /** A use as a small drawing: the shape of its best pixels, what is covered of it, and how many pixels. */
  let { use, edge = 44 }: { use: Json; edge?: number } = $props();

  interface Area {
    x: number;
    y: number;
    width: number;
    height: number;
  }
  const best = $derived((valueAt(use, 'rules.best') ?? valueAt(use, 'shown') ?? valueAt(use, 'intake.largest')) as [number, number] | null | undefined);
  const size = $derived<[number, number]>(best ?? [3, 2]);
  const scale = $derived(edge / Math.max(...size));
  const covered = $derived((valueAt(use, 'rules.covered') as Area[] | undefined) ?? []);
</script>

<svg width={size[0] * scale} height={size[1] * scale} viewBox="0 0 {size[0] * scale} {size[1] * scale}" aria-hidden="true">
  <rect x="0.75" y="0.75" width={size[0] * scale - 1.5} height={size[1] * scale - 1.5} class="shape" />
  {#each covered as area, i (i)}<rect x={area.x * size[0] * scale} y={area.y * size[1] * scale} width={area.width * size[0] * scale} height={area.height * size[1] * scale} class="covered" />{/each}
</svg>
{#if best}<span class="dim">{best[0]} × {best[1]}</span>{/if}

<style>
  svg { flex: none; }
  .shape { fill: var(--accent-soft); stroke: var(--accent); stroke-width: 1.3; }
  .covered { fill: var(--accent); opacity: 0.35; }
  .dim { order: 1; }
</style>
