<script lang="ts">
  import { untrack } from 'svelte';
  import { api, taken, type Schemas } from '../api/client';
  import { same } from '../api/same';
  import Choice from '../recipes/Choice.svelte';
  import { typedNumber } from '../recipes/draft';
  import Quantity from '../recipes/Quantity.svelte';
  import Typed from '../recipes/Typed.svelte';
  import { showing, trying } from '../shell/notices.svelte';
  import { pageKey } from '../shell/keys.svelte';
  import { router } from '../shell/router.svelte';
  import type { CloserState } from './closer.svelte';
  import { dragging } from './dragging';
  import MovableEdge from './MovableEdge.svelte';
  import Pane from './Pane.svelte';
  import { panned, windowFor } from './geometry';

  let { closer }: { closer: CloserState } = $props();

  const MODES = [['side', 'side by side'], ['edge', 'movable edge'], ['blink', 'blink'], ['mask', 'guard’s mask'], ['difference', 'difference']] as const;
  const start = new URLSearchParams(location.search);
  let mode = $state<(typeof MODES)[number][0]>('side');
  let zoom = $state(1);
  let room = $state({ width: 900, height: 560 });
  let middle = $state({ x: Number(start.get('x') ?? 0.5), y: Number(start.get('y') ?? 0.5) });
  let hand = $state({ x: 0, y: 0 });
  let edge = $state(0.5);
  let before = $state(false);
  let places = $state.raw<Schemas['AreaOut'][]>([]);
  /** Once it is known where to begin: a window that is asked for and then another would take twice as long. */
  let ready = $state(start.has('x'));

  let edges = $state.raw<Schemas['EdgesOut']>();
  $effect(() => {
    void [closer.content, closer.strength];
    const body = untrack(() => closer.body());
    // The pictures come first: a number may be a moment late.
    const later = setTimeout(() => void showing(async () => void (edges = await taken(api.POST('/api/trays/{number}/closer/{photo}/{recipe}/edges', { params: { path: { number: closer.tray, photo: closer.photo, recipe: closer.recipe } }, body })))), 250);
    return () => clearTimeout(later);
  });

  const facts = $derived(closer.facts);
  const here = $derived(closer.sharpen());
  const strength = $derived(closer.strength ?? Number(here['strength'] ?? 0));
  const own = $derived(closer.strength !== undefined);
  const across = $derived(mode === 'side' ? 2 : 1);
  const part = $derived(windowFor(facts ?? { width: 1, height: 1 }, { width: (room.width - 8 * (across - 1)) / across, height: room.height }, zoom, middle));

  $effect(() => {
    const timer = setTimeout(() => (ready = true), 400);
    return () => clearTimeout(timer);
  });
  $effect(() => void showing(async () => {
    places = await taken(api.GET('/api/trays/{number}/places', { params: { path: { number: closer.tray } } }));
    // Begin where there is something to see, unless somebody chose a place.
    const fine = places.find((each) => each.kind === 'fine' && each.photo === closer.photo);
    if (fine && !start.has('x') && untrack(() => middle.x === 0.5 && middle.y === 0.5)) middle = { x: fine.x, y: fine.y };
    ready = true;
  }));

  function set(changes: Record<string, unknown>): void {
    closer.set('sharpen', Object.fromEntries(Object.entries({ ...here, ...changes }).filter(([, value]) => value !== undefined)));
  }

  /** What was typed and cannot be: it stays in its field, with the reason. */
  let typedStrength = $state<string>();
  let typedGuard = $state<string>();
  const guarded = $derived(here['guard'] === 'auto' ? 'auto' : here['guard'] || typedGuard !== undefined ? 'levels' : 'none');

  function setStrength(value: number | string): void {
    const fits = typeof value === 'number' && value >= 0 && value <= 200;
    typedStrength = fits ? undefined : String(value);
    if (fits) closer.strength = Math.round(value);
  }

  function guardBy(way: string): void {
    typedGuard = undefined;
    const levels = Math.round(edges?.guard ?? 0) || 6;
    set({ guard: way === 'auto' ? 'auto' : way === 'levels' ? levels : undefined });
  }

  function setGuard(text: string): void {
    const value = typedNumber(text);
    const fits = typeof value === 'number' && value >= 0 && value <= 40;
    typedGuard = fits ? undefined : text;
    if (fits) set({ guard: value || undefined });
  }

  function pan(event: PointerEvent): void {
    if (event.button !== 0 || !facts) return;
    const size = facts;
    const end = () => {
      middle = panned(part, hand, zoom, size);
      hand = { x: 0, y: 0 };
    };
    dragging(event, (by) => (hand = by), end);
  }

  function jump(place: Schemas['AreaOut']): void {
    if (place.photo === closer.photo) middle = { x: place.x, y: place.y };
    else router.go(`/trays/${closer.tray}/bench/${place.photo}/${closer.recipe}/sharpness?x=${place.x}&y=${place.y}`);
  }

  const STEPS: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

  function pressed(event: KeyboardEvent): void {
    const key = pageKey(event);
    if (key === undefined || !facts) return;
    const step = STEPS[key];
    if (step) middle = panned(part, { x: -step[0] * part.width * 0.4 * zoom, y: -step[1] * part.height * 0.4 * zoom }, zoom, facts);
    else if (key === 'b') {
      if (mode === 'blink') before = !before;
      else mode = 'blink';
    } else if (key === '1') zoom = 1;
    else if (key === '2') zoom = 2;
    else if (key === 'm') mode = mode === 'mask' ? 'side' : 'mask';
    else if (key === 'd') mode = mode === 'difference' ? 'side' : 'difference';
    else if (key === '+' || key === '=') setStrength(Math.min(200, strength + 5));
    else if (key === '-') setStrength(Math.max(0, strength - 5));
    else return;
    event.preventDefault();
  }

  /** Whether more than the strength is tried. */
  const others = $derived(own && !same(here, closer.sharpenKept()));
  const recipes = $derived(closer.part?.used.length ?? 0);
</script>

<svelte:window onkeydown={pressed} />
<div class="bench">
  <div class="stage" bind:clientWidth={room.width} bind:clientHeight={room.height} onpointerdown={pan} role="presentation">
    {#if !ready}
      <span class="dim" aria-busy="true">Looking for fine detail…</span>
    {:else if mode === 'side'}
      <Pane {closer} what="window" more={{ view: 'before' }} window={part} {zoom} drag={hand} alt="before sharpening" caption="before" />
      <Pane {closer} what="window" more={{ view: 'after' }} window={part} {zoom} drag={hand} alt="after sharpening" caption="after · {strength} %" />
    {:else if mode === 'edge'}
      <div class="over">
        <Pane {closer} what="window" more={{ view: 'before' }} window={part} {zoom} drag={hand} alt="before sharpening" caption="before" />
        <div class="upper" style:clip-path="inset(0 0 0 {edge * 100}%)"><Pane {closer} what="window" more={{ view: 'after' }} window={part} {zoom} drag={hand} alt="after sharpening" soft={false} /></div>
        <MovableEdge bind:at={edge} />
      </div>
    {:else if mode === 'blink'}
      <div class="over">
        <Pane {closer} what="window" more={{ view: 'after' }} window={part} {zoom} drag={hand} alt="after sharpening" caption={before ? '' : `after · ${strength} %`} />
        <div class="upper" class:hidden={!before}><Pane {closer} what="window" more={{ view: 'before' }} window={part} {zoom} drag={hand} alt="before sharpening" soft={false} caption="before" /></div>
      </div>
    {:else}
      <Pane {closer} what="window" more={{ view: mode }} window={part} {zoom} drag={hand} alt={mode === 'mask' ? 'the guard’s mask' : 'what sharpening changes'} soft={false} caption={mode === 'mask' ? 'white is sharpened, black is left alone' : 'what is added, four times as strong'} />
    {/if}
  </div>
  <aside>
    <h2>Sharpening {own ? 'of this photo' : 'by the recipe'}</h2>
    <Quantity label="Strength" unit="%" min={0} max={200} value={typedStrength ?? strength} problem={typedStrength === undefined ? undefined : 'This is no strength.'} onchange={setStrength} />
    <Choice label="Method" value={String(here['method'] ?? 'unsharp')} options={[['unsharp', 'unsharp mask'], ['highpass', 'high-pass']]} onchange={(method) => set({ method: method === 'unsharp' ? undefined : method })} />
    <div class="guard">
      <Choice label="Guard" value={guarded} options={[['auto', 'automatic'], ['levels', 'by hand'], ['none', 'none']]} onchange={guardBy} />
      {#if guarded === 'auto'}<span class="dim numbers">{edges ? `${edges.guard.toFixed(1)} levels here` : ''}</span>{:else if guarded === 'levels'}<Typed label="" name="Flat-area guard" value={typedGuard ?? String(here['guard'] ?? 0)} wide={34} unit="levels" problem={typedGuard === undefined ? undefined : 'Type 0 to 40 levels.'} onchange={setGuard} />{/if}
    </div>
    {#if edges && strength > 0}<p class="dim numbers" data-overshoot>The strongest edges go {edges.overshoot.toFixed(0)} levels of 255 beyond what is around them{edges.overshoot > 20 ? '; from about 20 on, a rim can be seen' : ''}.</p>{/if}
    <p class="dim">Radius {facts?.radius.toFixed(2)} px{here['radius'] === undefined ? ', by the size' : ''}. {guarded === 'none' ? 'Flat areas are sharpened, too.' : 'Areas with less structure than the guard stay as they are.'}</p>
    <div class="keep">
      <button class="press" disabled={!own || strength === (facts?.own ?? -1)} onclick={() => void trying(() => closer.keepForPhoto(closer.strength))}>Keep {strength} % for this photo</button>
      <button class="quiet" disabled={!closer.changed} onclick={() => void trying(() => { if (own) set({ strength }); return closer.keepInRecipe('sharpen', closer.part !== undefined); })}>Keep for the recipe{closer.part ? ' alone' : ''}</button>
      {#if closer.part}<button class="quiet" disabled={!closer.changed} onclick={() => void trying(() => { if (own) set({ strength }); return closer.keepInRecipe('sharpen'); })}>Keep for the part “{closer.part.name}” ({recipes} {recipes === 1 ? 'recipe' : 'recipes'})</button>{/if}
      {#if others}<p class="dim">Only the strength can be a photo’s own. Guard and method, as tried here, are kept for the recipe or not at all.</p>{/if}
      {#if facts?.own != null}<button class="plain" onclick={() => void trying(() => closer.keepForPhoto(undefined))}>Follow the recipe again</button>{/if}
    </div>
    {#each [['flat', 'Flat areas of the tray'], ['fine', 'Finest textures']] as [kind, title] (kind)}
      <h2>{title}</h2>
      <div class="places">
        {#each places.filter((each) => each.kind === kind) as place (place.photo)}
          <button class="place" class:on={place.photo === closer.photo} onclick={() => jump(place)} title={place.name}>{place.name}</button>
        {:else}<span class="dim">Looking…</span>{/each}
      </div>
    {/each}
  </aside>
</div>
<footer class="foot">
  <div class="tools">
    <Choice label="Compare" labeled={false} value={mode} options={MODES} onchange={(to) => (mode = MODES.find(([name]) => name === to)?.[0] ?? mode)} />
    <Choice label="Magnification" labeled={false} value={String(zoom)} options={[['1', '100 %'], ['2', '200 %']]} onchange={(to) => (zoom = Number(to))} />
    <span class="dim keys">drag, or use arrows · <kbd>B</kbd> blink · <kbd>M</kbd> mask · <kbd>D</kbd> difference · + − strength</span>
  </div>
</footer>

<style>
  .bench { flex: 1; min-height: 0; display: flex; }
  .stage { flex: 1; min-width: 0; display: flex; gap: 8px; justify-content: center; align-items: center; cursor: grab; overflow: hidden; touch-action: none; }
  .stage:active { cursor: grabbing; }
  .over { position: relative; }
  .upper { position: absolute; inset: 0; }
  .upper.hidden { visibility: hidden; }
  aside { width: min(312px, 45%); flex: none; padding: 14px 16px; overflow: auto; background: var(--bench); display: flex; flex-direction: column; gap: 8px; }
  aside :global(.quantity) { grid-template-columns: 64px 1fr 96px; }
  aside :global(.choice.labeled), aside :global(.typed-field) { grid-template-columns: 64px auto 1fr; }
  h2 { font-weight: 600; font-size: 13px; margin-top: 8px; }
  h2:first-child { margin-top: 0; }
  .guard { display: flex; gap: 8px; align-items: center; flex-wrap: wrap; }
  .guard :global(.choice.labeled) { width: 100%; grid-template-columns: 64px 1fr; }
  .numbers { font-variant-numeric: tabular-nums; }
  .keep { display: grid; gap: 6px; }
  .keep button { justify-content: center; min-height: 32px; }
  .places { display: grid; gap: 1px; }
  .place { text-align: left; padding: 4px 8px; min-height: 25px; border-radius: var(--radius); overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
  .place:hover, .place.on { background: var(--sheet); }
  .tools { display: flex; gap: 16px; align-items: center; min-width: 0; overflow: hidden; white-space: nowrap; }
  .keys { overflow: hidden; text-overflow: ellipsis; }
</style>
