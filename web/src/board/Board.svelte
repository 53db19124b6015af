<script lang="ts">
  import { untrack } from 'svelte';
  import { VList } from 'virtua/svelte';
  import type { Recipe, Tray } from '../api/client';
  import { onHint, paced } from '../api/live';
  import { opening } from '../api/query.svelte';
  import { onEscape } from '../shell/escape';
  import { letters, pageKey } from '../shell/keys.svelte';
  import { say, trying } from '../shell/notices.svelte';
  import { router } from '../shell/router.svelte';
  import { steps } from '../shell/steps.svelte';
  import Failed from '../ui/Failed.svelte';
  import { count } from '../words/numbers';
  import Actions from '../ui/Actions.svelte';
  import { BoardState } from './board.svelte';
  import type { Item } from './data.svelte';
  import { addressOf, ALL, howOf, keep, kept } from './kept';
  import BoardBar from './BoardBar.svelte';
  import ColumnHead from './ColumnHead.svelte';
  import FirstSteps from './FirstSteps.svelte';
  import Foot from './Foot.svelte';
  import Look from './Look.svelte';
  import RowView from './RowView.svelte';
  import { view } from './view.svelte';

  let { tray }: { tray: Tray } = $props();

  // The tray never changes in the life of this component: it is keyed by it.
  // svelte-ignore state_referenced_locally
  const before = kept(tray.id);
  // svelte-ignore state_referenced_locally
  const board = new BoardState(tray.id, howOf(router.query) ?? before.how);
  // svelte-ignore state_referenced_locally
  view.of(tray.id);
  let list = $state<{ scrollToIndex: (index: number, how?: { align: 'nearest' }) => void; scrollTo: (offset: number) => void }>();
  let grid = $state<HTMLElement>();
  let left = $state(0);
  let top = 0;
  let inner = $state(0);
  let looking = $state(false);
  const opened = opening(async () => {
    await board.load();
    found();
  });
  /** Making much is said before it starts: by key, nobody has read the button. */
  let sure = $state(false);
  /** The recipe whose number was pressed for many photos, until it is pressed again. */
  let sureBy = 0;
  const MUCH = 20;

  const columns = $derived(`236px repeat(${board.recipes.length}, minmax(158px, 1fr))`);
  const width = $derived(236 + board.recipes.length * 164);
  const shelves = $derived(board.recipes.some((recipe) => recipe.shelf));
  const focused = $derived(board.photos[board.focus.row]);

  $effect(() => {
    const reload = paced(() => board.load(), 120);
    // A run or a recipe may belong to this tray as well; the server knows.
    return onHint((hint) => {
      if (hint.kind !== 'tray' || hint.id === tray.id) reload();
    });
  });

  $effect(() => onEscape(cancel));

  // The address says what is shown, so that it can be shared; the way back through it shows what was shown then.
  $effect(() => {
    keep(tray.id, { how: board.how });
    router.go(addressOf(tray.id, board.how), true);
  });
  $effect(() => {
    const asked = howOf(router.query) ?? ALL;
    if (router.parts[2] === undefined && Object.entries(asked).some(([name, value]) => board.how[name as keyof typeof asked] !== value)) void trying(() => board.show(asked));
  });

  // The heads end where the cells do, whatever room the list's scroll bar takes.
  $effect(() => {
    const scroller = grid?.querySelector('.rows > div');
    if (!scroller || board.photos.length === 0) return;
    const observer = new ResizeObserver(() => (inner = scroller.clientWidth));
    observer.observe(scroller);
    return () => observer.disconnect();
  });

  $effect(() => {
    void board.counts?.to_make;
    sure = false; // what was asked about is another number now
    sureBy = 0;
  });

  const how = (event: MouseEvent) => ({ shift: event.shiftKey, add: event.ctrlKey || event.metaKey });

  /** Back where somebody left: the cell that had the focus, and the rows that were in view. */
  function found(): void {
    const [photo, recipe] = before.focus ?? [];
    const row = photo === undefined ? -1 : board.photos.indexOf(photo);
    if (row < 0) return;
    board.stand({ row, column: Math.max(0, board.recipes.findIndex((each) => each.id === recipe)) });
    setTimeout(() => {
      if (before.top) list?.scrollTo(before.top);
      show();
    }, 30);
  }

  function scrolled(event: Event): void {
    const list = event.target as HTMLElement;
    left = list.scrollLeft;
    top = list.scrollTop;
  }

  /** While a rectangle is drawn at the edge of the list, the list comes along. */
  let along: ReturnType<typeof setInterval> | undefined;
  const EDGE = 36;
  function drawn(event: PointerEvent): void {
    clearInterval(along);
    const rows = grid?.querySelector<HTMLElement>('.rows > div');
    if (event.buttons !== 1 || !board.size || !rows) return;
    const { top: upper, bottom } = rows.getBoundingClientRect();
    const by = event.clientY < upper + EDGE ? -1 : event.clientY > bottom - EDGE ? 1 : 0;
    if (by) along = setInterval(() => rows.scrollBy(0, by * 16), 16);
  }

  function leave(): void {
    const cell = board.keyAt(board.focus)?.split(':').map(Number) as [number, number] | undefined;
    keep(tray.id, { ...(cell ? { focus: cell } : {}), top });
  }

  $effect(() => () => {
    clearInterval(along);
    leave();
  });

  async function make(again = false): Promise<void> {
    sure = false;
    await trying(async () => {
      const run = await board.make(again);
      steps.did('make');
      const asking = run.counts.asking ? `; ${run.counts.asking} more wait for your answer` : '';
      say(`Making ${count(run.counts.total - run.counts.asking, 'rendition')}${asking}`);
    });
  }

  async function makeBy(recipe: Recipe, digit: string): Promise<void> {
    if (board.picked.size > MUCH && sureBy !== recipe.id) {
      sureBy = recipe.id;
      say(`Press ${digit} again to make ${count(board.picked.size, 'photo')} by ${recipe.title}`);
      return;
    }
    sureBy = 0;
    const run = await board.makeBy(recipe);
    if (run) say(`Making ${count(run.counts.total - run.counts.asking, 'rendition')} by ${recipe.title}`);
  }

  function makeByKey(): void {
    const counts = board.counts;
    if (!counts?.to_make) return;
    if (counts.to_make > MUCH && !sure) sure = true;
    else void make();
  }

  /** Escape on the board: not sure after all, or nothing chosen any more. */
  function cancel(): boolean {
    if (sure) sure = false;
    else if (board.size || board.hidden) board.clear();
    else return false;
    return true;
  }

  function show(): void {
    const index = board.items.findIndex((item) => item.kind === 'row' && item.index === board.focus.row);
    if (index >= 0) list?.scrollToIndex(index, { align: 'nearest' });
    // The row may only now come into being.
    setTimeout(() => reach(board.keyAt(board.focus), 60), 30);
  }

  /** Focus a cell that is not there before its row has come; until then the grid has the focus. */
  function reach(name: string | undefined, tries: number): void {
    if (name === undefined || name !== board.keyAt(board.focus)) return;
    const found = grid?.querySelector<HTMLElement>(`[data-cell="${name}"]`);
    if (found) {
      found.focus({ preventScroll: true });
      found.scrollIntoView({ block: 'nearest', inline: 'nearest' });
    } else if (tries) {
      grid?.focus({ preventScroll: true });
      setTimeout(() => reach(name, tries - 1), 50);
    }
  }

  /** To the bench where there is something to frame, or else a closer look. */
  function open(): void {
    const found = board.at(board.focus);
    const recipe = board.recipes[board.focus.column];
    if (!found || !recipe) return;
    const state = found[1].state;
    if (state === 'asking') router.go('/questions');
    else if (state === 'outline') router.go(`/trays/${tray.id}/bench/${found[0].id}/${recipe.id}/outline`);
    else if (state === 'word') router.go(`/trays/${tray.id}/words?photo=${found[0].id}`);
    else if (['keep', 'stretch'].includes(recipe.drawing.way)) looking = true;
    else router.go(`/trays/${tray.id}/bench/${found[0].id}/${recipe.id}`);
  }

  async function throughTheList(): Promise<void> {
    const [first] = await board.waiting();
    if (first) router.go(`/trays/${tray.id}/bench/${first.photo}/${first.recipe}`);
    else say('No photo needs a crop.');
  }

  function pressed(event: KeyboardEvent): void {
    if (looking) return;
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'a' && !(event.target as Element).closest('input, textarea, .bx--modal')) {
      board.all();
      event.preventDefault();
      return;
    }
    const key = pageKey(event);
    if (key === undefined) return;
    const digit = /^(?:Digit|Numpad)([1-9])$/.exec(event.code)?.[1];
    const by = digit === undefined || !letters.on ? undefined : board.recipes[Number(digit) - 1];
    if (digit && by) {
      if (event.shiftKey) board.clickColumn(Number(digit) - 1, { shift: false, add: false });
      else void trying(() => makeBy(by, digit));
    } else if (key === ' ') void trying(() => board.toggleIncluded());
    else if (key === 'Enter') sure ? void make() : open();
    else if (key === 'i') looking = board.at(board.focus) !== undefined;
    else if (key === 'l') void trying(throughTheList);
    else if (key === 'm') makeByKey();
    else if (key === '/') grid?.parentElement?.querySelector<HTMLElement>('input[type=text], input[type=search]')?.focus();
    else if (key === '-' || key === '+' || key === '=') view.set({ height: view.height + (key === '-' ? -24 : 24) });
    else if (key === 'e') {
      const recipe = board.recipes[board.focus.column];
      if (recipe) router.go(`/recipes/${recipe.id}`);
    } else if (board.move(key, event.shiftKey)) show();
    else return;
    event.preventDefault();
  }

  $effect(() => {
    if (looking) untrack(() => steps.did('crop'));
  });

  function openAt(row: number, column: number): void {
    board.focus = { row, column };
    open();
  }

  const by = (rule: 'shape' | 'state', value: string) => () => void trying(() => board.chooseBy(rule, value));
  const rules = [
    { text: 'Everything shown', do: () => board.all() },
    { text: 'What needs a crop', do: by('state', 'eye') },
    { text: 'Landscape photos', do: by('shape', 'landscape') },
    { text: 'Portrait photos', do: by('shape', 'portrait') },
    { text: 'Square photos', do: by('shape', 'square') },
    { text: 'Panoramas', do: by('shape', 'panorama') },
    { text: 'Photos with something out of date', do: by('state', 'outdated') },
  ];
</script>

<svelte:head><title>{tray.name} · Upper Tray</title></svelte:head>
<svelte:window onkeydown={pressed} onpagehide={leave} onpointermove={drawn} onpointerup={() => clearInterval(along)} />
<h1 class="visually-hidden">{tray.name}, the board</h1>
<BoardBar {board} />
{#if steps.open && board.photos.length}<FirstSteps />{/if}

{#if opened.problem}
  <Failed query={opened} />
{:else if !board.board}
  <p class="empty dim" aria-busy="true">Laying out the board…</p>
{:else}
  <div
    class="grid"
    role="grid"
    aria-label="Photos by recipes"
    aria-multiselectable="true"
    aria-rowcount={board.photos.length + 1}
    aria-colcount={board.recipes.length + 1}
    data-step={steps.now}
    tabindex={focused !== undefined && board.inPage.has(focused) ? -1 : 0}
    bind:this={grid}
    style:--columns={board.recipes.length ? columns : '236px 1fr'}
    style:--width="{width}px"
  >
    <div class="heads" role="row" aria-rowindex="1" aria-label="Recipes">
      <div class="slide" role="presentation" style:transform="translateX({-left}px)" style:width={inner ? `${inner - 16}px` : undefined}>
        <div class="corner" role="columnheader" aria-colindex="1" style:transform="translateX({left}px)">
          <button class="strong" onclick={() => board.all()} title="Choose all that is shown">{count(board.photos.length, 'photo')}</button>
          <Actions label="Choose…" kind="dim" actions={rules} />
        </div>
        {#each board.recipes as recipe, column (recipe.id)}
          <div class="headed" role="presentation">
            {#if shelves}<p class="shelf dim">{recipe.shelf !== board.recipes[column - 1]?.shelf || column === 0 ? recipe.shelf || 'No shelf' : ''}</p>{/if}
            <ColumnHead {recipe} number={column + 1} onpress={(event) => board.clickColumn(column, how(event))} onmove={(from, to) => void trying(() => board.moveColumn(from, to))} />
          </div>
        {:else}
          <p class="none">No recipes on this board yet. <a class="plain" href="/recipes">Make one</a>, or show one by “Show recipes” at the right.</p>
        {/each}
      </div>
    </div>
    {#if board.photos.length === 0}
      <div class="empty">
        {#if board.filtered}
          <p>No photos match.</p>
          <button class="plain" onclick={() => void trying(() => board.show({ name: '', shape: '', format: '', state: '' }))}>Show all</button>
        {:else}
          <p class="title">This tray is empty</p>
          <p>Drop photos or folders on this window, or gather them from a folder.</p>
        {/if}
      </div>
    {:else}
      <div
        class="rows"
        role="presentation"
        onscrollcapture={scrolled}
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
              <RowView {board} photo={item.photo} index={item.index} onopen={openAt} onlost={() => grid?.focus({ preventScroll: true })} />
            {/if}
          {/snippet}
        </VList>
      </div>
    {/if}
  </div>
{/if}
<Foot {board} {sure} onmake={(again) => void make(again)} oncancel={() => (sure = false)} oneye={() => void trying(throughTheList)} />
<Look bind:open={looking} {board} />

<style>
  .grid { flex: 1; min-height: 0; display: flex; flex-direction: column; }
  .grid[data-step='recipe'] :global(.change) { outline: 2px dashed var(--accent); outline-offset: 2px; border-radius: 3px; opacity: 1; }
  .grid:focus-visible { outline-offset: -3px; }
  .heads { position: relative; z-index: 5; margin-left: 16px; padding-right: 16px; flex: none; clip-path: inset(-4px 0 -400px 0); }
  .slide { display: grid; grid-template-columns: var(--columns); gap: var(--gap); min-width: var(--width); align-items: end; }
  .corner { position: relative; z-index: 3; background: var(--room); display: flex; gap: 12px; align-items: center; align-self: stretch; font-size: 13px; }
  .corner > :global(button) { height: 100%; }
  .headed { min-width: 0; }
  .shelf { font-size: 11px; line-height: 16px; height: 16px; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
  .none { align-self: center; font-size: 13px; }
  .rows { flex: 1; min-height: 0; padding: 6px 0 0 16px; }
  .folder { padding: 8px 0 6px; font-size: 12px; position: sticky; left: 0; width: 400px; }
  .empty { margin: auto; display: grid; gap: 10px; justify-items: center; font-size: 13px; flex: 1; align-content: center; }
  .title { font-size: 20px; font-weight: 600; }
</style>
