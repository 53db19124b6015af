<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { Schemas } from '../api/client';

  /** How light is spread, as a hill over a wedge of greys, with what is lost at both ends. */
  let { light, children }: { light: Schemas['LightOut'] | undefined; children?: Snippet } = $props();

  const WEDGE = ['#131312', '#353534', '#5a5a58', '#80807d', '#a6a6a3', '#cbcbc8', '#ececea'];

  function path(values: number[]): string {
    const most = Math.max(0.02, ...values.slice(1, -1));
    const points = values.map((value, i) => `${(i + 0.5).toFixed(1)},${(40 - 40 * Math.min(1, value / most) ** 0.7).toFixed(2)}`);
    return `M0,40 L${points.join(' L')} L${values.length},40 Z`;
  }

  const percent = (share: number) => `${(100 * share).toFixed(share > 0.1 ? 0 : 1)} %`;
</script>

<div class="hill">
<svg viewBox="0 0 64 40" preserveAspectRatio="none" role="img" aria-label="How light is spread">
  {#if light}
    <path class="all" d={path(light.luminance)} />
    {#each [['red', light.red], ['green', light.green], ['blue', light.blue]] as const as [name, values] (name)}<path class="line {name}" d={path(values)} />{/each}
  {/if}
</svg>
{@render children?.()}
</div>
<div class="wedge" aria-hidden="true">{#each WEDGE as grey (grey)}<span style:background={grey}></span>{/each}</div>
<p class="ends">
  <span class:lost={(light?.black ?? 0) > 0.001} data-lost="black">{(light?.black ?? 0) > 0.0005 ? `${percent(light?.black ?? 0)} lost below` : 'nothing lost below'}</span>
  <span class:lost={(light?.white ?? 0) > 0.001} data-lost="white">{(light?.white ?? 0) > 0.0005 ? `${percent(light?.white ?? 0)} lost above` : 'nothing lost above'}</span>
</p>

<style>
  .hill { position: relative; }
  svg { width: 100%; height: 84px; display: block; }
  .all { fill: var(--hill, #5a5a57); }
  .line { fill: none; stroke-width: 1.2px; vector-effect: non-scaling-stroke; opacity: 0.75; }
  .red { stroke: #b04a3a; }
  .green { stroke: #4c8a4a; }
  .blue { stroke: #4a6ab0; }
  .wedge { display: flex; height: 18px; }
  .wedge span { flex: 1; }
  .ends { display: flex; justify-content: space-between; color: var(--dim); font-size: 12px; font-variant-numeric: tabular-nums; }
  .lost { color: var(--eye); }
</style>
