<script lang="ts">
  import type { Tray } from '../api/client';
  import { trying } from '../shell/notices.svelte';
  import { studio } from '../shell/studio.svelte';
  import SizeDrawing from '../ui/SizeDrawing.svelte';
  import { filesOf, trayName } from './dropped';
  import { makeTray } from './make';
  import { makeAtOnce } from './quick';
  import { uploads } from './uploads.svelte';

  let { tray }: { tray: Tray | undefined } = $props();

  /** As many as can be aimed at. */
  const MOST = 12;
  const recipes = $derived(studio.recipes.filter((recipe) => !recipe.archived).slice(0, MOST));
  let over = $state(false);
  let leaving: ReturnType<typeof setTimeout> | undefined;

  /** What a drop would be made by: a recipe's head or card in the page, or one of those in the panel. */
  const aimedAt = (event: DragEvent) => (event.target as Element | null)?.closest<HTMLElement>('[data-drop-by]') ?? undefined;
  let aimed: HTMLElement | undefined;

  function aim(at: HTMLElement | undefined): void {
    if (at === aimed) return;
    aimed?.removeAttribute('data-aimed');
    at?.setAttribute('data-aimed', '');
    aimed = at;
  }

  function show(on: boolean): void {
    over = on;
    document.body.classList.toggle('files-over', on);
    if (!on) aim(undefined);
  }

  const carriesFiles = (event: DragEvent) => event.dataTransfer?.types.includes('Files') ?? false;

  function dragged(event: DragEvent): void {
    if (!carriesFiles(event)) return;
    event.preventDefault();
    clearTimeout(leaving);
    show(true);
    aim(aimedAt(event));
    // Browsers tell of every element that is left; only silence means that the window was.
    leaving = setTimeout(() => show(false), 400);
  }

  function dropped(event: DragEvent): void {
    if (!carriesFiles(event) || !event.dataTransfer) return;
    event.preventDefault();
    show(false);
    const by = Number(aimedAt(event)?.dataset['dropBy'] ?? 0);
    const recipe = studio.recipes.find((each) => each.id === by);
    const fresh = (event.target as Element).closest('[data-drop="new"]') !== null || !tray;
    const reading = filesOf(event.dataTransfer.items);
    void trying(async () => {
      const files = await reading;
      if (recipe) await makeAtOnce(recipe, files);
      else if (fresh) await makeTray(trayName(files), [], files);
      else if (tray) await uploads.add(tray, files);
    });
  }
</script>

<svelte:window ondragover={dragged} ondragenter={dragged} ondrop={dropped} />
{#if over}
  <div class="over">
    {#if tray}<div class="zone" data-drop="here"><b>Add to {tray.name}</b><span>Drop here</span></div>{/if}
    <div class="zone" data-drop="new"><b>New tray</b><span>Drop here</span></div>
    {#if recipes.length}
      <div class="at-once">
        <b>Make at once, and download</b><span class="dim">or drop on a recipe’s head or card in the page</span>
        <div class="by">
          {#each recipes as recipe (recipe.id)}<div class="zone small" data-drop-by={recipe.id}><SizeDrawing drawing={recipe.drawing} /><span><strong>{recipe.title}</strong><br />{recipe.size_line}</span></div>{/each}
        </div>
      </div>
    {/if}
  </div>
{/if}

<style>
  .over { position: fixed; inset: auto 0 0; height: min(340px, 48vh); z-index: 9500; background: color-mix(in srgb, var(--room) 94%, transparent); border-top: 2px solid var(--accent); display: grid; grid-auto-flow: column; grid-auto-columns: 1fr; gap: 16px; padding: 20px 40px; }
  .at-once { overflow: hidden; grid-column: span 2; }
  .zone { border: 2px dashed var(--accent); border-radius: 10px; background: var(--sheet); display: grid; place-content: center; justify-items: center; gap: 6px; font-size: 13px; }
  .at-once { display: grid; grid-template-rows: auto auto 1fr; gap: 6px; align-content: start; }
  .by { display: grid; grid-template-columns: repeat(auto-fill, minmax(170px, 1fr)); gap: 8px; grid-auto-rows: minmax(52px, 1fr); }
  .zone.small { display: flex; align-items: center; justify-content: flex-start; gap: 12px; padding: 8px 14px; font-size: 12px; }
  strong { font-size: 13px; font-weight: 600; }
  b { font-size: 20px; font-weight: 600; }
</style>
