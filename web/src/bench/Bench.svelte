<script lang="ts">
  import { onHint, paced } from '../api/live';
  import { opening } from '../api/query.svelte';
  import Choice from '../recipes/Choice.svelte';
  import { onEscape } from '../shell/escape';
  import { above, pageKey, typing } from '../shell/keys.svelte';
  import { say, trying } from '../shell/notices.svelte';
  import { router } from '../shell/router.svelte';
  import { undo } from '../shell/undo.svelte';
  import { coveredOf } from '../ui/CoveredParts.svelte';
  import Failed from '../ui/Failed.svelte';
  import Range from '../ui/Range.svelte';
  import { BenchState } from './bench.svelte';
  import { moved, quarter, zoomed } from './geometry';
  import Side from './Side.svelte';
  import Stage from './Stage.svelte';
  import Tabs from './Tabs.svelte';

  let { tray, photo, recipe }: { tray: number; photo: number; recipe: number } = $props();

  // Keyed by its cell: none of the three changes in its life.
  // svelte-ignore state_referenced_locally
  const bench = new BenchState(tray, photo, recipe);
  const opened = opening(() => bench.load());
  let busy = $state(false);
  let guides = $state('thirds');
  const LIST_WAIT = 800;
  const GUIDES = $derived(['thirds', 'diagonals', 'center', ...(coveredOf(bench.bench?.content).length ? ['covered'] : []), 'none']);

  $effect(() => {
    const reload = paced(async () => {
      if (!bench.changed) await bench.load();
    }, 400);
    return onHint((hint) => {
      if (hint.kind === 'back' || hint.kind === 'recipe' || (hint.kind === 'tray' && hint.id === tray)) reload();
    });
  });

  const found = $derived(bench.bench);
  const waiting = $derived(bench.place >= 0);

  function go(spot: { photo: number; recipe: number } | undefined): void {
    router.go(spot ? `/trays/${tray}/bench/${spot.photo}/${spot.recipe}` : `/trays/${tray}`);
  }

  async function keep(): Promise<void> {
    if (busy) return;
    busy = true;
    await trying(async () => {
      // Whether it is one of those that need a crop is known a moment after the picture.
      await Promise.race([bench.listed, new Promise((done) => setTimeout(done, LIST_WAIT))]);
      const onward = waiting;
      bench.leaving = onward;
      await bench.keep();
      if (!onward) return;
      const next = await bench.next(true);
      if (!next) say('Every photo has its crop');
      go(next);
    });
    bench.leaving = busy = false;
  }

  function skip(): void {
    void trying(async () => go(await bench.next()));
  }

  function turnBy(degrees: number): void {
    if (bench.framing) bench.draw({ ...bench.framing, angle: Math.round(Math.min(45, Math.max(-45, bench.framing.angle + degrees)) * 10) / 10 });
  }

  const ARROWS: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

  function pressed(event: KeyboardEvent): void {
    const { framing, numbers } = bench;
    const size = found?.photo;
    if (!framing || !size || !numbers || !found) return;
    // Enter keeps, wherever the focus is: a button that was pressed last is not pressed again.
    if (event.key === 'Enter' && !event.defaultPrevented && !typing(event) && !above(event) && !(event.target as Element).closest('a')) {
      event.preventDefault();
      if (waiting || bench.changed || found.proposed) void keep();
      return;
    }
    const key = pageKey(event);
    if (key === undefined) return;
    const arrow = ARROWS[key];
    if (arrow) {
      // Steps of 1 or 10 pixels of the rendition, whatever the photo's own pixels are.
      const step = event.shiftKey ? 10 : 1;
      bench.draw(moved(framing, { x: arrow[0] * step, y: arrow[1] * step }, size, { middle: { x: 0, y: 0 }, scale: numbers.scale }));
    } else if (key === '+' || key === '=') bench.draw(zoomed(framing, 1 / 1.03, size));
    else if (key === '-') bench.draw(zoomed(framing, 1.03, size));
    else if (key === '[') turnBy(-0.5);
    else if (key === ']') turnBy(0.5);
    else if (key === 'r') bench.draw(quarter(framing, size, found.ratio));
    else if (key === 'g') guides = GUIDES[(GUIDES.indexOf(guides) + 1) % GUIDES.length] ?? 'thirds';
    else if (key === 's' && waiting) skip();
    else return;
    event.preventDefault();
  }

  $effect(() => onEscape(() => go(undefined)));
  $effect(() => {
    undo.local = bench;
    return () => {
      undo.local = undefined;
      if (bench.changed && bench.bench) {
        const link = { to: `/trays/${tray}/bench/${photo}/${recipe}`, text: 'Go back' };
        say(`Your crop of ${bench.bench.photo.name} is not kept yet. It is there when you come back.`, { link });
      }
    };
  });
</script>

<svelte:head><title>{found ? `${found.photo.name}, ${found.title}` : 'Bench'} · Upper Tray</title></svelte:head>
<svelte:window onkeydown={pressed} />
<div class="top">
  <a class="dim" href="/trays/{tray}">‹ Board <kbd>Esc</kbd></a>
  {#if found}
    <Tabs {tray} {photo} {recipe} on="frame" />
    <h1 class="title">{found.photo.name}</h1>
    <span class="dim">for {found.title} · {found.size_line}</span>
    <span class="right">
      {#if waiting || bench.done}<span class="eye" role="status">{bench.done} of {bench.done + bench.waiting.length} done</span>{/if}
    </span>
  {/if}
</div>
{#if opened.problem}
  <Failed query={opened} instead={{ to: `/trays/${tray}`, text: 'Go to the board' }} />
{:else if found}
  <div class="bench">
    <Stage state={bench} {guides} />
    <Side state={bench} />
  </div>
  <footer class="foot">
    <div class="tools">
      <span class="straighten">straighten <Range label="Straighten" value={bench.framing?.angle ?? 0} min={-15} max={15} step={0.1} onchange={(angle) => bench.framing && bench.draw({ ...bench.framing, angle })} /></span>
      <button class="quiet small" onclick={() => bench.framing && bench.draw(quarter(bench.framing, found.photo, found.ratio))}>Turn by 90° <kbd>R</kbd></button>
      <Choice label="Guides" labeled={false} value={guides} options={GUIDES.map((each): [string, string] => [each, each])} onchange={(each) => (guides = each)} />
      <span class="dim keys">arrows move it by 1 px, with Shift by 10 · + − zoom</span>
    </div>
    <div class="do">
      {#if waiting}<button class="quiet" onclick={skip}>Skip <kbd>S</kbd></button>{/if}
      {#if waiting}
        <button class="press" disabled={busy} onclick={() => void keep()}>{bench.waiting.length > 1 ? 'Keep and next' : 'Keep and done'} <kbd>Enter</kbd></button>
      {:else}
        <button class="press" disabled={busy || !(bench.changed || found.proposed)} onclick={() => void keep()}>{bench.changed || found.proposed ? 'Keep' : 'Kept'} <kbd>Enter</kbd></button>
      {/if}
    </div>
  </footer>
{:else}
  <p class="empty dim" aria-busy="true">One moment…</p>
{/if}

<style>
  .top { height: 40px; flex: none; display: flex; gap: 16px; align-items: center; padding: 0 16px; white-space: nowrap; }
  @media (max-width: 900px) { .top { height: auto; flex-wrap: wrap; padding: 4px 16px; row-gap: 4px; } }
  .top > a { text-decoration: none; }
  .title { font-weight: 600; font-size: 15px; overflow: hidden; text-overflow: ellipsis; }
  .right { margin-left: auto; display: flex; gap: 16px; align-items: center; }
  .eye { color: var(--eye); }
  .bench { flex: 1; min-height: 0; display: flex; }
  .tools { display: flex; gap: 12px; align-items: center; min-width: 0; overflow: hidden; white-space: nowrap; }
  .straighten { display: flex; gap: 8px; align-items: center; }
  .keys { overflow: hidden; text-overflow: ellipsis; }
  .empty { margin: auto; font-size: 13px; }
</style>
