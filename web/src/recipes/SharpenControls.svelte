<script lang="ts">
  import Choice from './Choice.svelte';
  import { follows, station, typedNumber, withStation } from './draft';
  import type { LineState } from './line.svelte';
  import Quantity from './Quantity.svelte';
  import Typed from './Typed.svelte';

  let { line }: { line: LineState } = $props();

  const here = $derived(station(line.content, 'sharpen') ?? { strength: 0 });

  function set(changes: Record<string, unknown>): void {
    const next = Object.fromEntries(Object.entries({ ...here, ...changes }).filter(([, value]) => value !== undefined));
    const idle = next['strength'] === 0 && !follows(line.content, 'sharpen');
    line.change(withStation(line.content, 'sharpen', idle ? undefined : next));
  }
</script>

<Quantity label="Strength" unit="%" min={0} max={200} value={here['strength'] ?? 0} problem={line.problems['sharpen.strength']} onchange={(strength) => set({ strength })} />
<Choice label="Method" value={String(here['method'] ?? 'unsharp')} options={[['unsharp', 'unsharp mask'], ['highpass', 'high-pass']]} onchange={(method) => set({ method: method === 'unsharp' ? undefined : method })} />
<div class="row">
  <Typed label="Radius" value={String(here['radius'] ?? '')} placeholder="auto" wide={44} unit="px" problem={line.problems['sharpen.radius']} onchange={(text) => set({ radius: text.trim() === '' ? undefined : typedNumber(text) })} />
  <Typed label="" name="Threshold" value={String(here['threshold'] ?? 0)} wide={34} unit="levels threshold" problem={line.problems['sharpen.threshold']} onchange={(text) => set({ threshold: typedNumber(text) || undefined })} />
</div>
<div class="row">
  <Choice label="Flat areas" value={here['guard'] === 'auto' ? 'auto' : here['guard'] ? 'levels' : 'none'} options={[['auto', 'guarded by their noise'], ['levels', 'guarded by hand'], ['none', 'sharpened too']]} onchange={(way) => set({ guard: way === 'auto' ? 'auto' : way === 'levels' ? 6 : undefined })} />
  {#if typeof here['guard'] === 'number' || (typeof here['guard'] === 'string' && here['guard'] !== 'auto')}<Typed label="" name="Flat-area guard" value={String(here['guard'])} wide={34} unit="levels" problem={line.problems['sharpen.guard']} onchange={(text) => set({ guard: typedNumber(text) || undefined })} />{/if}
</div>
<p class="dim">
  {here['method'] === 'highpass' ? 'Strongest in the middle tones, fading towards black and white.' : '100 % suits most pictures; 0 % changes nothing.'}
  Guarded areas, such as skies, stay as they are; how much noise there is in them is measured in each picture, or given as levels. Judge it at full size on the bench.
</p>

<style>
  .row { display: flex; gap: 6px 12px; flex-wrap: wrap; }
  p { font-size: 12px; line-height: 16px; }
</style>
