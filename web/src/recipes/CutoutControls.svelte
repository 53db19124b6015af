<script lang="ts">
  import { Checkbox } from 'carbon-components-svelte';
  import Choice from './Choice.svelte';
  import { follows, only, station, typedNumber, withStation } from './draft';
  import type { LineState } from './line.svelte';
  import Swatch from './Swatch.svelte';
  import Typed from './Typed.svelte';

  interface Props {
    line: LineState;
    /** Where the sample's outline is. */
    outline?: string | undefined;
  }
  let { line, outline }: Props = $props();

  const KEEPS_CLEAR = ['png', 'webp', 'avif', 'tiff', 'gif'];
  const TAKES_PATHS = ['jpeg', 'tiff', 'pdf'];

  const here = $derived(station(line.content, 'cutout'));
  const format = $derived(String(station(line.content, 'file')?.['format'] ?? ''));
  const ground = $derived(here === undefined ? 'none' : ['clear', 'keep'].includes(String(here['ground'] ?? 'clear')) ? String(here['ground'] ?? 'clear') : 'color');
  const shadow = $derived(here?.['shadow'] as Record<string, unknown> | undefined);
  const fit = $derived(String(here?.['fit'] ?? 'no'));
  const problem = (field: string) => line.problems[`cutout.${field}`];

  function set(changes: Record<string, unknown>): void {
    const next = { ...here, ...changes };
    line.change(withStation(line.content, 'cutout', only(next, Object.keys(next))));
  }

  function choose(way: string): void {
    if (way === 'none') line.change(withStation(line.content, 'cutout', follows(line.content, 'cutout') ? { ground: 'keep' } : undefined));
    else if (way === 'keep') set({ ground: 'keep', shadow: undefined });
    else set({ ground: way === 'color' ? '#ffffff' : 'clear' });
  }

  const grounds = $derived([
    ['none', 'not cut out'],
    ...(KEEPS_CLEAR.includes(format) || ground === 'clear' ? [['clear', 'clear']] : []),
    ['color', 'a color'],
    ['keep', 'its own'],
  ] as [string, string][]);
</script>

<div class="row">
  <Choice label="Ground" value={ground} options={grounds} onchange={choose} />
  {#if ground === 'color'}<Swatch label="Ground color" value={String(here?.['ground'] ?? '')} problem={problem('ground')} onchange={(color) => set({ ground: color })} />{/if}
</div>
{#if problem('ground') && ground !== 'color'}<p class="bad">{problem('ground')}</p>{/if}
{#if here}
  <div class="row">
    <Choice label="Frame" value={fit} options={[['no', 'lies as it says'], ['box', 'around the object'], ['area', 'so that all look equally large']]} onchange={(way) => set({ fit: way === 'no' ? undefined : way })} />
    {#if fit !== 'no'}<Typed label="" name="Margin" value={String(here['margin'] ?? 8)} wide={34} unit="% margin" problem={problem('margin')} onchange={(text) => set({ margin: typedNumber(text) })} />{/if}
  </div>
  {#if problem('fit')}<p class="bad">{problem('fit')}</p>{/if}
  {#if ground !== 'keep'}
    <div class="row shadow">
      <Checkbox labelText="Soft shadow" checked={shadow !== undefined} on:check={(event) => set({ shadow: event.detail ? (shadow ?? {}) : undefined })} />
      {#if shadow}
        {#each [['strength', 35, '% dark'], ['blur', 3, '% soft'], ['down', 2, '% down'], ['across', 0, '% across']] as const as [name, usual, unit] (name)}
          <Typed label="" name="Shadow, {unit}" value={String(shadow[name] ?? usual)} wide={30} {unit} problem={problem(`shadow.${name}`)} onchange={(text) => set({ shadow: { ...shadow, [name]: typedNumber(text) } })} />
        {/each}
      {/if}
    </div>
  {/if}
  <div class="row">
    {#if TAKES_PATHS.includes(format) || here['path']}
      <Checkbox labelText="Outline in the file" checked={Boolean(here['path'])} on:check={(event) => set({ path: event.detail ? 'Outline' : undefined })} />
      {#if here['path']}<Typed label="" name="Name of the outline" value={String(here['path'])} wide={110} problem={problem('path')} onchange={(path) => set({ path: path || undefined })} />{/if}
    {/if}
    <Checkbox labelText="Outline beside it, as SVG" checked={here['svg'] === true} on:check={(event) => set({ svg: event.detail || undefined })} />
  </div>
  <p class="dim">
    The outline belongs to the photo; it is found where the ground is plain, and waits for your eye where that is not certain.
    {#if outline}<a class="plain" href={outline}>Look at the outline</a>{/if}
  </p>
{:else}
  <p class="dim">For objects on white or another plain ground: clear or on a color, all equally large, with a path for layouts.</p>
{/if}

<style>
  .row { display: flex; gap: 6px 14px; flex-wrap: wrap; align-items: center; }
  .shadow { padding-left: 96px; }
  p { font-size: 12px; line-height: 16px; }
  .bad { color: var(--bad); }
</style>
