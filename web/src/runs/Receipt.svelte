<script lang="ts">
  import { Checkbox } from 'carbon-components-svelte';
  import type { Rendition } from '../api/client';
  import CutName from '../ui/CutName.svelte';
  import StateMark from '../ui/StateMark.svelte';
  import { copyPath } from './paths';
  import { bytes, pixels } from '../words/numbers';
  import { stateWords } from '../words/states';

  interface Read {
    width: number;
    height: number;
    bytes: number;
    format: string;
    profile: string | null;
    metadata?: string;
    score?: number | null;
    differences: string[];
    notes: string[];
  }

  interface Props {
    row: Rendition;
    ticked: boolean;
    ontick: (on: boolean) => void;
    onlook: () => void;
    onagain: () => void;
  }
  let { row, ticked, ontick, onlook, onagain }: Props = $props();

  const METADATA: Record<string, string> = { rights: 'rights', all: 'all metadata' };

  const read = $derived(row.receipt as unknown as Read | null);
  const file = $derived(`/api/renditions/${row.id}/file`);
  const picture = $derived(`/api/pictures/cells/${row.photo}/${row.version}?edge=112`);
</script>

<div class="receipt" role="listitem" class:failed={row.state === 'failed' || row.lost} data-rendition={row.id} data-state={row.state}>
  <div class="tick">{#if row.state === 'made' && !row.lost}<Checkbox labelText="Choose {row.name}" hideLabel checked={ticked} on:check={(event) => event.detail !== ticked && ontick(event.detail)} />{/if}</div>
  {#if row.state === 'made' && !row.lost}
    <button class="picture" aria-label="Look at {row.name} beside its original" onclick={onlook}><img src={picture} alt="" loading="lazy" /></button>
  {:else}
    <div class="picture"><img src={picture} alt="" loading="lazy" /></div>
  {/if}
  <div class="who">
    <p class="name" title={row.name}><CutName name={row.name} /></p>
    <p class="dim place" title="{row.recipe_title}{row.parts > 1 ? `, ${row.part} of ${row.parts}` : ''}, {row.place}">{row.recipe_title}{row.parts > 1 ? `, ${row.part} of ${row.parts}` : ''} · {row.place}</p>
  </div>
  <div class="state"><StateMark state={row.state} /> {row.lost ? `file ${row.lost}` : stateWords(row.state)}</div>
  {#if read}
    <div class="number">{pixels(read.width, read.height)}<br /><span class="dim planned" class:off={read.width !== row.width || read.height !== row.height}>planned {pixels(row.width, row.height)}</span></div>
    <div class="number">{bytes(read.bytes)}<br />{#if row.about}<span class="dim planned">planned {bytes(row.about)}</span>{/if}</div>
    <div>{read.format} · {read.profile ?? 'no profile'}{#if read.score}<br /><span class="dim">score {read.score}</span>{/if}{#if METADATA[read.metadata ?? '']}<br /><span class="dim">{METADATA[read.metadata ?? '']}</span>{/if}</div>
    <div class="links" class:lost={row.lost}>
      <a class="plain" href={file} target="_blank" aria-label="Open {row.name}">Open</a>
      <a class="plain" href="{file}?download=true" download={row.name} aria-label="Download {row.name}">Download</a>
      {#if row.path}<button class="plain" title={row.path} aria-label="Copy the path of {row.name}" onclick={() => void copyPath(row.path)}>Path</button>{/if}
    </div>
    {#if row.lost}<div class="notes bad">{row.error}</div>{/if}
    {#if read.differences.length || read.notes.length}
      <div class="notes">
        {#each read.differences as text (text)}<p class="bad">{text}</p>{/each}
        {#each read.notes as text (text)}<p>{text}</p>{/each}
      </div>
    {/if}
  {:else}
    <div class="number dim">{pixels(row.width, row.height)}</div>
    {#if row.state === 'failed'}<div class="links again"><button class="plain" aria-label="Try {row.name} again" onclick={onagain}>Try again</button></div>{/if}
    {#if row.error}<div class="notes bad">{row.error}</div>{/if}
  {/if}
</div>

<style>
  .receipt {
    display: grid; grid-template-columns: 22px 56px minmax(130px, 1fr) 86px 112px 92px 104px 148px; gap: 2px 14px; align-items: center;
    background: var(--bench); border-radius: var(--radius); padding: 6px 12px 6px 6px; min-height: 56px;
  }
  .receipt.failed { background: var(--bad-soft); }
  .picture { grid-area: 1 / 2; width: 56px; height: 44px; display: grid; place-items: center; }
  img { max-width: 56px; max-height: 44px; display: block; }
  .tick { grid-area: 1 / 1; width: 22px; overflow: hidden; }
  .who { min-width: 0; }
  .name { font-weight: 600; font-size: 13px; }
  .place { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
  .state { display: flex; gap: 6px; align-items: center; }
  .number { text-align: right; white-space: nowrap; }
  .links { display: flex; gap: 12px; justify-content: flex-end; }
  .again { grid-column: 8; }
  .planned { font-size: 11px; }
  .planned.off { color: var(--bad); }
  .links a { text-decoration: none; }
  .links.lost { visibility: hidden; }
  .links a:hover { text-decoration: underline; text-underline-offset: 3px; }
  .notes { grid-column: 3 / -1; min-width: 0; color: var(--dim); overflow-wrap: anywhere; }
  .bad { color: var(--bad); }
</style>
