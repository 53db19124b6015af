<script lang="ts">
  import { answered, type Tray } from '../api/client';
  import RunCorner from '../runs/RunCorner.svelte';
  import Actions from '../ui/Actions.svelte';
  import Pick from '../ui/Pick.svelte';
  import { count } from '../words/numbers';
  import mark from './mark.svg';
  import { trying } from './notices.svelte';
  import { room, type Choice } from './room.svelte';
  import { router } from './router.svelte';
  import { studio } from './studio.svelte';
  import { undo } from './undo.svelte';

  let { section, tray, onkeys, onnew }: { section: string; tray: Tray | undefined; onkeys: () => void; onnew: () => void } =
    $props();

  async function signOut(): Promise<void> {
    await trying(async () => {
      await answered('/sign-out');
      location.assign('/sign-in');
    });
  }

  const words = $derived(section === 'trays' && router.parts[2] === 'words');
  const places = $derived([
    { name: 'Board', to: tray ? `/trays/${tray.id}` : '/trays', here: section === 'trays' && !words },
    ...(tray ? [{ name: 'Words', to: `/trays/${tray.id}/words`, here: words }] : []),
    { name: 'Recipes', to: '/recipes', here: section === 'recipes' || section === 'marks' },
    { name: 'Outlets', to: '/outlets', here: section === 'outlets' },
    { name: 'Runs', to: '/runs', here: ['runs', 'links', 'deliveries', 'inlets'].includes(section) },
  ]);
  /** What runs wait to be told. */
  const asked = $derived(studio.runs.reduce((sum, run) => sum + (run.finished ? 0 : run.counts.asking), 0));
  const ROOMS: [Choice, string][] = [['system', 'As the system has it'], ['light', 'Light room'], ['dark', 'Dark room']];
  const rooms = $derived(ROOMS.map(([choice, name]) => ({ text: room.choice === choice ? `${name} (now)` : name, do: () => room.set(choice) })));
  const last = $derived(undo.steps.at(-1)?.what);
  const next = $derived(undo.undone.at(-1)?.what);
</script>

<header>
  <a class="mark" href={tray ? `/trays/${tray.id}` : '/'} aria-label="Upper Tray, the board">
    <img src={mark} alt="" width="24" height="20" />Upper Tray
  </a>
  <nav aria-label="Main">
    {#each places as place (place.name)}
      <a class="pill" class:on={place.here} aria-current={place.here ? 'page' : undefined} href={place.to}>{place.name}</a>
    {/each}
  </nav>
  {#if section === 'trays' && tray && studio.trays}
    <div class="tray"><Pick label="Tray" value={String(tray.id)} options={studio.trays.map((each): [string, string] => [String(each.id), each.name])} onchange={(id) => router.go(`/trays/${id}${words ? '/words' : ''}`)} /></div>
    <span class="dim facts">{count(tray.photos, 'photo')} from {count(tray.folders, 'folder')}</span>
    <button class="plain" onclick={onnew}>Gather photos</button>
  {/if}
  <div class="right">
    {#if asked || section === 'questions'}<a class="asked" href="/questions" aria-current={section === 'questions' ? 'page' : undefined}>{asked === 1 ? '1 question' : `${asked.toLocaleString('en-US')} questions`}</a>{/if}
    <RunCorner />
    <span class="steps">
      <button class="dim" disabled={!last && !undo.local?.past} title={last ? `Undo: ${last} (Ctrl Z)` : 'Nothing to undo'} onclick={() => void trying(() => undo.last())}>Undo</button>
      <button class="dim" disabled={!next && !undo.local?.future} title={next ? `Do again: ${next} (Ctrl Shift Z)` : 'Nothing to do again'} onclick={() => void trying(() => undo.again())}>Redo</button>
    </span>
    <Actions label="Room" kind="dim" actions={rooms} />
    <a class="dim" href="/storage" aria-current={section === 'storage' ? 'page' : undefined}>Storage</a>
    <button class="dim" onclick={onkeys}>Keys <kbd>?</kbd></button>
    {#if studio.me && !studio.me.demo}<button class="dim" onclick={() => void signOut()}>Sign out {studio.me.user}</button>{/if}
  </div>
</header>

<style>
  header {
    height: 46px; flex: none; display: flex; align-items: center; gap: 12px; padding: 0 16px;
    border-bottom: 1px solid var(--line); background: var(--bench); white-space: nowrap;
  }
  /* With questions, a run and a name to sign out there is little room: the tray's name gives way last of all. */
  @media (max-width: 1440px) {
    header { gap: 10px; }
    header .mark { margin-right: 0; }
    header nav { margin-right: 4px; }
    header .right { gap: 12px; flex: none; }
    header .right kbd { display: none; }
    header:has(.asked) .facts { display: none; }
  }
  @media (max-width: 900px) { header { height: auto; flex-wrap: wrap; padding: 6px 16px; row-gap: 4px; } }
  .mark { display: flex; align-items: center; gap: 12px; font-weight: 600; font-size: 15px; text-decoration: none; margin-right: 8px; }
  :global([data-room='dark']) .mark img { filter: invert(0.92) hue-rotate(180deg); }
  nav { display: flex; gap: 2px; margin-right: 12px; }
  nav a { text-decoration: none; font-size: 12px; }
  .pill:hover:not(.on) { background: var(--room); }
  .tray { min-width: 80px; flex: 0 1 auto; }
  .tray :global(:is(.bx--form-item, .bx--select, .bx--select-input__wrapper)) { width: auto; flex: 0 1 auto; min-width: 0; max-width: 100%; }
  .tray :global(.bx--select-input) {
    background: transparent; border: 0; font-weight: 600; font-size: 15px; height: 30px; padding: 0 24px 0 6px; max-width: min(260px, 100%); width: auto;
    field-sizing: content; text-overflow: ellipsis; color: var(--ink); border-radius: 4px;
  }
  .tray :global(.bx--select-input:hover) { background: var(--room); }
  .tray :global(.bx--select__arrow) { right: 6px; width: 13px; }
  .facts { overflow: hidden; text-overflow: ellipsis; flex: 0 1000 auto; min-width: 0; }
  .right { margin-left: auto; display: flex; gap: 16px; align-items: center; }
  .asked { background: var(--eye-soft); color: var(--eye); font-weight: 600; border-radius: 16px; padding: 6px 14px; text-decoration: none; }
  .steps { display: flex; gap: 12px; }
  .right a.dim { text-decoration: none; }
  .right .dim:hover:not(:disabled), .right [aria-current] { color: var(--ink); text-decoration: underline; text-underline-offset: 3px; }
  .right button:disabled { color: var(--faint); }
</style>
