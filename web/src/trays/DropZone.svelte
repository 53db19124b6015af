<script lang="ts">
  import type { Tray } from '../api/client';
  import { trying } from '../shell/notices.svelte';
  import { filesOf, trayName } from './dropped';
  import { makeTray } from './make';
  import { uploads } from './uploads.svelte';

  let { tray }: { tray: Tray | undefined } = $props();

  let over = $state(false);
  let leaving: ReturnType<typeof setTimeout> | undefined;

  const carriesFiles = (event: DragEvent) => event.dataTransfer?.types.includes('Files') ?? false;

  function dragged(event: DragEvent): void {
    if (!carriesFiles(event)) return;
    event.preventDefault();
    clearTimeout(leaving);
    over = true;
    // Browsers tell of every element that is left; only silence means that the window was.
    leaving = setTimeout(() => (over = false), 400);
  }

  function dropped(event: DragEvent): void {
    if (!carriesFiles(event) || !event.dataTransfer) return;
    event.preventDefault();
    over = false;
    const fresh = (event.target as Element).closest('[data-drop="new"]') !== null || !tray;
    const reading = filesOf(event.dataTransfer.items);
    void trying(async () => {
      const files = await reading;
      if (fresh) await makeTray(trayName(files), [], files);
      else if (tray) await uploads.add(tray, files);
    });
  }
</script>

<svelte:window ondragover={dragged} ondragenter={dragged} ondrop={dropped} />
{#if over}
  <div class="over">
    {#if tray}<div class="zone" data-drop="here"><b>Add to {tray.name}</b><span>Drop here</span></div>{/if}
    <div class="zone" data-drop="new"><b>New tray</b><span>Drop here</span></div>
  </div>
{/if}

<style>
  .over { position: fixed; inset: 0; z-index: 9500; background: rgb(207 207 205 / 0.9); display: grid; grid-auto-flow: column; grid-auto-columns: 1fr; gap: 16px; padding: 60px 40px; }
  .zone { border: 2px dashed var(--accent); border-radius: 10px; background: var(--sheet); display: grid; place-content: center; justify-items: center; gap: 6px; font-size: 13px; }
  b { font-size: 20px; font-weight: 600; }
</style>
