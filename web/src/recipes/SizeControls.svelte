<script lang="ts">
  import Choice from './Choice.svelte';
  import { station, typedNumber, withStation } from './draft';
  import type { LineState } from './line.svelte';
  import PerShape from './PerShape.svelte';
  import Typed from './Typed.svelte';

  let { line }: { line: LineState } = $props();

  const here = $derived(station(line.content, 'size') ?? { by: 'own' });
  const by = $derived(String(here['by']));
  const enlarge = $derived(here['enlarge'] ?? 'never');
  const minimum = $derived(here['minimum'] as Record<string, unknown> | undefined);
  const units: Record<string, string> = { percent: '%', megapixels: 'MP' };

  function set(changes: Record<string, unknown>): void {
    const next = { ...here, ...changes };
    line.change(withStation(line.content, 'size', Object.fromEntries(Object.entries(next).filter(([, value]) => value !== undefined))));
  }

  function setWidths(text: string): void {
    const widths = text.split(/[\s,;]+/).filter(Boolean).map(typedNumber);
    set({ widths });
  }

  function setMinimum(name: string, text: string): void {
    const value = typedNumber(text);
    const next = { ...minimum, [name]: value };
    if (value === '') delete (next as Record<string, unknown>)[name];
    set({ minimum: Object.keys(next).length ? next : undefined });
  }
</script>

<Choice
  label="Measure"
  value={by}
  options={[
    ['long-edge', 'long edge'],
    ['short-edge', 'short edge'],
    ['width', 'width'],
    ['height', 'height'],
    ['box', 'inside a box'],
    ['exact', 'exact'],
    ['percent', 'per cent'],
    ['megapixels', 'megapixels'],
    ['widths', 'several widths'],
    ['own', 'its own size'],
  ]}
  onchange={(value) => line.measure(value)}
/>
{#if line.problems['size.by']}<p class="problem" role="alert">{line.problems['size.by']}</p>{/if}
{#if by === 'widths'}
  <Typed label="Widths" value={(here['widths'] as unknown[] | undefined)?.join(', ') ?? ''} unit="px" problem={line.problems['size.widths'] ?? Object.entries(line.problems).find(([field]) => field.startsWith('size.widths.'))?.[1]} wide={220} onchange={setWidths} />
{:else if by !== 'own'}
  <PerShape {line} unit={units[by] ?? 'px'} />
{/if}
<div class="pair">
  <Choice
    label="Enlarging"
    value={typeof enlarge === 'string' && ['never', 'always'].includes(enlarge) ? enlarge : 'limit'}
    options={[['never', 'never'], ['limit', 'up to a limit'], ['always', 'where needed']]}
    onchange={(value) => set({ enlarge: value === 'limit' ? 150 : value })}
  />
  {#if enlarge !== 'never' && enlarge !== 'always'}
    <Typed label="" name="Limit" unit="% at most" wide={40} value={String(enlarge)} problem={line.problems['size.enlarge'] && 'Type 101 to 1000 %.'} onchange={(text) => set({ enlarge: typedNumber(text) })} />
  {/if}
</div>
<div class="pair">
  <Choice label="Resampled" value={String(here['light'] ?? 'gamma')} options={[['gamma', 'as usual'], ['linear', 'in linear light']]} onchange={(light) => set({ light: light === 'gamma' ? undefined : light })} />
  <Typed label="" name="Resolution tag" value={String(here['ppi'] ?? '')} unit="ppi tag, changes no pixel" placeholder="none" wide={40} problem={line.problems['size.ppi']} onchange={(text) => set({ ppi: text.trim() === '' ? undefined : typedNumber(text) })} />
</div>
<div class="pair">
  <Typed label="Minimum" name="Minimum width" wide={46} value={String(minimum?.['width'] ?? '')} unit="px wide" placeholder="none" problem={line.problems['size.minimum.width']} onchange={(text) => setMinimum('width', text)} />
  <Typed label="" name="Minimum height" wide={46} value={String(minimum?.['height'] ?? '')} unit="px high" placeholder="none" problem={line.problems['size.minimum.height']} onchange={(text) => setMinimum('height', text)} />
  <span class="dim">smaller ones get a warning</span>
</div>

<style>
  .pair { display: flex; gap: 6px 12px; flex-wrap: wrap; align-items: center; }
  .problem { color: var(--bad); padding-left: 96px; }
  .dim { font-size: 12px; }
</style>
