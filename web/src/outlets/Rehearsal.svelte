<script lang="ts">
  import { tick } from 'svelte';
  import { api, taken, type Tray } from '../api/client';
  import { same } from '../api/same';
  import { opening } from '../api/query.svelte';
  import { dragging } from '../bench/dragging';
  import { onEscape } from '../shell/escape';
  import { pageKey } from '../shell/keys.svelte';
  import { say, showing, trying } from '../shell/notices.svelte';
  import { router } from '../shell/router.svelte';
  import { studio } from '../shell/studio.svelte';
  import { changedRecipe, undo } from '../shell/undo.svelte';
  import type { Area } from '../ui/CoveredParts.svelte';
  import Failed from '../ui/Failed.svelte';
  import Panel from '../ui/Panel.svelte';
  import { count } from '../words/numbers';
  import AddVariant from './AddVariant.svelte';
  import { valueAt, type Json } from './fields';
  import { RehearsalState, type Tried } from './rehearsal.svelte';
  import ScoreChart from './ScoreChart.svelte';
  import type { Outlet } from './sheet.svelte';
  import VariantCard from './VariantCard.svelte';
  import Verdicts from './Verdicts.svelte';

  let { outlet, recipe, use, tray }: { outlet: number; recipe: number; use: string; tray: Tray | undefined } = $props();

  // Keyed by its address.
  // svelte-ignore state_referenced_locally
  const rehearsal = new RehearsalState(outlet, use, recipe);
  let found = $state.raw<Outlet>();
  let photos = $state.raw<readonly number[]>([]);
  let failed = $state('');
  let view = $state('pixels');
  let middle = $state({ x: 0.5, y: 0.5 });
  let busy = $state(false);
  let cards = $state<HTMLElement>();
  const VIEWS = [['pixels', 'at 100 %'], ['page', 'on its page'], ['phone', 'on a phone']] as const;

  const trayId = $derived(tray?.id);
  const opened = opening(() => load(trayId), () => trayId);
  $effect(() => () => rehearsal.stop());

  async function load(number: number | undefined): Promise<void> {
    if (number === undefined) return;
    const path = { number };
    const [board, sheet] = await Promise.all([taken(api.GET('/api/trays/{number}/board', { params: { path } })), taken(api.GET('/api/outlets/{number}', { params: { path: { number: outlet } } }))]);
    found = sheet;
    photos = board.photos;
    const asked = Number(new URLSearchParams(router.query).get('photo'));
    const first = photos.includes(asked) ? asked : photos[0];
    if (first === undefined) throw new Error('This tray has no photos to rehearse. Gather some first.');
    await go(first);
  }

  async function go(photo: number): Promise<void> {
    if (trayId === undefined) return;
    failed = '';
    const query = new URLSearchParams(router.query);
    query.set('photo', String(photo));
    router.go(`${router.path}?${query.toString()}`, true);
    middle = { x: 0.5, y: 0.5 };
    try {
      await rehearsal.start(trayId, photo);
    } catch (error) {
      failed = error instanceof Error ? error.message : String(error);
    }
  }

  const at = $derived(photos.indexOf(rehearsal.photo));
  const kept = $derived(studio.recipes.find((each) => each.id === recipe));
  const sheetUse = $derived(((found?.content['uses'] as Json[] | undefined) ?? []).find((each) => each['use'] === use) ?? {});
  const page = $derived(String(sheetUse['page'] ?? 'feed'));
  const covered = $derived((valueAt(sheetUse, 'rules.covered') as Area[] | undefined) ?? []);
  const formats = $derived((valueAt(sheetUse, 'rules.formats') as string[] | undefined) ?? ['jpeg']);
  const best = $derived(rehearsal.best);
  // They come in the order in which they were asked for, and are ranked once all are there.
  const shown = $derived(rehearsal.waiting ? rehearsal.tried : rehearsal.ranked);
  // The best come first then: whoever has not scrolled sees them.
  $effect(() => {
    if (!rehearsal.waiting) void tick().then(() => cards?.scrollTo({ left: 0 }));
  });
  const rank = (tried: Tried) => (rehearsal.waiting || !tried.made ? undefined : rehearsal.ranked.indexOf(tried) + 1);
  const chosen = $derived(rehearsal.tried.find((each) => each.key === rehearsal.chosen) ?? best);
  const name = (tried: Tried | undefined) => tried?.made?.what ?? '';

  function pan(event: PointerEvent, room: { width: number; height: number }): void {
    if (event.button !== 0 || !rehearsal.about) return;
    const from = middle;
    const { seen_width: wide, seen_height: high } = rehearsal.about;
    const inside = (value: number, part: number) => (part >= 1 ? 0.5 : Math.min(1 - part / 2, Math.max(part / 2, value)));
    dragging(event, (by) => {
      middle = {
        x: inside(from.x - (by.x * devicePixelRatio) / wide, (room.width * devicePixelRatio) / wide),
        y: inside(from.y - (by.y * devicePixelRatio) / high, (room.height * devicePixelRatio) / high),
      };
    });
  }

  /** The recipe as the variant has it. */
  function keep(tried: Tried | undefined): void {
    if (!tried || busy) return;
    busy = true;
    void trying(async () => {
      const before = kept?.content;
      const used = await rehearsal.content(tried.variant);
      const made = await taken(api.PUT('/api/recipes/{number}', { params: { path: { number: recipe } }, body: { content: used.content as Record<string, never>, version: used.version } }));
      if (same(made.content, before)) say(`${made.title} makes it like this already.`);
      else {
        changedRecipe(made, before);
        say(`${made.title} makes ${name(tried)} now.`);
      }
      await studio.loadRecipes();
    }).finally(() => (busy = false));
  }

  /** A second recipe for photos that another variant suits better. */
  function second(tried: Tried): void {
    if (busy) return;
    busy = true;
    void trying(async () => {
      const used = await rehearsal.content(tried.variant);
      const title = `${kept?.title ?? ''} (${name(tried)})`.slice(0, 80);
      const made = await taken(api.POST('/api/recipes', { body: { content: { ...used.content, title } as unknown as Record<string, never> } }));
      const archiving = (archived: boolean) => ({ method: 'POST' as const, path: `/api/recipes/${made.id}/archived`, body: { archived } });
      undo.push({ what: `made ${made.title}`, at: '/recipes', place: made.title, undo: [archiving(true)], redo: [archiving(false)] });
      await studio.loadRecipes();
      say(`${made.title} is made. Choose on the board which photos it makes.`, { link: { to: `/recipes/${made.id}`, text: 'Open it' } });
    }).finally(() => (busy = false));
  }

  $effect(() => onEscape(() => router.go(`/outlets/${outlet}`)));

  function step(by: number): void {
    const next = photos[at + by];
    if (next !== undefined) void showing(() => go(next));
  }

  function pressed(event: KeyboardEvent): void {
    const key = pageKey(event);
    if (key === 'ArrowDown' || key === 'j') step(1);
    else if (key === 'ArrowUp' || key === 'k') step(-1);
    else if (key === 'ArrowRight' || key === 'ArrowLeft') {
      const place = shown.findIndex((each) => each.key === chosen?.key) + (key === 'ArrowRight' ? 1 : -1);
      rehearsal.chosen = shown[Math.min(shown.length - 1, Math.max(0, place))]?.key;
    } else if (key === '1' || key === '2' || key === '3') view = VIEWS[Number(key) - 1]?.[0] ?? 'pixels';
    else return;
    event.preventDefault();
  }
</script>

<svelte:head><title>Rehearsal{found ? ` at ${found.name}` : ''} · Upper Tray</title></svelte:head>
<svelte:window onkeydown={pressed} />
<div class="top">
  <a class="dim" href="/outlets/{outlet}">‹ {found?.name ?? 'Outlet'} <kbd>Esc</kbd></a>
  <h1>Rehearsal</h1>
  {#if rehearsal.about && found}<p class="dim said">what people will see of {rehearsal.about.photo}, made by {kept?.title ?? 'the recipe'}, after {found.name} has made its own copy</p>{/if}
  <div class="views" role="group" aria-label="View">
    {#if photos.length > 1}<span class="dim steps"><button class="plain" disabled={at <= 0} aria-label="Photo before" onclick={() => step(-1)}>↑</button> photo {(at + 1).toLocaleString('en-US')} of {photos.length.toLocaleString('en-US')} <button class="plain" disabled={at >= photos.length - 1} aria-label="Next photo" onclick={() => step(1)}>↓</button></span>{/if}
    {#each VIEWS as [each, title] (each)}<button class="pill ring" class:on={view === each} aria-pressed={view === each} onclick={() => (view = each)}>{title}</button>{/each}
  </div>
</div>
{#if failed}
  <p class="empty">{failed} <a class="plain" href="/outlets/{outlet}">Go to the outlet</a></p>
{:else if opened.problem}
  <Failed query={opened} instead={{ to: `/outlets/${outlet}`, text: 'Go to the outlet' }} />
{:else if !tray}
  <p class="empty">There is no tray yet to take a photo from. <a class="plain" href="/">Go to the board</a></p>
{:else if !rehearsal.about}
  <p class="empty dim" aria-busy="true">Making the ideal to compare with…</p>
{:else}
  <div class="cards" bind:this={cards}>
    {#each shown as tried (tried.key)}
      <VariantCard {tried} about={rehearsal.about} {view} {page} {covered} {middle} rank={rank(tried)} chosen={chosen?.key === tried.key} {busy} onchoose={() => (rehearsal.chosen = tried.key)} onuse={() => keep(tried)} onremove={() => rehearsal.remove(tried.key)} onagain={() => void showing(() => rehearsal.again(tried))} onpan={pan} />
    {/each}
  </div>
  <div class="under">
    <section aria-label="Chart"><h2>Like the ideal, by the bytes that people load</h2><ScoreChart tried={rehearsal.tried} best={best?.key} chosen={chosen?.key} onchoose={(key) => (rehearsal.chosen = key)} /></section>
    <Verdicts {rehearsal} {photos} recipes={busy} outlet={found?.name ?? ''} onsecond={second} />
  </div>
{/if}
<footer class="foot">
  <div class="sums"><span><b>{rehearsal.tried.length}</b> {rehearsal.tried.length === 1 ? 'variant' : 'variants'}</span><span class="dim" aria-live="polite">{rehearsal.waiting ? `${count(rehearsal.waiting, 'more', 'more')} on their way` : rehearsal.seconds === undefined ? '' : `rehearsed in ${rehearsal.seconds.toFixed(1)} s`}</span></div>
  <div class="do">
    {#if rehearsal.about}<Panel label="Add a variant" kind="quiet" wide={470} up>{#snippet children(close)}<AddVariant {formats} native={rehearsal.about?.width ?? 0} onadd={(variant) => { close(); void showing(() => rehearsal.add(variant)); }} />{/snippet}</Panel>{/if}
    <button class="press" disabled={!chosen?.made || busy} onclick={() => keep(chosen)}>Use {name(chosen) || 'the best'}</button>
  </div>
</footer>

<style>
  .top { height: 42px; flex: none; display: flex; gap: 14px; align-items: center; padding: 0 16px; white-space: nowrap; }
  .top > a { text-decoration: none; }
  h1 { font-weight: 600; font-size: 15px; }
  .said { overflow: hidden; text-overflow: ellipsis; min-width: 0; }
  .views { margin-left: auto; display: flex; gap: 10px; align-items: center; flex: none; }
  .steps { display: inline-flex; gap: 8px; align-items: center; }
  .empty { margin: auto; font-size: 13px; }
  .cards { flex: 1; min-height: 260px; display: grid; grid-auto-flow: column; grid-auto-columns: calc((100% - 30px) / 4); gap: 10px; padding: 0 16px 6px; overflow-x: auto; scroll-snap-type: x proximity; scroll-padding: 16px; }
  .under { flex: none; height: 178px; display: grid; grid-template-columns: 1fr 1fr; gap: 10px; padding: 4px 16px 10px; }
  .under > :global(section) { background: var(--sheet); border-radius: var(--radius); padding: 10px 14px; display: flex; flex-direction: column; gap: 4px; min-width: 0; min-height: 0; }
  h2 { font-weight: 600; font-size: 12px; }
  @media (max-width: 900px) { .top { height: auto; flex-wrap: wrap; } .cards { grid-auto-columns: 70%; } .under { height: auto; grid-template-columns: 1fr; } }
</style>
