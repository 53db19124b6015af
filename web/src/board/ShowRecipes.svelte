<script lang="ts">
  import { Checkbox } from 'carbon-components-svelte';
  import { studio } from '../shell/studio.svelte';
  import { trying } from '../shell/notices.svelte';
  import Panel from '../ui/Panel.svelte';
  import { shelved } from '../recipes/shelves';
  import type { BoardState } from './board.svelte';
  import SizeDrawing from '../ui/SizeDrawing.svelte';

  /** Which recipes are on the board of this tray. */
  let { board }: { board: BoardState } = $props();

  const lit = $derived(new Set(board.recipes.map((recipe) => recipe.id)));
  const shelves = $derived(shelved(studio.recipes.filter((recipe) => !recipe.archived)));

  function toggle(ids: number[]): void {
    const off = ids.every((id) => lit.has(id));
    const wanted = off ? [...lit].filter((each) => !ids.includes(each)) : [...lit, ...ids.filter((id) => !lit.has(id))];
    void trying(() => board.light(wanted));
  }
</script>

<Panel label="Show recipes" wide={300}>
  {#snippet children(close)}
    {#each shelves as [shelf, recipes] (shelf)}
      {@const ids = recipes.map((recipe) => recipe.id)}
      {@const all = ids.every((id) => lit.has(id))}
      <div class="shelf">
        <span class="dim">{shelf || 'No shelf'}</span>
        <button class="plain" aria-label="{all ? 'Hide' : 'Show'} all of {shelf || 'no shelf'}" onclick={() => toggle(ids)}>{all ? 'Hide all' : 'Show all'}</button>
      </div>
      {#each recipes as recipe (recipe.id)}
        <div class="recipe">
          <Checkbox checked={lit.has(recipe.id)} labelText={recipe.title} on:check={(event) => event.detail !== lit.has(recipe.id) && toggle([recipe.id])}>
            <span slot="labelChildren" class="told"><SizeDrawing drawing={recipe.drawing} /><span><span class="strong">{recipe.title}</span><br /><span class="dim">{recipe.size_line}</span></span></span>
          </Checkbox>
        </div>
      {/each}
    {/each}
    <a class="item plain last" href="/recipes" onclick={close}>All recipes, and new ones</a>
  {/snippet}
</Panel>

<style>
  .shelf { display: flex; justify-content: space-between; padding: 6px 6px 2px; }
  .recipe { padding: 3px 6px; border-radius: 4px; }
  .recipe:hover { background: var(--bench); }
  .told { display: flex; gap: 10px; align-items: center; line-height: 15px; white-space: normal; }
  .last { border-top: 1px solid var(--line); margin-top: 4px; }
</style>
