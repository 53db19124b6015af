<script lang="ts">
  import { csrf, type Tray } from '../api/client';
  import RunCorner from '../runs/RunCorner.svelte';
  import { count } from '../words/numbers';
  import mark from './mark.svg';
  import { router } from './router.svelte';
  import { studio } from './studio.svelte';

  let { section, tray, onkeys, onnew }: { section: string; tray: Tray | undefined; onkeys: () => void; onnew: () => void } =
    $props();

  async function signOut(): Promise<void> {
    await fetch('/sign-out', { method: 'POST', headers: { 'X-CSRFToken': csrf() } });
    location.assign('/sign-in');
  }

  const places = [
    { section: 'trays', name: 'Board' },
    { section: 'recipes', name: 'Recipes' },
    { section: 'runs', name: 'Runs' },
  ];
</script>

<header>
  <a class="mark" href={tray ? `/trays/${tray.id}` : '/'} aria-label="Upper Tray, the board">
    <img src={mark} alt="" width="24" height="20" />Upper Tray
  </a>
  <nav aria-label="Main">
    {#each places as place (place.section)}
      <a
        class="pill"
        class:on={section === place.section}
        aria-current={section === place.section ? 'page' : undefined}
        href={place.section === 'trays' && tray ? `/trays/${tray.id}` : `/${place.section}`}>{place.name}</a
      >
    {/each}
  </nav>
  {#if section === 'trays' && tray && studio.trays}
    <label class="tray">
      <span class="visually-hidden">Tray</span>
      <select value={tray.id} onchange={(event) => router.go(`/trays/${event.currentTarget.value}`)}>
        {#each studio.trays as each (each.id)}<option value={each.id}>{each.name}</option>{/each}
      </select>
    </label>
    <span class="dim facts">{count(tray.photos, 'photo')} from {count(tray.folders, 'folder')}</span>
    <button class="plain" onclick={onnew}>Gather photos</button>
  {/if}
  <div class="right">
    <RunCorner />
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
  .mark { display: flex; align-items: center; gap: 12px; font-weight: 600; font-size: 15px; text-decoration: none; margin-right: 8px; }
  nav { display: flex; gap: 2px; margin-right: 12px; }
  nav a { text-decoration: none; font-size: 12px; }
  .pill:hover:not(.on) { background: var(--room); }
  select {
    appearance: none; background: transparent; border: 0; font-weight: 600; font-size: 15px; cursor: pointer; padding: 2px 18px 2px 4px;
    border-radius: 4px; max-width: 260px; text-overflow: ellipsis;
    background-image: linear-gradient(45deg, transparent 50%, var(--dim) 50%), linear-gradient(-45deg, transparent 50%, var(--dim) 50%);
    background-position: right 9px center, right 4px center; background-size: 5px 5px; background-repeat: no-repeat;
  }
  select:hover { background-color: var(--room); }
  .facts { overflow: hidden; text-overflow: ellipsis; }
  .right a.dim { text-decoration: none; }
  .right .dim:hover, .right [aria-current] { color: var(--ink); text-decoration: underline; text-underline-offset: 3px; }
  .right { margin-left: auto; display: flex; gap: 16px; align-items: center; }
</style>
