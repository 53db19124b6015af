<script lang="ts">
  import { VList } from 'virtua/svelte';
  import type { Tray } from '../api/client';
  import { onHint, paced } from '../api/live';
  import { say, trying } from '../shell/notices.svelte';
  import { router } from '../shell/router.svelte';
  import { count } from '../words/numbers';
  import { BoardState, key, type Filter, type Item } from './board.svelte';
  import CellView from './CellView.svelte';
  import ColumnHead from './ColumnHead.svelte';
  import Foot from './Foot.svelte';
  import LightRecipes from './LightRecipes.svelte';
  import Look from './Look.svelte';
  import PhotoFacts from './PhotoFacts.svelte';

  let { tray }: { tray: Tray } = $props();

  // The tray never changes in the life of this component: it is keyed by it.
  // svelte-ignore state_referenced_locally
  const board = new BoardState(tray.id);
  let list = $state<{ scrollToIndex: (index: number, how?: { align: 'nearest' }) => void }>();
  let grid = $state<HTMLElement>();
  let left = $state(0);
  let inner = $state(0);
  let looking = $state(false);
  let failed = $state('');

  const filters: { filter: Filter; name: string }[] = [
    { filter: 'all', name: 'All' },
    { filter: 'unreadable', name: 'Cannot be read' },
    { filter: 'outdated', name: 'Out of date' },
    { filter: 'failed', name: 'Failed' },
  ];
  const columns = $derived(`236px repeat(${board.recipes.length}, minmax(158px, 1fr))`);
  const width = $derived(236 + board.recipes.length * 164);

  $effect(() => {
    board.load().catch((error: Error) => (failed = error.message));
    const reload = paced(() => board.load().catch((error: Error) => say(error.message, true)), 350);
    // A run or a recipe may belong to this tray as well; the server knows.
    return onHint((hint) => {
      if (hint.kind !== 'tray' || hint.id === tray.id) reload();
    });
  });

  // The heads end where the cells do, whatever room the list's scroll bar takes.
  $effect(() => {
    const scroller = grid?.querySelector('.rows > div');
    if (!scroller || board.rows.length === 0) return;
    const observer = new ResizeObserver(() => (inner = scroller.clientWidth));
    observer.observe(scroller);
    return () => observer.disconnect();
  });

  const how = (event: MouseEvent) => ({ shift: event.shiftKey, add: event.ctrlKey || event.metaKey });

  async function make(again = false): Promise<void> {
    await trying(async () => {
      const run = await board.make(again);
      say(`Making ${count(run.counts.total, 'rendition')}`);
    });
  }

  function show(): void {
    const row = board.rows[board.focus.row];
    const index = board.items.findIndex((item) => item.kind === 'row' && item.row === row);
    if (index >= 0) list?.scrollToIndex(index, { align: 'nearest' });
    const cell = board.at(board.focus);
    if (cell) {
      // The row may only now come into being.
      setTimeout(() => {
        const found = grid?.querySelector<HTMLElement>(`[data-cell="${key(cell[0].id, cell[1].recipe)}"]`);
        found?.focus({ preventScroll: true });
        found?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
      }, 30);
    }
  }

  function pressed(event: KeyboardEvent): void {
    if ((event.target as Element).closest('input, textarea, select, .bx--modal, dialog') || looking) return;
    const command = event.ctrlKey || event.metaKey;
    if (command && event.key.toLowerCase() === 'a') board.all();
    else if (command || event.altKey) return;
    else if (event.key === ' ') {
      if ((event.target as Element).closest('button, a')) return;
      void trying(() => board.toggleIncluded());
    } else if (event.key === 'Enter') {
      if ((event.target as Element).closest('button, a')) return;
      looking = board.at(board.focus) !== undefined;
    } else if (event.key === 'Escape') board.clear();
    else if (event.key === 'm') void make();
    else if (event.key === 'e') {
      const recipe = board.recipes[board.focus.column];
      if (recipe) router.go(`/recipes/${recipe.id}`);
    } else if (/^[1-9]$/.test(event.key) && Number(event.key) <= board.recipes.length) {
      board.clickColumn(Number(event.key) - 1, { shift: false, add: false });
    } else if (board.move(event.key, event.shiftKey)) show();
    else return;
    event.preventDefault();
  }

  function openAt(row: number, column: number): void {
    board.focus = { row, column };
    looking = true;
  }
</script>

<svelte:window onkeydown={pressed} />
<div class="bar">
  <div class="filters" role="group" aria-label="Show">
    {#each filters as { filter, name } (filter)}
      {#if filter === 'all' || board.number(filter) > 0 || board.filter === filter}
        <button class="pill" class:chosen={board.filter === filter} aria-pressed={board.filter === filter} onclick={() => (board.filter = filter)}>
          {name} {board.number(filter)}
        </button>
      {/if}
    {/each}
    {#if board.reading}<span class="dim" role="status">reading {count(board.reading, 'photo')}…</span>{/if}
  </div>
  <span class="dim by">by folder, then name</span>
  <LightRecipes {board} />
</div>

{#if failed}
  <p class="empty">{failed}</p>
{:else if !board.board}
  <p class="empty dim" aria-busy="true">Laying out the board…</p>
{:else}
  <div class="grid" role="grid" aria-label="Photos by recipes" aria-multiselectable="true" bind:this={grid} style:--columns={board.recipes.length ? columns : '236px 1fr'} style:--width="{width}px">
    <div class="heads" role="row">
      <div class="slide" style:transform="translateX({-left}px)" style:width={inner ? `${inner - 16}px` : undefined}>
        <button class="corner" style:transform="translateX({left}px)" onclick={() => board.all()} title="Choose all">
          <span class="strong">{count(board.rows.length, 'photo')}</span>
          <span class="dim">each row a photo, everywhere</span>
        </button>
        {#each board.recipes as recipe, column (recipe.id)}
          <ColumnHead {recipe} number={column + 1} onpress={(event) => board.clickColumn(column, how(event))} />
        {:else}
          <p class="none">No recipe stands on this board yet. <a class="plain" href="/recipes">Make one</a>, or light one at the right.</p>
        {/each}
      </div>
    </div>
    {#if board.rows.length === 0}
      <div class="empty">
        {#if board.filter === 'all'}
          <p class="title">This tray is empty</p>
          <p>Drop photos or folders on this window, or make a tray from a folder.</p>
        {:else}
          <p>No photo is like that now.</p>
          <button class="plain" onclick={() => (board.filter = 'all')}>Show all</button>
        {/if}
      </div>
    {:else}
      <div
        class="rows"
        onscrollcapture={(event) => (left = (event.target as HTMLElement).scrollLeft)}
      >
        <!-- The list contains its items' layout: only an item that is itself wide makes it scroll sideways. -->
        <VList
          bind:this={list}
          data={board.items}
          getKey={(item: Item) => item.key}
          itemProps={() => ({ style: { 'min-width': `${width + 16}px` } })}
          style="height: 100%; overflow: auto"
        >
          {#snippet children(item: Item)}
            {#if item.kind === 'folder'}
              <div class="folder" role="presentation"><span class="strong">{item.name || 'no folder'}</span> <span class="dim">{count(item.photos, 'photo')}</span></div>
            {:else}
              <div class="row" role="row">
                <div class="stick"><PhotoFacts photo={item.row.photo} onpress={(event) => board.clickRow(item.index, how(event))} /></div>
                {#if item.row.photo.state === 'unreadable'}
                  <div class="reason" role="gridcell"><span class="strong">{item.row.photo.name} cannot be read.</span> {item.row.photo.reason}</div>
                {:else}
                  {#each board.recipes as recipe, column (recipe.id)}
                    {@const cell = item.row.cells.find((each) => each.recipe === recipe.id)}
                    {#if cell}
                      <CellView
                        photo={item.row.photo}
                        {cell}
                        focused={board.focus.row === item.index && board.focus.column === column}
                        selected={board.selected.has(key(item.row.photo.id, recipe.id))}
                        onpress={(event) => board.click({ row: item.index, column }, how(event))}
                        onopen={() => openAt(item.index, column)}
                      />
                    {:else}
                      <div class="waiting" role="gridcell"></div>
                    {/if}
                  {/each}
                {/if}
              </div>
            {/if}
          {/snippet}
        </VList>
      </div>
    {/if}
  </div>
{/if}
<Foot {board} onmake={(again) => void make(again)} />
<Look bind:open={looking} {board} />

<style>
  .bar { display: flex; align-items: center; gap: 16px; height: 38px; padding: 0 16px; flex: none; }
  .filters { display: flex; gap: 4px; align-items: center; }
  .pill { padding: 3px 10px; color: var(--dim); }
  .pill.chosen { background: var(--sheet); color: var(--ink); font-weight: 600; }
  .by { margin-left: auto; }
  .grid { flex: 1; min-height: 0; display: flex; flex-direction: column; }
  .heads { margin-left: 16px; padding-right: 16px; overflow: hidden; flex: none; }
  .slide, .row { display: grid; grid-template-columns: var(--columns); gap: var(--gap); min-width: var(--width); }
  .corner { position: relative; z-index: 2; background: var(--room); display: grid; align-content: center; font-size: 13px; line-height: 18px; }
  .corner .dim { font-size: 12px; }
  .none { align-self: center; font-size: 13px; }
  .rows { flex: 1; min-height: 0; padding: 6px 0 0 16px; }
  .folder { padding: 8px 0 6px; font-size: 12px; position: sticky; left: 0; width: 400px; }
  .row { height: 134px; padding: 0 16px var(--gap) 0; }
  .stick { position: sticky; left: 0; z-index: 2; background: var(--room); min-width: 0; }
  .waiting { background: #d5d5d3; border-radius: var(--radius); }
  .reason {
    grid-column: 2 / -1; align-self: center; background: var(--bench); border-left: 3px solid var(--bad); border-radius: 0 var(--radius) var(--radius) 0;
    padding: 12px 16px; font-size: 13px; max-width: 760px;
  }
  .empty { margin: auto; display: grid; gap: 10px; justify-items: center; font-size: 13px; flex: 1; align-content: center; }
  .title { font-size: 20px; font-weight: 600; }
</style>
