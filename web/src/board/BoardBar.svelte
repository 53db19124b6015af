<script lang="ts">
  import { Checkbox, Search, TextInput } from 'carbon-components-svelte';
  import { leaveField } from '../shell/escape';
  import { say, trying } from '../shell/notices.svelte';
  import { studio } from '../shell/studio.svelte';
  import { changeTray } from '../trays/make';
  import Panel from '../ui/Panel.svelte';
  import Pick from '../ui/Pick.svelte';
  import Range from '../ui/Range.svelte';
  import { count } from '../words/numbers';
  import { stateWords } from '../words/states';
  import type { BoardState } from './board.svelte';
  import ShowRecipes from './ShowRecipes.svelte';
  import { view } from './view.svelte';

  /** What of the tray is shown, in which order and how large. */
  let { board }: { board: BoardState } = $props();

  const states = [
    ['', 'All'],
    ['eye', 'Need a crop'],
    ['outline', 'Need an outline'],
    ['word', 'Need a word'],
    ['asking', 'Wait for an answer'],
    ['outdated', 'Out of date'],
    ['failed', 'Failed'],
    ['unreadable', 'Cannot be read'],
    ['gone', 'Gone'],
  ] as const;
  const others: [string, string][] = [
    ['', 'every state'],
    ...['planned', 'waiting', 'making', 'done', 'kept', 'excluded'].map((state): [string, string] => [state, stateWords(state)]),
  ];
  const sorts = [
    ['folder', 'by folder'],
    ['name', 'by name'],
    ['taken', 'by time taken'],
    ['shape', 'by shape, widest first'],
    ['pixels', 'by pixels, most first'],
    ['weight', 'by file size, heaviest first'],
  ] as const;
  const shapes = [
    ['', 'every shape'],
    ['landscape', 'landscape'],
    ['portrait', 'portrait'],
    ['square', 'square'],
    ['panorama', 'panorama'],
  ] as const;
  const formats = $derived<[string, string][]>([['', 'every format'], ...(board.board?.formats ?? []).map((format): [string, string] => [format, format])]);

  let timer: ReturnType<typeof setTimeout> | undefined;
  function search(name: string): void {
    clearTimeout(timer);
    timer = setTimeout(() => void trying(() => board.show({ name })), 200);
  }

  const tray = $derived(studio.trays?.find((each) => each.id === board.tray));
  function change(what: { name?: string; archived?: boolean }): void {
    const now = tray;
    if (!now || what.name === now.name || what.name?.trim() === '') return;
    void trying(async () => {
      await changeTray(now, what);
      if (what.archived) say(`${now.name} is archived. What was made of it stays.`, { link: { to: '/archive', text: 'Archived trays' } });
    });
  }

  const show = (how: Parameters<BoardState['show']>[0]) => void trying(() => board.show(how));
</script>

<div class="bar picks">
  <div class="filters" role="group" aria-label="Show">
    {#each states as [state, name] (state)}
      {#if state === '' || board.number(state) > 0 || board.how.state === state}
        <button class="pill" class:chosen={board.how.state === state} class:eye={['eye', 'outline', 'word', 'asking'].includes(state)} aria-pressed={board.how.state === state} onclick={() => show({ state })}>
          {name} {(state === 'eye' ? (board.overview?.eye ?? 0) : board.number(state)).toLocaleString('en-US')}
        </button>
      {/if}
    {/each}
    {#if board.how.picks}<button class="pill chosen" aria-label="Show all photos again" onclick={() => show({ picks: '' })}>guests say {board.how.picks.split(':')[1]} ×</button>{/if}
    {#if board.reading}<span class="dim" role="status">reading {count(board.reading, 'photo')}…</span>{/if}
  </div>
  <div class="search" role="presentation" onkeydowncapture={leaveField}><Search size="sm" placeholder="Find a name" labelText="Find a name" value={board.how.name} on:input={(event) => search((event.target as HTMLInputElement).value)} on:clear={() => search('')} /></div>
  <Pick label="State" value={others.some(([state]) => state === board.how.state) ? board.how.state : ''} options={others} onchange={(state) => show({ state })} />
  <Pick label="Shape" value={board.how.shape} options={shapes} onchange={(shape) => show({ shape })} />
  {#if formats.length > 2}<Pick label="Format" value={board.how.format} options={formats} onchange={(format) => show({ format })} />{/if}
  <Pick label="Order" value={board.how.sort} options={sorts} onchange={(sort) => show({ sort })} />
  <Panel label="View" kind="dim">
    {#snippet children(close)}
      <div class="row"><Range label="Row height" labeled value={view.height} min={84} max={300} step={2} onchange={(height) => view.set({ height })} /></div>
      <div class="row"><Checkbox labelText="Facts of the photos" checked={view.facts} on:check={(event) => view.set({ facts: event.detail })} /></div>
      <div class="row"><Checkbox labelText="What outlets’ pages cover" checked={view.covered} on:check={(event) => view.set({ covered: event.detail })} /></div>
      <button class="item plain" onclick={() => { close(); void trying(async () => say(await board.lookAgain())); }}>Look again at the folders</button>
    {/snippet}
  </Panel>
  <Panel label="Tray" kind="dim" wide={270}>
    {#snippet children(close)}
      <div class="row"><TextInput labelText="Name of the tray" value={tray?.name ?? ''} maxlength={120} on:change={(event) => change({ name: String(event.detail ?? '') })} /></div>
      <button class="item plain" onclick={() => { close(); change({ archived: true }); }}>Archive tray</button>
      <a class="item plain" href="/archive" onclick={close}>Archived trays</a>
    {/snippet}
  </Panel>
  <ShowRecipes {board} />
</div>

<style>
  .bar { display: flex; align-items: center; gap: 8px; height: 38px; padding: 0 16px; flex: none; white-space: nowrap; }
  @media (max-width: 900px) { .bar { height: auto; flex-wrap: wrap; padding: 4px 16px; } }
  .filters { display: flex; gap: 2px; align-items: center; margin-right: auto; min-width: 0; overflow: hidden; }
  .pill { padding: 3px 9px; color: var(--dim); }
  .pill.chosen { background: var(--sheet); color: var(--ink); font-weight: 600; }
  .pill.eye { color: var(--eye); }
  .pill.eye.chosen { background: var(--eye-soft); }
  .search { width: 132px; }
  .row { padding: 6px 8px; }
</style>
