<script lang="ts">
  import { api, taken, type Tray } from '../api/client';
  import { asking } from '../api/query.svelte';
  import { trying } from '../shell/notices.svelte';
  import { router } from '../shell/router.svelte';
  import Asked from '../ui/Asked.svelte';
  import { count } from '../words/numbers';
  import { changeTray } from './make';

  const list = asking<Tray[]>(
    () => taken(api.GET('/api/trays', { params: { query: { archived: true } } })),
    (hint) => hint.kind === 'tray',
  );

  function restore(tray: Tray): void {
    void trying(async () => {
      await changeTray(tray, { archived: false });
      router.go(`/trays/${tray.id}`);
    });
  }
</script>

<div class="page">
  <h1>Archived trays</h1>
  <Asked query={list}>
  {#snippet children(trays)}
    <ul>
      {#each trays as tray (tray.id)}
        <li>
          <span class="strong">{tray.name}</span>
          <span class="dim">{count(tray.photos, 'photo')} from {count(tray.folders, 'folder')}</span>
          <button class="plain" onclick={() => restore(tray)} aria-label="Restore {tray.name}">Restore</button>
        </li>
      {:else}
        <li class="dim">No tray is archived. “Tray” at the top of a board archives it.</li>
      {/each}
    </ul>
  {/snippet}
  </Asked>
</div>

<style>
  .page { padding: 16px; overflow: auto; max-width: 720px; }
  h1 { font-size: 20px; font-weight: 600; margin-bottom: 12px; }
  ul { list-style: none; display: grid; gap: 3px; font-size: 13px; }
  li { background: var(--bench); border-radius: var(--radius); padding: 11px 14px; display: flex; gap: 16px; align-items: baseline; }
  li button { margin-left: auto; }
</style>
