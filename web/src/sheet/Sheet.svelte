<script lang="ts">
  import { VList } from 'virtua/svelte';
  import type { Tray } from '../api/client';
  import { onHint, paced } from '../api/live';
  import { opening } from '../api/query.svelte';
  import { above } from '../shell/keys.svelte';
  import { onEscape } from '../shell/escape';
  import { trying } from '../shell/notices.svelte';
  import { router } from '../shell/router.svelte';
  import { studio } from '../shell/studio.svelte';
  import Failed from '../ui/Failed.svelte';
  import { count } from '../words/numbers';
  import { keep, kept } from './kept';
  import SheetBar from './SheetBar.svelte';
  import SheetRow from './SheetRow.svelte';
  import { SheetState } from './sheet.svelte';

  let { tray }: { tray: Tray } = $props();

  const HEIGHT = 68;
  // The tray never changes in the life of this component: it is keyed by it.
  // svelte-ignore state_referenced_locally
  const sheet = new SheetState(tray.id);
  // svelte-ignore state_referenced_locally
  const before = kept(tray.id);
  let list = $state<{ scrollToIndex: (index: number, how?: { align: 'nearest' }) => void; scrollTo: (offset: number) => void }>();
  let grid = $state<HTMLElement>();
  const opened = opening(async () => {
    if (sheet.pending.size) void trying(() => sheet.keepPending());
    await sheet.load();
    found();
  });
  let top = 0;
  let inner = $state(0);

  const recipes = $derived(studio.recipes ?? []);
  const named = $derived(recipes.find((recipe) => recipe.id === sheet.recipe));
  const columns = $derived(`92px minmax(110px, 10fr) ${sheet.columns.map((column) => `minmax(96px, ${column.wide}fr)`).join(' ')}${named ? ' minmax(150px, 18fr)' : ''}`);
  const width = $derived(230 + sheet.columns.length * 102 + (named ? 156 : 0));
  const numbered = $derived(sheet.photos.filter((photo) => sheet.rows.get(photo)?.named?.numbered).length);
  const unkept = $derived(sheet.pending.size);

  $effect(() => {
    const reload = paced(() => sheet.refresh(), 150);
    return onHint((hint) => {
      if (hint.kind === 'resync') void trying(() => sheet.keepPending());
      if (hint.kind === 'resync' || hint.kind === 'recipe' || (hint.kind === 'tray' && hint.id === tray.id)) reload();
    });
  });

  $effect(() => onEscape(leave));

  $effect(() => {
    const column = sheet.columns[sheet.focus.column];
    const photo = sheet.photos[sheet.focus.row];
    keep(tray.id, { words: sheet.words, recipe: sheet.recipe, ...(column && photo !== undefined ? { focus: [photo, column.word] } : {}) });
  });

  $effect(() => {
    const scroller = grid?.querySelector('.rows > div');
    if (!scroller || sheet.photos.length === 0) return;
    const observer = new ResizeObserver(() => (inner = scroller.clientWidth));
    observer.observe(scroller);
    return () => observer.disconnect();
  });

  $effect(() => () => {
    void sheet.keepDraft().catch(() => undefined); // it stays, and is tried again
    keep(tray.id, { top });
  });

  /** Back where somebody left. */
  function found(): void {
    const asked = new URLSearchParams(router.query).get('photo');
    const [photo, word] = asked ? [Number(asked), 'title'] : (before.focus ?? []);
    const row = photo === undefined ? 0 : Math.max(0, sheet.photos.indexOf(photo));
    sheet.stand({ row, column: Math.max(0, sheet.columns.findIndex((column) => column.word === word)) });
    setTimeout(() => {
      if (before.top) list?.scrollTo(before.top);
      reach();
    }, 30);
  }

  const inGrid = () => grid?.contains(document.activeElement) ?? false;
  /** Whether the table has the focus, or had it last: a row that goes out of view may take it away. */
  let last = $state(false);
  const elsewhere = () => !inGrid() && document.activeElement !== document.body;
  const ours = () => inGrid() || (last && document.activeElement === document.body);

  /** Show and focus the cell; its row may only now come into being. Until then the table has the focus, and its keys. */
  function reach(tries = 150): void {
    if (!inGrid() || document.activeElement?.tagName === 'TEXTAREA') grid?.focus({ preventScroll: true });
    list?.scrollToIndex(sheet.focus.row, { align: 'nearest' });
    const at = `${sheet.focus.row}:${sheet.focus.column}`;
    setTimeout(() => {
      if (at !== `${sheet.focus.row}:${sheet.focus.column}` || sheet.draft !== undefined) return;
      // A row that goes away takes the focus with it; whoever went elsewhere stays there.
      if (elsewhere()) return;
      const cell = cellInFocus();
      if (cell) {
        cell.focus({ preventScroll: true });
        cell.scrollIntoView({ block: 'nearest', inline: 'nearest' });
        // The list may be on its way to a row that was wanted before.
        setTimeout(() => {
          if (document.activeElement !== cell && at === `${sheet.focus.row}:${sheet.focus.column}` && sheet.draft === undefined && !elsewhere()) reach(tries - 1);
        }, 150);
      } else if (tries) reach(tries - 1);
    }, 20);
  }

  const cellInFocus = () => grid?.querySelector<HTMLElement>(`[data-spot="${sheet.focus.row}:${sheet.focus.column}"]`);

  // Rows that come in another order, or go, take the focus with them: whenever they did, their cell takes it again.
  $effect(() => {
    if (!grid) return undefined;
    const watch = new MutationObserver(() => {
      const cell = cellInFocus();
      const active = document.activeElement;
      if (cell && cell !== active && ours() && sheet.draft === undefined && active?.tagName !== 'TEXTAREA') cell.focus({ preventScroll: true });
    });
    watch.observe(grid, { childList: true, subtree: true, attributeFilter: ['data-spot'] });
    return () => watch.disconnect();
  });

  /** Escape outside of a cell: one cell is chosen again, or back to the board. */
  function leave(): boolean {
    if (sheet.draft !== undefined) sheet.draft = undefined;
    else if (sheet.from.row !== sheet.focus.row || sheet.from.column !== sheet.focus.column) sheet.from = sheet.focus;
    else router.go(`/trays/${tray.id}`);
    if (sheet.draft === undefined) reach();
    return true;
  }

  function keptAnd(then: () => void): void {
    void trying(() => sheet.keepDraft());
    then();
    reach();
  }

  const MOVES: Record<string, [number, number]> = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1], PageUp: [-8, 0], PageDown: [8, 0] };

  /** Keys in the table, while nobody types into a cell. */
  function pressed(event: KeyboardEvent): void {
    if (event.defaultPrevented || above(event) || !ours()) return;
    if (sheet.draft !== undefined) return early(event);
    const command = event.ctrlKey || event.metaKey;
    const { row, column } = sheet.focus;
    const move = MOVES[event.key];
    if (event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
      event.preventDefault();
      void trying(() => sheet.move(event.key === 'ArrowUp' ? Math.max(0, sheet.chosen.top - 1) : Math.min(sheet.photos.length, sheet.chosen.bottom + 2))).then(() => reach());
      return;
    }
    if (event.altKey) return;
    if (move && !command) sheet.stand({ row: row + move[0], column: column + move[1] }, event.shiftKey);
    else if (event.key === 'Home') sheet.stand({ row: command ? 0 : row, column: 0 }, event.shiftKey);
    else if (event.key === 'End') sheet.stand({ row: command ? sheet.photos.length - 1 : row, column: sheet.columns.length - 1 }, event.shiftKey);
    else if (event.key === 'Tab' && canTab(event.shiftKey)) sheet.next(event.shiftKey ? -1 : 1);
    else if (event.key === 'Enter' || event.key === 'F2') sheet.draft = sheet.text(sheet.focus);
    else if (command && event.key.toLowerCase() === 'd') void trying(() => sheet.fillDown());
    else if (command && event.key.toLowerCase() === 'a') {
      sheet.from = { row: 0, column: 0 };
      sheet.stand({ row: sheet.photos.length - 1, column: sheet.columns.length - 1 }, true);
    } else if (event.key === 'Delete' || event.key === 'Backspace') void trying(() => sheet.clear());
    else if (!command && event.key.length === 1) sheet.draft = event.key === ' ' ? '' : event.key;
    else return;
    event.preventDefault();
    if (sheet.draft === undefined) reach();
  }

  /** Somebody types faster than the row comes: nothing is lost. */
  function early(event: KeyboardEvent): void {
    if (document.activeElement?.tagName === 'TEXTAREA' || event.altKey || event.ctrlKey || event.metaKey) return;
    if (event.key === 'Enter') keptAnd(() => sheet.stand({ row: sheet.focus.row + 1, column: sheet.focus.column }));
    else if (event.key === 'Tab') keptAnd(() => sheet.next(event.shiftKey ? -1 : 1));
    else if (event.key === 'Backspace') sheet.draft = sheet.draft?.slice(0, -1);
    else if (event.key.length === 1) sheet.draft += event.key;
    else return;
    event.preventDefault();
  }

  /** Tab goes from word to word, and from the last one on out of the table. */
  function canTab(back: boolean): boolean {
    const { row, column } = sheet.focus;
    return back ? row > 0 || column > 0 : row < sheet.photos.length - 1 || column < sheet.columns.length - 1;
  }

  function inTable(event: ClipboardEvent): boolean {
    return sheet.draft === undefined && !above(event) && ours();
  }

  function copy(event: ClipboardEvent): void {
    if (!inTable(event)) return;
    event.preventDefault();
    const rows = sheet.chosenPhotos();
    if (rows.every((photo) => sheet.rows.has(photo))) event.clipboardData?.setData('text/plain', sheet.copiedNow());
    else void trying(async () => navigator.clipboard.writeText(await sheet.copied()));
  }

  function paste(event: ClipboardEvent): void {
    if (!inTable(event)) return;
    event.preventDefault();
    const text = event.clipboardData?.getData('text/plain') ?? '';
    if (text) void trying(() => sheet.paste(text)).then(() => reach());
  }
</script>

<svelte:head><title>{tray.name}, words · Upper Tray</title></svelte:head>
<svelte:window onfocusin={() => (last = inGrid())} onkeydown={pressed} oncopy={copy} onpaste={paste} onpagehide={() => keep(tray.id, { top })} />
<h1 class="visually-hidden">{tray.name}, the words of its photos</h1>
<SheetBar {sheet} {recipes} />

{#if opened.problem}
  <Failed query={opened} />
{:else if !sheet.order}
  <p class="empty dim" aria-busy="true">Laying out the sheet…</p>
{:else if sheet.photos.length === 0}
  <div class="empty">
    {#if sheet.missing || sheet.name}
      <p>{sheet.missing ? 'Every photo has one.' : 'No photos match.'}</p>
      <button class="plain" onclick={() => { sheet.missing = ''; sheet.name = ''; void trying(() => sheet.load()); }}>Show all</button>
    {:else}
      <p class="title">This tray is empty</p>
      <p>Drop photos or folders on this window. Their words come with them.</p>
    {/if}
  </div>
{:else}
  <div class="grid" role="grid" aria-label="Words of photos" aria-multiselectable="true" aria-rowcount={sheet.photos.length + 1} aria-colcount={sheet.columns.length + 2} tabindex="-1" bind:this={grid} style:--columns={columns} style:--width="{width}px">
    <div class="heads" role="row" aria-rowindex="1" style:width={inner ? `${inner}px` : undefined}>
      <span role="columnheader" aria-colindex="1" class="strong head photo">Photo</span>
      {#each sheet.columns as column, at (column.word)}
        <span role="columnheader" aria-colindex={at + 2} class="strong head">{column.name}</span>
      {/each}
      {#if named}<span role="columnheader" aria-colindex={sheet.columns.length + 2} class="strong head">As {named.title} names it</span>{/if}
    </div>
    <div class="rows" role="presentation" onscrollcapture={(event) => (top = (event.target as HTMLElement).scrollTop)}>
      <VList bind:this={list} data={sheet.photos} getKey={(photo: number) => photo} itemSize={HEIGHT} itemProps={() => ({ style: { 'min-width': `${width}px` } })} style="height: 100%; overflow: auto">
        {#snippet children(photo: number, index: number)}
          <SheetRow {sheet} {photo} {index} named={named !== undefined} height={HEIGHT} onkept={keptAnd} onlost={() => grid?.focus({ preventScroll: true })} />
        {/snippet}
      </VList>
    </div>
  </div>
{/if}
<div class="foot">
  <p class="sums">
    {#if sheet.order}
      <span><b>{(sheet.order.total - (sheet.order.missing['title'] ?? 0)).toLocaleString('en-US')}</b> of {count(sheet.order.total, 'photo')} titled</span>
      {#if numbered}<span class="dim">{count(numbered, 'name')} would be the same, and {numbered === 1 ? 'is' : 'are'} numbered</span>{/if}
      {#if unkept}<span class="unkept" role="status">{count(unkept, 'word')} not kept yet</span>{/if}
    {/if}
  </p>
  <div class="do">
    <span class="dim keys"><kbd>Enter</kbd> type, then the next photo · <kbd>Tab</kbd> next word · <kbd>Ctrl D</kbd> as above</span>
    <a class="quiet" href="/trays/{tray.id}">Back to the board</a>
  </div>
</div>

<style>
  .grid { flex: 1; min-height: 0; display: flex; flex-direction: column; padding: 0 0 0 16px; overflow-x: clip; }
  .grid:focus-visible { outline-offset: -3px; }
  .heads { display: grid; grid-template-columns: var(--columns); gap: 0 10px; padding: 4px 26px 8px 10px; min-width: var(--width); font-size: 12px; flex: none; }
  .head { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; padding-left: 8px; }
  .photo { grid-column: 1 / 3; padding-left: 0; }
  .rows { flex: 1; min-height: 0; }
  .empty { margin: auto; display: grid; gap: 10px; justify-items: center; font-size: 13px; flex: 1; align-content: center; }
  .title { font-size: 20px; font-weight: 600; }
  .keys { align-self: center; }
  .unkept { color: var(--eye); font-weight: 600; }
</style>
