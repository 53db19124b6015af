<script lang="ts">
  import type { Recipe } from '../api/client';
  import SizeDrawing from './SizeDrawing.svelte';

  let { recipe, number, onpress }: { recipe: Recipe; number: number; onpress: (event: MouseEvent) => void } = $props();
</script>

<div class="head" role="columnheader">
  <button class="choose" onclick={onpress} title="Choose the whole column">
    <SizeDrawing {recipe} />
    <span class="words">
      <span class="title">{recipe.title}</span>
      <span class="line">{recipe.size_line}</span>
      <span class="line">{recipe.file_line}</span>
    </span>
  </button>
  <a class="change" href="/recipes/{recipe.id}" aria-label="Change {recipe.title}">change</a>
  <kbd>{number}</kbd>
</div>

<style>
  .head { position: relative; background: var(--bench); border-radius: var(--radius) var(--radius) 0 0; border-bottom: 2px solid var(--accent); height: 60px; min-width: 0; }
  .choose { display: flex; gap: 7px; align-items: flex-start; width: 100%; height: 100%; padding: 7px 8px; min-width: 0; }
  .words { display: grid; min-width: 0; line-height: 15px; flex: 1; }
  .title { font-weight: 600; font-size: 13px; line-height: 17px; padding-right: 19px; }
  .title, .line { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
  .line { color: var(--dim); font-size: 11px; }
  kbd { position: absolute; top: 7px; right: 7px; color: var(--dim); line-height: 14px; font-size: 10px; }
  .change {
    position: absolute; right: 0; bottom: 0; padding: 3px 8px 4px; font-size: 11px; color: var(--accent); font-weight: 600;
    background: var(--bench); border-radius: var(--radius) 0 0 0; opacity: 0; text-decoration: none;
  }
  .head:hover .change, .change:focus-visible { opacity: 1; }
</style>
