<script lang="ts">
  import { say, trying } from '../shell/notices.svelte';
  import { undo } from '../shell/undo.svelte';
  import { changeTray } from '../trays/make';
  import Menu from '../ui/Menu.svelte';
  import { count } from '../words/numbers';
  import { stateWords } from '../words/states';
  import type { BoardState } from './board.svelte';
  import LightRecipes from './LightRecipes.svelte';
  import { view } from './view.svelte';

  /** What of the tray is shown, in which order and how large. */
  let { board }: { board: BoardState } = $props();

  const states = [
    ['', 'All'],
    ['eye', 'Need an eye'],
    ['outdated', 'Out of date'],
    ['failed', 'Failed'],
    ['unreadable', 'Cannot be read'],
    ['gone', 'Gone'],
  ] as const;
  const others = [
    ['', 'every state'],
    ...['planned', 'waiting', 'making', 'done', 'kept', 'excluded'].map((state) => [state, stateWords(state)]),
  ];
  const sorts = [
    ['folder', 'by folder'],
    ['name', 'by name'],
    ['taken', 'by time taken'],
    ['shape', 'by shape, widest first'],
    ['size', 'by size, largest first'],
  ] as const;
  const shapes = [
    ['', 'every shape'],
    ['landscape', 'landscape'],
    ['portrait', 'portrait'],
    ['square', 'square'],
    ['panorama', 'panorama'],
  ] as const;

  let timer: ReturnType<typeof setTimeout> | undefined;
  function search(name: string): void {
    clearTimeout(timer);
    timer = setTimeout(() => void trying(() => board.show({ name })), 200);
  }

  function rename(name: string): void {
    const before = board.board?.name ?? '';
    if (!name.trim() || name === before) return;
    void trying(async () => {
      await changeTray(board.tray, { name });
      undo.push(`renamed the tray to ${name}`, () => changeTray(board.tray, { name: before }));
    });
  }

  function away(): void {
    const { tray } = board;
    void trying(async () => {
      await changeTray(tray, { archived: true });
      undo.push('put the tray away', () => changeTray(tray, { archived: false }));
      say('The tray is put away; Ctrl Z brings it back. What was made of it stays.');
    });
  }

  const show = (how: Parameters<BoardState['show']>[0]) => void trying(() => board.show(how));
</script>

<div class="bar">
  <div class="filters" role="group" aria-label="Show">
    {#each states as [state, name] (state)}
      {#if state === '' || board.number(state) > 0 || board.how.state === state}
        <button class="pill" class:chosen={board.how.state === state} class:eye={state === 'eye'} aria-pressed={board.how.state === state} onclick={() => show({ state })}>
          {name} {state === 'eye' ? (board.overview?.eye ?? 0) : board.number(state)}
        </button>
      {/if}
    {/each}
    {#if board.reading}<span class="dim" role="status">reading {count(board.reading, 'photo')}…</span>{/if}
  </div>
  <input class="search" type="search" placeholder="Find a name" aria-label="Find a name" value={board.how.name} oninput={(event) => search(event.currentTarget.value)} />
  <select aria-label="State" value={others.some(([state]) => state === board.how.state) ? board.how.state : ''} onchange={(event) => show({ state: event.currentTarget.value })}>
    {#each others as [state, name] (state)}<option value={state}>{name}</option>{/each}
  </select>
  <select aria-label="Shape" value={board.how.shape} onchange={(event) => show({ shape: event.currentTarget.value })}>
    {#each shapes as [shape, name] (shape)}<option value={shape}>{name}</option>{/each}
  </select>
  {#if (board.board?.formats.length ?? 0) > 1}
    <select aria-label="Format" value={board.how.format} onchange={(event) => show({ format: event.currentTarget.value })}>
      <option value="">every format</option>
      {#each board.board?.formats ?? [] as format (format)}<option value={format}>{format}</option>{/each}
    </select>
  {/if}
  <select aria-label="Order" value={board.how.sort} onchange={(event) => show({ sort: event.currentTarget.value })}>
    {#each sorts as [sort, name] (sort)}<option value={sort}>{name}</option>{/each}
  </select>
  <Menu label="View" kind="dim">
    {#snippet children()}
      <label class="row">Row height <input type="range" min="84" max="300" step="2" value={view.height} oninput={(event) => view.set({ height: Number(event.currentTarget.value) })} /></label>
      <label class="row"><input type="checkbox" checked={view.facts} onchange={(event) => view.set({ facts: event.currentTarget.checked })} /> Facts of the photos</label>
      <button class="item plain" onclick={() => void trying(async () => say(await board.lookAgain()))}>Look again at the folders</button>
      <label class="row">Tray <input class="name" value={board.board?.name ?? ''} maxlength="120" aria-label="Name of the tray" onchange={(event) => rename(event.currentTarget.value)} /></label>
      <button class="item plain" onclick={away}>Put the tray away</button>
    {/snippet}
  </Menu>
  <LightRecipes {board} />
</div>

<style>
  .bar { display: flex; align-items: center; gap: 12px; height: 38px; padding: 0 16px; flex: none; white-space: nowrap; }
  .filters { display: flex; gap: 2px; align-items: center; margin-right: auto; min-width: 0; overflow: hidden; }
  .pill { padding: 3px 9px; color: var(--dim); }
  .pill.chosen { background: var(--sheet); color: var(--ink); font-weight: 600; }
  .pill.eye { color: var(--eye); }
  .pill.eye.chosen { background: var(--eye-soft); }
  .search { width: 108px; background: transparent; border: 0; border-bottom: 1px solid #93938f; padding: 2px; outline-offset: 3px; }
  .search::placeholder { color: var(--dim); }
  select {
    appearance: none; background: transparent; border: 0; color: var(--dim); padding: 2px 14px 2px 2px; cursor: pointer; border-radius: 4px; max-width: 128px; text-overflow: ellipsis;
    background-image: linear-gradient(45deg, transparent 50%, var(--dim) 50%), linear-gradient(-45deg, transparent 50%, var(--dim) 50%);
    background-position: right 5px center, right 1px center; background-size: 4px 4px; background-repeat: no-repeat;
  }
  select { field-sizing: content; }
  select:hover { color: var(--ink); }
  .row { display: flex; gap: 8px; align-items: center; padding: 6px 8px; }
  .row .name { flex: 1; border: 1px solid #93938f; border-radius: 3px; background: #f1f1ef; padding: 2px 6px; }
  .row input { accent-color: var(--accent); min-width: 0; }
</style>
