<script lang="ts">
  import { untrack } from 'svelte';
  import { onHint, paced, startLive } from './api/live';
  import { opening } from './api/query.svelte';
  import Board from './board/Board.svelte';
  import { telling } from './runs/notice.svelte';
  import { connection } from './shell/connection.svelte';
  import { escape } from './shell/escape';
  import Header from './shell/Header.svelte';
  import Keys from './shell/Keys.svelte';
  import { letters, typing } from './shell/keys.svelte';
  import Notices from './shell/Notices.svelte';
  import { busy, say, trying } from './shell/notices.svelte';
  import Page, { getAll } from './shell/Page.svelte';
  import { follow, router } from './shell/router.svelte';
  import { homeTray, rememberTray, studio } from './shell/studio.svelte';
  import { steps } from './shell/steps.svelte';
  import Tips from './shell/Tips.svelte';
  import { undo } from './shell/undo.svelte';
  import NewTray from './trays/NewTray.svelte';
  import Uploads from './trays/Uploads.svelte';
  import DropZone from './trays/DropZone.svelte';
  import Failed from './ui/Failed.svelte';

  /** Milliseconds after which pages that nobody opened yet are loaded. */
  const LATER = 2500;
  let keysOpen = $state(false);
  let newTrayOpen = $state(false);
  const opened = opening(() => studio.load());

  const section = $derived(router.parts[0] ?? 'trays');
  const id = $derived(Number(router.parts[1]));
  const tray = $derived(
    studio.trays && (section === 'trays' && id ? studio.trays.find((each) => each.id === id) : homeTray(studio.trays)),
  );

  const asked = (name: string) => new URLSearchParams(router.query).get(name) ?? '';

  $effect(() => {
    const runs = paced(async () => {
      await studio.loadRuns();
      telling.look();
    }, 300);
    const trays = paced(() => studio.loadTrays(), 500);
    const recipes = paced(() => studio.loadRecipes(), 300);
    const off = onHint((hint) => {
      if (hint.kind === 'run' || hint.kind === 'resync') runs();
      if (hint.kind === 'tray' || hint.kind === 'resync') trays();
      if (hint.kind === 'recipe' || hint.kind === 'resync') recipes();
    });
    const stop = startLive();
    const later = setTimeout(() => void getAll().catch(() => undefined), LATER);
    return () => {
      clearTimeout(later);
      off();
      stop();
    };
  });

  $effect(() => {
    if (section === 'trays' && tray) rememberTray(tray.id);
  });

  // A page of the first steps was opened.
  $effect(() => {
    const step = section === 'recipes' && id ? 'recipe' : section === 'trays' && router.parts[2] === 'bench' ? 'crop' : undefined;
    if (step) untrack(() => steps.did(step));
  });

  function pressed(event: KeyboardEvent): void {
    if (event.key.toLowerCase() === 'z' && (event.ctrlKey || event.metaKey) && !typing(event)) {
      event.preventDefault();
      void trying(() => (event.shiftKey ? undo.again() : undo.last()));
    } else if (event.key === 'Escape') escape(event);
    else if (event.key === '?' && !event.defaultPrevented && letters.on && !typing(event)) keysOpen = !keysOpen;
  }
</script>

<svelte:head><title>{{ recipes: 'Recipes · ', marks: 'Marks · ', runs: 'Runs · ', outlets: 'Outlets · ', storage: 'Storage · ', questions: 'Questions · ', archive: 'Archived trays · ' }[section] ?? ''}Upper Tray</title></svelte:head>
<svelte:window
  onkeydown={pressed}
  onunhandledrejection={(event) => say(event.reason instanceof Error ? event.reason.message : 'Something went wrong. Reload the page.', { bad: true })}
/>
<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
<div class="app" onclick={follow}>
  {#if connection.lost}
    <p class="lost" role="alert">No connection to the server. What you see may be old. Upper Tray keeps trying; nothing that you type is lost.</p>
  {/if}
  <Header {section} {tray} onkeys={() => (keysOpen = true)} onnew={() => (newTrayOpen = true)} />
  <main>
    {#if busy.long}<div class="busy" role="progressbar" aria-label="Working"></div>{/if}
    {#if opened.problem}
      <Failed query={opened} />
    {:else if !studio.trays}
      <p class="empty dim" aria-busy="true">One moment…</p>
    {:else if section === 'recipes' && id}
      {#key id}<Page name="line" {id} {tray} />{/key}
    {:else if section === 'recipes'}
      <Page name="recipes" {tray} />
    {:else if section === 'marks'}
      <Page name="marks" />
    {:else if section === 'inlets'}
      <Page name="inlets" />
    {:else if section === 'deliveries'}
      <Page name="deliveries" />
    {:else if section === 'links' && id}
      {#key id}<Page name="link" {id} />{/key}
    {:else if section === 'links'}
      <Page name="links" />
    {:else if section === 'outlets' && id && router.parts[2] === 'rehearsal'}
      {#key `${id} ${asked('recipe')} ${asked('use')}`}<Page name="rehearsal" outlet={id} recipe={Number(asked('recipe'))} use={asked('use')} {tray} />{/key}
    {:else if section === 'outlets' && id}
      {#key id}<Page name="outlet" {id} />{/key}
    {:else if section === 'outlets'}
      <Page name="outlets" />
    {:else if section === 'runs' && id}
      {#key id}<Page name="run" {id} />{/key}
    {:else if section === 'runs'}
      <Page name="runs" />
    {:else if section === 'questions'}
      <Page name="questions" />
    {:else if section === 'archive'}
      <Page name="archive" />
    {:else if !['trays', 'recipes', 'marks', 'outlets', 'links', 'deliveries', 'inlets', 'runs', 'storage', 'questions'].includes(section)}
      <div class="empty">
        <h1 class="title">Page not found</h1>
        <p>There is nothing at {router.path}.</p>
        <a class="plain" href="/">Go to the board</a>
      </div>
    {:else if section === 'storage'}
      <Page name="storage" />
    {:else if !tray && id}
      <div class="empty">
        <h1 class="title">Tray not found</h1>
        <p>It was archived or deleted, or the address is wrong.</p>
        <p><a class="plain" href="/">Go to the board</a> · <a class="plain" href="/archive">Archived trays</a></p>
      </div>
    {:else if tray && router.parts[2] === 'bench' && router.parts[5] === 'tone'}
      {#key router.path}<Page name="tone" tray={tray.id} photo={Number(router.parts[3])} recipe={Number(router.parts[4])} />{/key}
    {:else if tray && router.parts[2] === 'bench' && router.parts[5] === 'outline'}
      {#key router.path}<Page name="outline" tray={tray.id} photo={Number(router.parts[3])} recipe={Number(router.parts[4])} />{/key}
    {:else if tray && router.parts[2] === 'bench' && router.parts[5]}
      {#key router.path}<Page name="closer" tray={tray.id} photo={Number(router.parts[3])} recipe={Number(router.parts[4])} look={router.parts[5]} />{/key}
    {:else if tray && router.parts[2] === 'bench'}
      {#key router.path}<Page name="bench" tray={tray.id} photo={Number(router.parts[3])} recipe={Number(router.parts[4])} />{/key}
    {:else if tray && router.parts[2] === 'words'}
      {#key tray.id}<Page name="sheet" {tray} />{/key}
    {:else if tray}
      {#key tray.id}<Board {tray} />{/key}
    {:else}
      <div class="empty">
        <h1 class="title">No tray yet</h1>
        <p>A tray is a working set of photos. Make one from folders, or drop files on this window.</p>
        <button class="press" onclick={() => (newTrayOpen = true)}>New tray</button>
      </div>
    {/if}
    <Tips />
  </main>
</div>
<DropZone {tray} />
<Uploads />
<Notices />
<Keys bind:open={keysOpen} />
<NewTray bind:open={newTrayOpen} {tray} />

<style>
  .app { height: 100%; display: flex; flex-direction: column; }
  main { flex: 1; min-height: 0; display: flex; flex-direction: column; }
  /* Large text on a small window: the page scrolls, and the work gets all of the window. */
  @media (max-width: 900px), (max-height: 560px) {
    .app { height: auto; min-height: 100%; }
    main { flex: none; height: max(100vh, 560px); overflow-x: clip; }
  }
  .empty { margin: auto; display: grid; gap: 14px; justify-items: center; font-size: 13px; }
  .title { font-size: 20px; font-weight: 600; }
  .lost { background: var(--eye-soft); color: var(--eye); padding: 6px 16px; font-size: 13px; }
  .busy { position: fixed; inset: 0 0 auto; height: 3px; z-index: 9600; background: linear-gradient(90deg, transparent, var(--accent), transparent) 0 0 / 40% 100% no-repeat; animation: go 1.1s linear infinite; }
  @keyframes go { from { background-position: -60% 0; } to { background-position: 160% 0; } }
</style>
