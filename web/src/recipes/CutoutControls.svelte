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
  const SHADOW = [['strength', 35, '% dark'], ['blur', 3, '% wide'], ['down', 2, '% down'], ['across', 0, '% right']] as const;
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
    ['none', 'not cut'],
    ...(KEEPS_CLEAR.includes(format) || ground === 'clear' ? [['clear', 'clear']] : []),
    ['color', 'color'],
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
    <Choice label="Frame" value={fit} options={[['no', 'as it says'], ['box', 'around it'], ['area', 'equally large']]} onchange={(way) => set({ fit: way === 'no' ? undefined : way })} />
    {#if fit !== 'no'}<Typed label="" name="Margin" value={String(here['margin'] ?? 8)} wide={26} unit="%" problem={problem('margin')} onchange={(text) => set({ margin: typedNumber(text) })} />{/if}
  </div>
  {#if problem('fit')}<p class="bad">{problem('fit')}</p>{/if}
  {#if ground !== 'keep'}
    <div class="labeled">
      <span aria-hidden="true">Shadow</span>
      <div class="row">
        <Checkbox labelText={shadow ? 'soft' : 'soft, below the object'} checked={shadow !== undefined} on:check={(event) => set({ shadow: event.detail ? (shadow ?? {}) : undefined })} />
        {#if shadow}
          {#each SHADOW as [name, usual, unit] (name)}
            <Typed label="" name="Shadow, {unit}" value={String(shadow[name] ?? usual)} wide={26} {unit} problem={problem(`shadow.${name}`)} onchange={(text) => set({ shadow: { ...shadow, [name]: typedNumber(text) } })} />
          {/each}
        {/if}
      </div>
    </div>
  {/if}
  <div class="labeled">
    <span aria-hidden="true">Outline</span>
    <div class="row">
      {#if TAKES_PATHS.includes(format) || here['path']}<Checkbox labelText="in the file" checked={Boolean(here['path'])} on:check={(event) => set({ path: event.detail ? 'Outline' : undefined })} />{/if}
      {#if here['path']}<Typed label="" name="Name of the outline" value={String(here['path'])} wide={72} problem={problem('path')} onchange={(path) => set({ path: path || undefined })} />{/if}
      <Checkbox labelText="beside it, as SVG" checked={here['svg'] === true} on:check={(event) => set({ svg: event.detail || undefined })} />
      {#if outline}<a class="plain" href={outline}>Look at it</a>{/if}
    </div>
  </div>
{:else}
  <p class="dim">For objects on white or another plain ground: clear or on a color, all equally large, with a path for layouts. The outline is found automatically; where it is not certain, it waits for you to look.</p>
{/if}

<style>
  .row { display: flex; gap: 4px 10px; flex-wrap: wrap; align-items: center; }
  .labeled { display: grid; grid-template-columns: 84px 1fr; gap: 4px 12px; align-items: center; font-size: 13px; }
  p { font-size: 12px; line-height: 16px; }
  .bad { color: var(--bad); }
</style>
