<script lang="ts">
  import { station, withStation } from './draft';
  import type { LineState } from './line.svelte';
  import Quantity from './Quantity.svelte';
  import Typed from './Typed.svelte';
  import { typedNumber } from './draft';

  let { line }: { line: LineState } = $props();

  const here = $derived(station(line.content, 'prep') ?? {});
  const first = $derived(here['sharpen'] as Record<string, unknown> | undefined);
  const KINDS = [['levels', 'levels'], ['contrast', 'contrast'], ['balance', 'color balance']] as const;

  function set(changes: Record<string, unknown>): void {
    const next = Object.fromEntries(Object.entries({ ...here, ...changes }).filter(([, value]) => value !== undefined && value !== false));
    const works = KINDS.some(([name]) => next[name]) || next['sharpen'] !== undefined;
    line.change(withStation(line.content, 'prep', works ? next : undefined));
  }

  function setFirst(changes: Record<string, unknown>): void {
    set({ sharpen: { ...first, ...changes } });
  }
</script>

<div class="row" role="group" aria-label="Corrections">
  <span class="label">Correct</span>
  {#each KINDS as [name, title] (name)}
    <button class="pill ring" class:on={here[name] === true} aria-pressed={here[name] === true} onclick={() => set({ [name]: here[name] !== true })}>{title}</button>
  {/each}
  <span class="dim">by the tones of each photo</span>
</div>
{#if here['levels'] === true}
  <div class="row">
    <Typed label="Clip" name="Clip to black" value={String(here['clip_dark'] ?? 0.1)} wide={40} unit="% to black" problem={line.problems['prep.clip_dark']} onchange={(text) => set({ clip_dark: typedNumber(text) })} />
    <Typed label="" name="Clip to white" value={String(here['clip_light'] ?? 0.1)} wide={40} unit="% to white" problem={line.problems['prep.clip_light']} onchange={(text) => set({ clip_light: typedNumber(text) })} />
  </div>
{/if}
<div class="row" role="group" aria-label="First sharpening">
  <span class="label">Sharpen first</span>
  <button class="pill ring" class:on={first !== undefined} aria-pressed={first !== undefined} onclick={() => set({ sharpen: first ? undefined : { amount: 60, radius: 1, guard: 4 } })}>before resizing</button>
  <span class="dim">for soft lenses and scans; most photos need only the later one</span>
</div>
{#if first}
  <Quantity label="Amount" unit="%" min={1} max={300} value={first['amount'] ?? 60} problem={line.problems['prep.sharpen.amount']} onchange={(amount) => setFirst({ amount })} />
  <div class="row">
    <Typed label="Radius" value={String(first['radius'] ?? 1)} wide={40} unit="px of the photo" problem={line.problems['prep.sharpen.radius']} onchange={(text) => setFirst({ radius: typedNumber(text) })} />
    <Typed label="" name="Flat-area guard" value={String(first['guard'] ?? 4)} wide={40} unit="levels guard flat areas" problem={line.problems['prep.sharpen.guard']} onchange={(text) => setFirst({ guard: typedNumber(text) })} />
  </div>
{/if}

<style>
  .row { display: flex; gap: 6px 8px; align-items: center; flex-wrap: wrap; font-size: 13px; }
  .label { width: 84px; margin-right: 4px; }
  .pill { padding: 2px 10px; font-size: 12px; }
  .dim { font-size: 12px; }
</style>
