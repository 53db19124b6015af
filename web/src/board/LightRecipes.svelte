<script lang="ts">
  import { studio } from '../shell/studio.svelte';
  import { trying } from '../shell/notices.svelte';
  import Menu from '../ui/Menu.svelte';
  import { shelved } from '../recipes/shelves';
  import type { BoardState } from './board.svelte';
  import SizeDrawing from '../ui/SizeDrawing.svelte';

  /** Which recipes stand on the board of this tray. */
  let { board }: { board: BoardState } = $props();

  const lit = $derived(new Set(board.recipes.map((recipe) => recipe.id)));
  const shelves = $derived(shelved(studio.recipes.filter((recipe) => !recipe.archived)));

  function toggle(ids: number[]): void {
    const off = ids.every((id) => lit.has(id));
    const wanted = off ? [...lit].filter((each) => !ids.includes(each)) : [...lit, ...ids.filter((id) => !lit.has(id))];
    void trying(() => board.light(wanted));
  }
</script>

<Menu label="Light a recipe" wide={290}>
  {#snippet children()}
    {#each shelves as [shelf, recipes] (shelf)}
      {@const ids = recipes.map((recipe) => recipe.id)}
      <div class="shelf">
        <span class="dim">{shelf || 'on no shelf'}</span>
        <button class="plain" onclick={() => toggle(ids)}>{ids.every((id) => lit.has(id)) ? 'none' : 'all'}</button>
      </div>
      {#each recipes as recipe (recipe.id)}
        <label>
          <input type="checkbox" checked={lit.has(recipe.id)} onchange={() => toggle([recipe.id])} />
          <SizeDrawing drawing={recipe.drawing} />
          <span><span class="strong">{recipe.title}</span><br /><span class="dim">{recipe.size_line}</span></span>
        </label>
      {/each}
    {/each}
    <a class="plain" href="/recipes">All recipes, and new ones</a>
  {/snippet}
</Menu>

<style>
  .shelf { display: flex; justify-content: space-between; padding: 6px 6px 2px; }
  label { display: flex; gap: 10px; align-items: center; padding: 5px 6px; border-radius: 4px; cursor: pointer; line-height: 15px; }
  label:hover { background: var(--bench); }
  input { accent-color: var(--accent); }
  a { padding: 8px 6px 4px; text-decoration: none; border-top: 1px solid var(--line); margin-top: 4px; }
</style>
