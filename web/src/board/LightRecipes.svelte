<script lang="ts">
  import { studio } from '../shell/studio.svelte';
  import { trying } from '../shell/notices.svelte';
  import type { BoardState } from './board.svelte';
  import SizeDrawing from './SizeDrawing.svelte';

  /** Which recipes stand on the board of this tray. */
  let { board }: { board: BoardState } = $props();

  let open = $state(false);
  let box = $state<HTMLElement>();
  const lit = $derived(new Set(board.recipes.map((recipe) => recipe.id)));

  function toggle(id: number): void {
    const wanted = lit.has(id) ? [...lit].filter((each) => each !== id) : [...lit, id];
    void trying(() => board.light(wanted));
  }
</script>

<svelte:window
  onclick={(event) => open && box && !box.contains(event.target as Node) && (open = false)}
  onkeydown={(event) => event.key === 'Escape' && (open = false)}
/>
<div class="light" bind:this={box}>
  <button class="plain" aria-expanded={open} onclick={() => (open = !open)}>Light a recipe</button>
  {#if open}
    <div class="list" role="group" aria-label="Recipes on this board">
      {#each studio.recipes.filter((recipe) => !recipe.archived) as recipe (recipe.id)}
        <label>
          <input type="checkbox" checked={lit.has(recipe.id)} onchange={() => toggle(recipe.id)} />
          <SizeDrawing {recipe} />
          <span><span class="strong">{recipe.title}</span><br /><span class="dim">{recipe.size_line}</span></span>
        </label>
      {/each}
      <a class="plain" href="/recipes">All recipes, and new ones</a>
    </div>
  {/if}
</div>

<style>
  .light { position: relative; }
  .list {
    position: absolute; right: 0; top: 26px; z-index: 50; width: 270px; background: var(--sheet); border: 1px solid var(--line);
    border-radius: var(--radius); padding: 8px; display: grid; gap: 2px; box-shadow: 0 6px 18px rgb(0 0 0 / 0.16);
  }
  label { display: flex; gap: 10px; align-items: center; padding: 5px 6px; border-radius: 4px; cursor: pointer; line-height: 15px; }
  label:hover { background: var(--bench); }
  input { accent-color: var(--accent); }
  a { padding: 8px 6px 4px; text-decoration: none; border-top: 1px solid var(--line); margin-top: 4px; }
</style>
