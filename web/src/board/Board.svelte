<script lang="ts">
  import { VList } from 'virtua/svelte';
  import type { Tray } from '../api/client';
  import { onHint, paced } from '../api/live';
  import { say, trying } from '../shell/notices.svelte';
  import { router } from '../shell/router.svelte';
  import { count } from '../words/numbers';
  import Menu from '../ui/Menu.svelte';
  import { BoardState } from './board.svelte';
  import type { Item } from './data.svelte';
  import BoardBar from './BoardBar.svelte';
  import ColumnHead from './ColumnHead.svelte';
  import Foot from './Foot.svelte';
  import Look from './Look.svelte';
  import RowView from './RowView.svelte';
  import { view } from './view.svelte';

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

  const columns = $derived(`236px repeat(${board.recipes.length}, minmax(158px, 1fr))`);
  const width = $derived(236 + board.recipes.length * 164);
  const shelves = $derived(board.recipes.some((recipe) => recipe.shelf));

  $effect(() => {
    board.load().catch((error: Error) => (failed = error.message));
    const reload = paced(() => board.load().catch((error: Error) => say(error.message, true)), 120);
    // A run or a recipe may belong to this tray as well; the server knows.
    return onHint((hint) => {
      if (hint.kind !== 'tray' || hint.id === tray.id) reload();
    });
  });

  // The heads end where the cells do, whatever room the list's scroll bar takes.
  $effect(() => {
    const scroller = grid?.querySelector('.rows > div');
    if (!scroller || board.photos.length === 0) return;
    const observer = new ResizeObserver(() => (inner = scroller.clientWidth));
    observer.observe(scroller);
    return () => observer.disconnect();
  });

  const how = (event: MouseEvent) => ({ shift: event.shiftKey, add: event.ctrlKey || event.metaKey });

  async function make(again = false): Promise<void> {
    await trying(async () => {
      const run = await board.make(again);
      const asking = run.counts.asking ? `; ${run.counts.asking} more wait for an eye` : '';
      say(`Making ${count(run.counts.total - run.counts.asking, 'rendition')}${asking}`);
    });
  }

  function show(): void {
    const index = board.items.findIndex((item) => item.kind === 'row' && item.index === board.focus.row);
    if (index >= 0) list?.scrollToIndex(index, { align: 'nearest' });
    const name = board.keyAt(board.focus);
    // The row may only now come into being.
    setTimeout(() => {
      const found = grid?.querySelector<HTMLElement>(`[data-cell="${name}"]`);
      found?.focus({ preventScroll: true });
      found?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
    }, 30);
  }

  /** To the bench where there is something to frame, or else a closer look. */
  function open(): void {
    const found = board.at(board.focus);
    const recipe = board.recipes[board.focus.column];
    if (!found || !recipe) return;
    if (['keep', 'stretch'].includes(recipe.drawing.way)) looking = true;
    else router.go(`/trays/${tray.id}/bench/${found[0].id}/${recipe.id}`);
  }

  async function throughTheList(): Promise<void> {
    const [first] = await board.waiting();
    if (first) router.go(`/trays/${tray.id}/bench/${first.photo}/${first.recipe}`);
  }

  function pressed(event: KeyboardEvent): void {
    if ((event.target as Element).closest('input, textarea, select, .bx--modal, dialog') || looking) return;
    const command = event.ctrlKey || event.metaKey;
    const onButton = (event.target as Element).closest('button, a') !== null;
    if (command && event.key.toLowerCase() === 'a') board.all();
    else if (command || event.altKey) return;
    else if (event.key === ' ') {
      if (onButton) return;
      void trying(() => board.toggleIncluded());
    } else if (event.key === 'Enter') {
      if (onButton) return;
      open();
    } else if (event.key === 'i') looking = board.at(board.focus) !== undefined;
    else if (event.key === 'l') void trying(throughTheList);
    else if (event.key === 'Escape') board.clear();
    else if (event.key === 'm') void make();
    else if (event.key === '/') grid?.parentElement?.querySelector<HTMLElement>('input[type=search]')?.focus();
    else if (event.key === '-' || event.key === '+') view.set({ height: view.height + (event.key === '+' ? 24 : -24) });
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
    open();
  }

  const rules = [
    ['everything', () => board.all()],
    ['what needs an eye', () => board.chooseBy('state', 'eye')],
    ['landscape photos', () => board.chooseBy('shape', 'landscape')],
    ['portrait photos', () => board.chooseBy('shape', 'portrait')],
    ['square photos', () => board.chooseBy('shape', 'square')],
    ['panoramas', () => board.chooseBy('shape', 'panorama')],
    ['photos with something out of date', () => board.chooseBy('state', 'outdated')],
  ] as const;
</script>

<svelte:window onkeydown={pressed} />
<BoardBar {board} />

{#if failed}
  <p class="empty">{failed}</p>
{:else if !board.board}
  <p class="empty dim" aria-busy="true">Laying out the board…</p>
{:else}
  <div class="grid" role="grid" aria-label="Photos by recipes" aria-multiselectable="true" bind:this={grid} style:--columns={board.recipes.length ? columns : '236px 1fr'} style:--width="{width}px">
    <div class="heads" role="row">
      <div class="slide" style:transform="translateX({-left}px)" style:width={inner ? `${inner - 16}px` : undefined}>
        <div class="corner" style:transform="translateX({left}px)">
          <button class="strong" onclick={() => board.all()} title="Choose all">{count(board.photos.length, 'photo')}</button>
          <Menu label="Choose…" kind="dim" start wide={230}>
            {#snippet children(close)}
              {#each rules as [name, choose] (name)}
                <button class="item" onclick={() => { close(); void trying(async () => { await choose(); }); }}>{name}</button>
              {/each}
            {/snippet}
          </Menu>
        </div>
        {#each board.recipes as recipe, column (recipe.id)}
          <div class="headed">
            {#if shelves}<p class="shelf dim">{recipe.shelf !== board.recipes[column - 1]?.shelf ? recipe.shelf : ''}</p>{/if}
            <ColumnHead {recipe} number={column + 1} onpress={(event) => board.clickColumn(column, how(event))} onmove={(from, to) => void trying(() => board.moveColumn(from, to))} />
          </div>
        {:else}
          <p class="none">No recipe stands on this board yet. <a class="plain" href="/recipes">Make one</a>, or light one at the right.</p>
        {/each}
      </div>
    </div>
    {#if board.photos.length === 0}
      <div class="empty">
        {#if board.filtered}
          <p>No photo is like that now.</p>
          <button class="plain" onclick={() => void trying(() => board.show({ name: '', shape: '', format: '', state: '' }))}>Show all</button>
        {:else}
          <p class="title">This tray is empty</p>
          <p>Drop photos or folders on this window, or make a tray from a folder.</p>
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
          itemSize={view.height}
          itemProps={() => ({ style: { 'min-width': `${width + 16}px` } })}
          style="height: 100%; overflow: auto"
        >
          {#snippet children(item: Item)}
            {#if item.kind === 'folder'}
              <div class="folder" role="presentation"><span class="strong">{item.name || 'no folder'}</span> <span class="dim">{count(item.photos, 'photo')}</span></div>
            {:else}
              <RowView {board} photo={item.photo} index={item.index} onopen={openAt} />
            {/if}
          {/snippet}
        </VList>
      </div>
    {/if}
  </div>
{/if}
<Foot {board} onmake={(again) => void make(again)} oneye={() => void trying(throughTheList)} />
<Look bind:open={looking} {board} />

<style>
  .grid { flex: 1; min-height: 0; display: flex; flex-direction: column; }
  .heads { position: relative; z-index: 5; margin-left: 16px; padding-right: 16px; flex: none; clip-path: inset(-4px 0 -400px 0); }
  .slide { display: grid; grid-template-columns: var(--columns); gap: var(--gap); min-width: var(--width); align-items: end; }
  .corner { position: relative; z-index: 3; background: var(--room); display: flex; gap: 12px; align-items: center; align-self: stretch; font-size: 13px; }
  .corner > button { height: 100%; }
  .headed { min-width: 0; }
  .shelf { font-size: 11px; line-height: 16px; height: 16px; white-space: nowrap; }
  .none { align-self: center; font-size: 13px; }
  .rows { flex: 1; min-height: 0; padding: 6px 0 0 16px; }
  .folder { padding: 8px 0 6px; font-size: 12px; position: sticky; left: 0; width: 400px; }
  .empty { margin: auto; display: grid; gap: 10px; justify-items: center; font-size: 13px; flex: 1; align-content: center; }
  .title { font-size: 20px; font-weight: 600; }
</style>
