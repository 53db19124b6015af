<script lang="ts">
  import { untrack } from 'svelte';
  import { onHint, paced } from '../api/live';
  import { opening } from '../api/query.svelte';
  import Choice from '../recipes/Choice.svelte';
  import { onEscape } from '../shell/escape';
  import { keepingKey } from '../shell/keys.svelte';
  import { say, showing, trying } from '../shell/notices.svelte';
  import { router } from '../shell/router.svelte';
  import { undo } from '../shell/undo.svelte';
  import Failed from '../ui/Failed.svelte';
  import { count } from '../words/numbers';
  import Curve from './Curve.svelte';
  import { Fresh } from './closer.svelte';
  import { dragging } from './dragging';
  import Hill from './Hill.svelte';
  import MovableEdge from './MovableEdge.svelte';
  import Tabs from './Tabs.svelte';
  import ToneLooks from './ToneLooks.svelte';
  import { BALANCES, NUMBERS, RAW_NUMBERS, ToneState, within } from './tone.svelte';
  import ToneNumber from './ToneNumber.svelte';

  let { tray, photo, recipe }: { tray: number; photo: number; recipe: number } = $props();

  // Keyed by its address: none of them changes in its life.
  // svelte-ignore state_referenced_locally
  const tone = new ToneState(tray, photo, recipe);
  const now = new Fresh();
  const plain = new Fresh();
  const opened = opening(() => tone.load());
  let room = $state({ width: 640, height: 400 });
  let picking = $state(false);
  let before = $state(false);
  /** Where the edge between before and after stands, where there is one. */
  let edgeAt = $state<number>();
  /** Where a grey would be picked, in shares of the picture. */
  let spot = $state.raw<{ x: number; y: number }>();
  let part = $state('all');
  const CAST = { least: -100, most: 100, places: 0 };

  $effect(() => {
    undo.local = tone.steps;
    const reload = paced(() => tone.load(), 400);
    const stop = onHint((hint) => {
      if (hint.kind === 'back' || (hint.kind === 'tray' && hint.id === tray)) reload();
    });
    return () => {
      stop();
      undo.local = undefined;
      now.drop();
      plain.drop();
    };
  });

  const found = $derived(tone.found?.photo);
  const shape = $derived.by(() => {
    if (!found) return { width: 1, height: 1 };
    const scale = Math.min(room.width / found.width, room.height / found.height);
    return { width: Math.max(2, Math.round(found.width * scale)), height: Math.max(2, Math.round(found.height * scale)) };
  });
  const edge = $derived(Math.min(1600, Math.round(Math.max(shape.width, shape.height) * Math.min(2, devicePixelRatio))));
  /** Beside it: smaller while a look is given its recipes there. */
  const small = $derived.by(() => {
    const scale = Math.min((tone.at ? 110 : 230) / shape.width, (tone.at ? 74 : 230) / shape.height);
    return { width: Math.round(shape.width * scale), height: Math.round(shape.height * scale) };
  });

  $effect(() => {
    void [tone.values, tone.lost, edge];
    if (!tone.found) return;
    untrack(() => void showing(() => now.show((signal) => tone.picture(edge, signal))));
    const later = setTimeout(() => void showing(() => tone.measure()), 60);
    return () => clearTimeout(later);
  });
  $effect(() => {
    void edge;
    if (tone.found) untrack(() => void showing(() => plain.show((signal) => tone.picture(edge, signal, true))));
  });

  $effect(() => onEscape(() => {
    if (picking) picking = false;
    else router.go(`/trays/${tray}`);
  }));

  const warm = $derived(tone.number('temperature'));
  const tint = $derived(tone.number('tint'));

  function cast(event: PointerEvent): void {
    const box = (event.currentTarget as Element).getBoundingClientRect();
    const to = (at: PointerEvent) => tone.set({
      temperature: within(CAST, ((at.clientX - box.left) / box.width) * 200 - 100),
      tint: within(CAST, ((at.clientY - box.top) / box.height) * -200 + 100),
    });
    to(event);
    (event.currentTarget as HTMLElement).focus();
    dragging(event, (_, at) => to(at));
  }

  function nudge(event: KeyboardEvent): void {
    const by = ({ ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] } as Record<string, [number, number]>)[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    const step = event.shiftKey ? 10 : 1;
    tone.set({ temperature: within(CAST, warm + by[0] * step), tint: within(CAST, tint + by[1] * step) });
  }

  function under(event: MouseEvent): { x: number; y: number } {
    const box = (event.currentTarget as Element).getBoundingClientRect();
    return { x: (event.clientX - box.left) / box.width, y: (event.clientY - box.top) / box.height };
  }

  function pick(event: MouseEvent): void {
    if (!picking) return;
    const { x, y } = under(event);
    picking = false;
    spot = undefined;
    void trying(() => tone.grey(x, y));
  }

  /** A second press while the first is kept does nothing. */
  let keeping = $state(false);

  async function keep(on: boolean): Promise<void> {
    if (keeping) return;
    keeping = true;
    try {
      await tone.keep();
    } finally {
      keeping = false;
    }
    const next = tone.found?.next;
    if (on && next) router.go(`/trays/${tray}/bench/${next}/${recipe}/tone`);
  }

  const PARTS: Record<string, string[]> = {
    light: ['exposure', 'contrast', 'light', 'dark', 'white', 'black', 'local', 'curve', 'recover', 'vignette'],
    color: ['temperature', 'tint', 'saturation', 'muted', 'balance'],
    noise: ['noise', 'color_noise'],
  };
  const names = $derived(part === 'all' ? Object.values(PARTS).flat() : (PARTS[part] ?? []));

  async function give(photos: number[]): Promise<void> {
    await tone.keep();
    const given = await tone.give(photos, names);
    say(given ? `Gave it to ${count(given, 'photo')}.` : 'They have it already.');
  }

  function pressed(event: KeyboardEvent): void {
    const key = keepingKey(event);
    if (key === 'b') before = !before;
    else if (key === 'e') edgeAt = edgeAt === undefined ? 0.5 : undefined;
    else if (key === 'c') tone.lost = !tone.lost;
    else if (key === 'g') picking = !picking;
    else if (key === 'm') tone.set({ mirror: !tone.choice('mirror') });
    else if (key === 'p') void trying(() => tone.propose());
    else if (key === 'Enter') void trying(() => keep(true));
    else return;
    event.preventDefault();
  }
</script>

<svelte:head><title>{found ? `${found.name}, tone` : 'Tone'} · Upper Tray</title></svelte:head>
<svelte:window onkeydown={pressed} />
<div class="top">
  <a class="dim" href="/trays/{tray}">‹ Board <kbd>Esc</kbd></a>
  <Tabs {tray} {photo} {recipe} on="tone" />
  {#if found}
    <h1 class="title">{found.name}</h1>
    <span class="dim">{found.format}, {found.depth} bit · followed by all its renditions</span>
  {/if}
</div>
{#if opened.problem}
  <Failed query={opened} instead={{ to: `/trays/${tray}`, text: 'Go to the board' }} />
{:else if !found}
  <p class="empty dim" aria-busy="true">One moment…</p>
{:else}
  <div class="stage">
    <div class="room" bind:clientWidth={room.width} bind:clientHeight={room.height}>
      <!-- The grey is picked by pressing on the picture; its numbers can be typed beside the pad. -->
      <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_noninteractive_element_interactions -->
      <figure class:picking style:width="{shape.width}px" style:height="{shape.height}px" onclick={pick} onpointermove={(event) => (spot = picking ? under(event) : undefined)} onpointerleave={() => (spot = undefined)} data-exact={now.exact ? 'yes' : 'no'}>
        {#if now.src}<img src={before ? plain.src : now.src} alt="{found.name} {before ? 'as shot' : 'with its tone'}" draggable="false" />{/if}
        {#if edgeAt !== undefined && !before && plain.src}
          <img class="shot" class:mirrored={!!tone.choice('mirror')} src={plain.src} alt="{found.name} as shot" draggable="false" style:clip-path={tone.choice('mirror') ? `inset(0 0 0 ${(1 - edgeAt) * 100}%)` : `inset(0 ${(1 - edgeAt) * 100}% 0 0)`} />
          <MovableEdge bind:at={edgeAt} />
        {/if}
        {#if picking && spot}<span class="patch" style:left="{spot.x * 100}%" style:top="{spot.y * 100}%" style:width="{2 * (tone.found?.patch ?? 0) * Math.max(shape.width, shape.height)}px"></span>{/if}
        {#if before}<figcaption>as shot</figcaption>{:else if picking}<figcaption>Press on something that is grey in reality</figcaption>{:else if tone.lost}<figcaption>red is lost above, blue is lost below</figcaption>{/if}
      </figure>
    </div>
    <div class="beside">
      <ToneLooks {tone} />
      {#if plain.src}<img src={plain.src} alt="{found.name} as shot" style:width="{small.width}px" style:height="{small.height}px" />{/if}
      <p>as shot · <kbd>B</kbd> shows it large, <button class="plain" aria-pressed={edgeAt !== undefined} onclick={() => (edgeAt = edgeAt === undefined ? 0.5 : undefined)}>a movable edge <kbd>E</kbd></button></p>
    </div>
  </div>
  <div class="tools">
    <section aria-label="Cast">
      <h2>Cast <button class="plain" aria-pressed={picking} onclick={() => (picking = !picking)}>pick a grey <kbd>G</kbd></button></h2>
      <div class="pad" role="slider" tabindex="0" aria-label="Cast: arrows left and right for blue and amber, up and down for magenta and green" aria-valuenow={warm} aria-valuetext="{warm} amber, {tint} magenta" onpointerdown={cast} onkeydown={nudge} ondblclick={() => tone.set({ temperature: 0, tint: 0 })}>
        <span class="across"></span><span class="down"></span>
        <span class="spot" style:left="{50 + warm / 2}%" style:top="{50 - tint / 2}%"></span>
      </div>
      {#if tone.found?.raw}
        <div class="balance"><Choice label="Light it was taken in" labeled={false} value={String(tone.choice('balance'))} options={BALANCES} onchange={(balance) => tone.set({ balance })} /></div>
      {/if}
      <p class="dim numbers">{warm === 0 ? 'neutral' : `${Math.abs(warm)} ${warm > 0 ? 'warmer' : 'cooler'}`} · {tint === 0 ? 'no tint' : `${Math.abs(tint)} to ${tint > 0 ? 'magenta' : 'green'}`}</p>
    </section>
    <section class="light" aria-label="Light">
      <h2>Light <span class="dim hint" title="As screens show it">double click adds a point of the curve</span> <button class="plain" aria-pressed={tone.lost} onclick={() => (tone.lost = !tone.lost)}>what is lost <kbd>C</kbd></button></h2>
      <Hill light={tone.light}><Curve points={tone.curve} onchange={(curve) => tone.set({ curve })} /></Hill>
    </section>
    <section class="values" aria-label="Numbers">
      {#each tone.found?.raw ? [...NUMBERS, ...RAW_NUMBERS] : NUMBERS as kind (kind.name)}
        <ToneNumber {kind} value={tone.number(kind.name)} onchange={(value) => tone.set({ [kind.name]: value })} />
      {/each}
    </section>
  </div>
  <footer class="foot">
    <span class="dim">Up and down change a number, with Shift coarsely. Double click: neutral.</span>
    <div class="do">
      {#if !tone.neutral}<button class="dim" onclick={() => tone.setNeutral()}>All neutral</button>{/if}
      <button class="quiet" aria-pressed={!!tone.choice('mirror')} onclick={() => tone.set({ mirror: !tone.choice('mirror') })}>Mirror <kbd>M</kbd></button>
      <button class="quiet" onclick={() => void trying(() => tone.propose())}>Propose <kbd>P</kbd></button>
      {#if tone.found?.near.length}
        <Choice label="What is given" labeled={false} value={part} options={[['all', 'all'], ['light', 'light'], ['color', 'color'], ...(tone.found.raw ? [['noise', 'noise'] as [string, string]] : [])]} onchange={(value) => (part = value)} />
        <button class="quiet" onclick={() => void trying(() => give(tone.found?.near ?? []))}>Give it to {count(tone.found.near.length, 'photo')} of the same minute</button>
      {/if}
      <button class="press" disabled={keeping || (!tone.changed && !tone.found?.next)} onclick={() => void trying(() => keep(true))}>{tone.changed ? (tone.found?.next ? 'Keep and next' : 'Keep') : 'Next'} <kbd>Enter</kbd></button>
    </div>
  </footer>
{/if}

<style>
  .top { height: 40px; flex: none; display: flex; gap: 16px; align-items: center; padding: 0 16px; white-space: nowrap; }
  .top > a { text-decoration: none; }
  .title { font-weight: 600; font-size: 15px; overflow: hidden; text-overflow: ellipsis; }
  .empty { margin: auto; font-size: 13px; }
  .stage { flex: 1; min-height: 160px; display: flex; gap: 20px; padding: 6px 20px 14px; background: var(--stage, var(--bench)); }
  .room { flex: 1; min-width: 0; display: grid; place-items: center; overflow: hidden; }
  figure { margin: 0; position: relative; line-height: 0; }
  figure img { width: 100%; height: 100%; }
  .shot { position: absolute; inset: 0; }
  .mirrored { transform: scaleX(-1); }
  .patch { position: absolute; aspect-ratio: 1; transform: translate(-50%, -50%); outline: 1.5px solid #f1f1ef; box-shadow: 0 0 0 2.5px rgb(30 30 29 / 0.6); pointer-events: none; }
  .picking { cursor: crosshair; outline: 2px solid var(--accent); outline-offset: 2px; }
  figcaption { position: absolute; left: 8px; bottom: 8px; background: rgb(30 30 29 / 0.82); color: #f1f1ef; border-radius: 10px; padding: 2px 10px; line-height: 17px; font-size: 11px; }
  .beside { width: 230px; flex: none; display: flex; flex-direction: column; gap: 6px; font-size: 12px; min-height: 0; }
  .beside img { margin-top: auto; flex: none; }
  .tools { flex: none; display: grid; grid-template-columns: 216px minmax(240px, 1fr) minmax(500px, 1.3fr); gap: 8px; padding: 8px 16px; }
  section { background: var(--sheet); border-radius: var(--radius); padding: 10px 14px; display: grid; gap: 6px; align-content: start; min-width: 0; }
  h2 { font-size: 13px; font-weight: 600; display: flex; gap: 10px; align-items: baseline; }
  h2 .dim { font-weight: 400; font-size: 12px; }
  h2 { white-space: nowrap; min-width: 0; }
  .hint { overflow: hidden; text-overflow: ellipsis; flex: 1; }
  .pad { position: relative; height: 104px; border-radius: 4px; cursor: crosshair; touch-action: none; background: linear-gradient(to bottom, rgb(196 150 190 / 0.75), rgb(160 160 158 / 0) 50%, rgb(140 190 140 / 0.75)), linear-gradient(to right, #7f9fd0, #cfcfcd 50%, #e3ad62); }
  .across, .down { position: absolute; background: rgb(40 40 39 / 0.35); }
  .across { left: 0; right: 0; top: 50%; height: 1px; }
  .down { top: 0; bottom: 0; left: 50%; width: 1px; }
  .spot { position: absolute; width: 14px; height: 14px; margin: -7px 0 0 -7px; border-radius: 50%; background: var(--accent); border: 2px solid #fff; }
  .numbers { font-variant-numeric: tabular-nums; font-size: 12px; }
  .values { grid-template-columns: 1fr 1fr; gap: 2px 22px; align-content: center; }
  .foot { display: flex; justify-content: space-between; align-items: center; gap: 16px; padding: 8px 16px; background: var(--sheet); border-top: 1px solid var(--edge-soft); }
  .do { display: flex; gap: 10px; align-items: center; }
  @media (max-width: 900px) { .tools { grid-template-columns: 1fr; } .beside { display: none; } .foot { flex-wrap: wrap; } }
</style>
