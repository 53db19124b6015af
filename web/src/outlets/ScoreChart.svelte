<script lang="ts">
  import { bytes } from '../words/numbers';
  import type { Tried } from './rehearsal.svelte';

  let { tried, best, chosen, onchoose }: { tried: readonly Tried[]; best: string | undefined; chosen: string | undefined; onchoose: (key: string) => void } = $props();

  /** Score against the bytes that people load. */
  let room = $state({ width: 600, height: 120 });
  const pad = { left: 34, right: 16, top: 10, bottom: 20 };
  const points = $derived(tried.flatMap((each) => (each.made ? [{ key: each.key, name: each.made.what, how: each.made.how, score: each.made.score, shown: each.made.shown }] : [])));
  const scores = $derived(points.map((each) => each.score));
  const low = $derived(Math.floor((Math.min(...scores, 100) - 2) / 5) * 5);
  const high = $derived(Math.min(100, Math.ceil((Math.max(...scores, 0) + 2) / 5) * 5));
  const most = $derived(Math.max(1000, ...points.map((each) => each.shown)) * 1.05);
  const least = $derived(Math.min(most * 0.6, ...points.map((each) => each.shown)) * 0.9);
  const x = (shown: number) => pad.left + ((shown - least) / (most - least)) * (room.width - pad.left - pad.right);
  const y = (score: number) => room.height - pad.bottom - ((score - low) / Math.max(1, high - low)) * (room.height - pad.top - pad.bottom);
  /** Names where there is room for them: of the best first. */
  const named = $derived.by(() => {
    const taken: { x: number; y: number; width: number; key: string; left: boolean; name: string }[] = [];
    for (const each of points.toSorted((a, b) => Number(b.key === chosen) - Number(a.key === chosen) || Number(b.key === best) - Number(a.key === best) || b.score - a.score)) {
      const width = each.name.length * 6.2 + 14;
      const left = x(each.shown) + width > room.width - 4;
      const at = { x: left ? x(each.shown) - width : x(each.shown), y: y(each.score), width, key: each.key, left, name: each.name };
      const clear = taken.every((other) => Math.abs(other.y - at.y) > 13 || at.x > other.x + other.width || other.x > at.x + width);
      const over = points.some((other) => other.key !== each.key && Math.abs(y(other.score) - at.y) < 9 && x(other.shown) > at.x - 4 && x(other.shown) < at.x + width);
      if (clear && (!over || each.key === best)) taken.push(at);
    }
    return taken;
  });
</script>

<div class="chart" bind:clientWidth={room.width} bind:clientHeight={room.height}>
  <svg width={room.width} height={room.height} role="group" aria-label="Score by bytes shown">
    <path d="M{pad.left} {pad.top}V{room.height - pad.bottom}H{room.width - pad.right}" class="axis" />
    {#if points.length}
      <text x={pad.left - 6} y={y(high) + 4} class="end">{high}</text>
      <text x={pad.left - 6} y={y(low) + 4} class="end">{low}</text>
      <text x={pad.left} y={room.height - 5}>{bytes(least)}</text>
      <text x={room.width - pad.right} y={room.height - 5} class="end">{bytes(most)}</text>
    {/if}
    {#each named as name (name.key)}<text x={name.left ? x(points.find((each) => each.key === name.key)?.shown ?? 0) - 10 : name.x + 10} y={name.y + 4} class:end={name.left} class="name">{name.name}</text>{/each}
    {#each points as point (point.key)}
      <!-- svelte-ignore a11y_click_events_have_key_events -->
      <circle cx={x(point.shown)} cy={y(point.score)} r={point.key === best ? 6 : 4} class:best={point.key === best} class:chosen={point.key === chosen} onclick={() => onchoose(point.key)} role="button" tabindex="-1" aria-label="{point.name}, {point.how}: {point.score.toFixed(1)}, {bytes(point.shown)}"><title>{point.name}, {point.how}: {point.score.toFixed(1)}, shown {bytes(point.shown)}</title></circle>
    {/each}
  </svg>
</div>

<style>
  .chart { flex: 1; min-height: 70px; position: relative; }
  svg { position: absolute; inset: 0; }
  .axis { fill: none; stroke: var(--edge-soft); }
  text { font-size: 11px; fill: var(--dim); font-variant-numeric: tabular-nums; }
  .name { fill: var(--ink); }
  .end { text-anchor: end; }
  circle { fill: var(--edge); cursor: pointer; }
  .best { fill: var(--accent); }
  .chosen { stroke: var(--ink); stroke-width: 2; }
</style>
