<script lang="ts">
  import { onHint, paced } from '../api/live';
  import { opening } from '../api/query.svelte';
  import { onEscape } from '../shell/escape';
  import { keepingKey } from '../shell/keys.svelte';
  import { say, trying } from '../shell/notices.svelte';
  import { router } from '../shell/router.svelte';
  import { undo } from '../shell/undo.svelte';
  import Quantity from '../recipes/Quantity.svelte';
  import Failed from '../ui/Failed.svelte';
  import { count } from '../words/numbers';
  import { OutlineState } from './outline.svelte';
  import { BEGIN } from './outlines';
  import OutlineStage from './OutlineStage.svelte';
  import Tabs from './Tabs.svelte';

  let { tray, photo, recipe }: { tray: number; photo: number; recipe: number } = $props();

  // Keyed by its address: none of them changes in its life.
  // svelte-ignore state_referenced_locally
  const outline = new OutlineState(tray, photo);
  const opened = opening(() => outline.load());
  let room = $state({ width: 640, height: 400 });
  let stage = $state<OutlineStage>();
  let keeping = $state(false);

  $effect(() => {
    undo.local = outline.steps;
    const reload = paced(() => outline.load(), 400);
    const stop = onHint((hint) => {
      if (hint.kind === 'back' || (hint.kind === 'tray' && hint.id === tray)) reload();
    });
    return () => {
      stop();
      undo.local = undefined;
    };
  });

  const found = $derived(outline.found?.photo);
  const size = $derived.by(() => {
    if (!found) return { width: 1, height: 1 };
    const scale = Math.min((room.width - 24) / found.width, (room.height - 24) / found.height);
    return { width: Math.max(2, found.width * scale), height: Math.max(2, found.height * scale) };
  });

  $effect(() => onEscape(() => {
    if (outline.spot) outline.spot = undefined;
    else router.go(`/trays/${tray}`);
  }));

  /** Drawn or typed; what is no number, or too much, changes nothing. */
  function number(name: 'grow' | 'smooth', value: number | string, least: number, most: number): void {
    if (typeof value === 'number' && value >= least && value <= most) outline.set({ [name]: value }, name);
  }

  async function find(): Promise<void> {
    if (!(await outline.find())) say(`No outline was found. ${outline.why.join(' ')} Draw it by hand.`);
  }

  /** Keep it, and go on to the next one that nobody is sure of. */
  async function keep(): Promise<void> {
    if (keeping) return;
    if (!outline.shape.paths.length) {
      say('There is no outline yet. Find it, or draw it by hand.');
      return;
    }
    keeping = true;
    const next = outline.found?.next;
    try {
      await outline.keep();
    } finally {
      keeping = false;
    }
    if (next) router.go(`/trays/${tray}/bench/${next}/${recipe}/outline`);
    else say('Kept. All outlines are certain now.');
  }

  function skip(): void {
    const next = outline.found?.next;
    if (next) router.go(`/trays/${tray}/bench/${next}/${recipe}/outline`);
    else say('No other outline waits for your eye.');
  }

  function pressed(event: KeyboardEvent): void {
    const key = keepingKey(event);
    if (key === undefined) return;
    const arrow = ({ ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] } as Record<string, [number, number]>)[key];
    const spot = outline.spot;
    if (key === 'Enter') void trying(keep);
    else if (key === 's') skip();
    else if (key === 'f') void trying(find);
    else if (key === 'n' || key === 'p') outline.go(key === 'n' ? 1 : -1);
    else if (key === '+' || key === '=') stage?.closer(1.6);
    else if (key === '-') stage?.closer(0.625);
    else if (key === '0') stage?.whole();
    else if (!spot || !found) return;
    else if (arrow) {
      const step = event.shiftKey ? 10 : 1;
      outline.move(spot, [(arrow[0] * step) / found.width, (arrow[1] * step) / found.height]);
    } else if (key === 'Delete' || key === 'Backspace') event.shiftKey ? outline.removePath(spot.path) : outline.remove(spot);
    else if (key === 'a') outline.add(spot);
    else if (key === 'c') outline.turn(spot);
    else return;
    event.preventDefault();
  }
</script>

<svelte:head><title>{found ? `${found.name}, outline` : 'Outline'} · Upper Tray</title></svelte:head>
<svelte:window onkeydown={pressed} />
<div class="top">
  <a class="dim" href="/trays/{tray}">‹ Board <kbd>Esc</kbd></a>
  <Tabs {tray} {photo} {recipe} on="outline" />
  {#if found}
    <h1 class="title">{found.name}</h1>
    <span class="dim">followed by recipes that cut it out</span>
    {#if outline.found?.waiting}<span class="count">{count(outline.found.waiting, 'outline')} of the tray to look at</span>{/if}
  {/if}
</div>
{#if opened.problem}
  <Failed query={opened} instead={{ to: `/trays/${tray}`, text: 'Go to the board' }} />
{:else if !found}
  <p class="empty dim" aria-busy="true">One moment…</p>
{:else}
  <div class="room" bind:clientWidth={room.width} bind:clientHeight={room.height}>
    <OutlineStage bind:this={stage} state={outline} {size} {room} src="/api/trays/{tray}/outline/{photo}/picture?d={found.digest}" name={found.name} pixels={found.width} />
    {#if !outline.shape.paths.length}
      <div class="begin">
        <p><b>No outline yet.</b> {outline.why.join(' ')} It is found by itself where an object lies on a plain ground.</p>
        <div>
          <button class="quiet" disabled={outline.finding} onclick={() => void trying(find)}>{outline.finding ? 'Looking…' : 'Find it'} <kbd>F</kbd></button>
          <button class="quiet" onclick={() => outline.set({ paths: BEGIN })}>Draw it by hand</button>
        </div>
      </div>
    {/if}
  </div>
  <div class="tools">
    <div class="say">
      {#if outline.sure}<p><b>Certain.</b> Renditions follow it.</p>
      {:else if outline.why.length && outline.shape.paths.length}<p class="eyes"><b>Please check.</b> {outline.why.join(' ')} Move what is wrong, then keep it.</p>
      {:else if outline.shape.paths.length}<p><b>{outline.changed ? 'Not kept yet.' : 'Please check.'}</b> Keep it when it follows the object.</p>{/if}
      <p class="dim">{count(outline.shape.paths.length, 'path')}, {count(outline.points, 'point')}. Double click on the edge adds a point; <kbd>N</kbd> <kbd>P</kbd> go through them, arrows move, <kbd>C</kbd> corner or smooth, <kbd>Del</kbd> removes.</p>
    </div>
    <div class="numbers">
      <Quantity label="Outward" unit="px" min={-10} max={10} step={0.5} value={outline.shape.grow} onchange={(grow) => number('grow', grow, -50, 50)} />
      <Quantity label="Smooth" unit="px" min={0} max={20} step={0.5} value={outline.shape.smooth} onchange={(smooth) => number('smooth', smooth, 0, 50)} />
    </div>
  </div>
  <footer class="foot">
    <div class="do">
      <button class="quiet" disabled={outline.finding} onclick={() => void trying(find)}>{outline.finding ? 'Looking…' : 'Find it again'} <kbd>F</kbd></button>
      {#if outline.spot}
        <button class="quiet" onclick={() => outline.spot && outline.turn(outline.spot)}>Corner or smooth <kbd>C</kbd></button>
        <button class="quiet" onclick={() => outline.spot && outline.add(outline.spot)}>Add a point <kbd>A</kbd></button>
        <button class="quiet" onclick={() => outline.spot && outline.remove(outline.spot)}>Remove it <kbd>Del</kbd></button>
        <button class="quiet" onclick={() => outline.spot && outline.removePath(outline.spot.path)}>Remove the path</button>
      {/if}
    </div>
    <div class="do">
      {#if outline.found?.next}<button class="quiet" onclick={skip}>Skip <kbd>S</kbd></button>{/if}
      <button class="press" disabled={keeping} onclick={() => void trying(keep)}>{outline.found?.next ? 'Keep and next' : 'Keep'} <kbd>Enter</kbd></button>
    </div>
  </footer>
{/if}

<style>
  .top { height: 40px; flex: none; display: flex; gap: 16px; align-items: center; padding: 0 16px; white-space: nowrap; }
  .top > a { text-decoration: none; }
  .title { font-weight: 600; font-size: 15px; overflow: hidden; text-overflow: ellipsis; }
  .count { margin-left: auto; color: var(--eye); font-weight: 600; }
  .empty { margin: auto; font-size: 13px; }
  .room { flex: 1; min-height: 160px; position: relative; background: var(--stage, var(--bench)); }
  .begin { position: absolute; left: 50%; top: 50%; transform: translate(-50%, -50%); background: var(--sheet); border: 1px solid var(--edge-soft); border-radius: var(--radius); padding: 14px 18px; display: grid; gap: 12px; max-width: 420px; }
  .begin div { display: flex; gap: 10px; }
  .tools { display: flex; gap: 24px; align-items: center; padding: 8px 16px; }
  .say { flex: 1; min-width: 0; display: grid; gap: 2px; font-size: 13px; }
  .eyes { color: var(--eye); }
  .numbers { display: grid; gap: 4px; flex: none; width: 380px; }
  .foot { display: flex; justify-content: space-between; align-items: center; gap: 16px; padding: 8px 16px; background: var(--sheet); border-top: 1px solid var(--edge-soft); }
  .foot .do:first-child { margin: 0 auto 0 0; }
  .do { display: flex; gap: 10px; align-items: center; }
  @media (max-width: 900px) { .tools, .foot { flex-wrap: wrap; } }
</style>
