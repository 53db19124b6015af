<script lang="ts">
  import type { Recipe } from '../api/client';
  import SizeDrawing from '../ui/SizeDrawing.svelte';

  interface Props {
    recipe: Recipe;
    number: number;
    onpress: (event: MouseEvent) => void;
    /** Put a column (by its place, from 0) where this one is. */
    onmove: (from: number, to: number) => void;
  }
  let { recipe, number, onpress, onmove }: Props = $props();

  let over = $state(false);
  const place = $derived(number - 1);

  function pressed(event: KeyboardEvent): void {
    const by = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : 0;
    if (!event.altKey || !by) return;
    event.preventDefault();
    event.stopPropagation();
    onmove(place, place + by);
  }

  function dropped(event: DragEvent): void {
    over = false;
    const from = event.dataTransfer?.getData('text/x-column');
    if (!from) return;
    event.preventDefault();
    event.stopPropagation();
    onmove(Number(from), place);
  }
</script>

<div
  class="head"
  class:over
  data-drop-by={recipe.id}
  role="columnheader"
  tabindex="-1"
  draggable="true"
  ondragstart={(event) => event.dataTransfer?.setData('text/x-column', String(place))}
  ondragover={(event) => {
    if (!event.dataTransfer?.types.includes('text/x-column')) return;
    event.preventDefault();
    over = true;
  }}
  ondragleave={() => (over = false)}
  ondrop={dropped}
>
  <button class="choose" onclick={onpress} onkeydown={pressed} title="Choose the whole column. Drag it, or press Alt and an arrow, to put it elsewhere.">
    <SizeDrawing drawing={recipe.drawing} />
    <span class="words">
      <span class="title">{recipe.title}</span>
      <span class="line" title={recipe.size_line}>{recipe.size_line}</span>
      <span class="line">{recipe.file_line}</span>
    </span>
  </button>
  <a class="change" href="/recipes/{recipe.id}" aria-label="Change {recipe.title}">change</a>
  {#if number < 10}<kbd>{number}</kbd>{/if}
</div>

<style>
  .head { position: relative; background: var(--bench); border-radius: var(--radius) var(--radius) 0 0; border-bottom: 2px solid var(--accent); height: 60px; min-width: 0; }
  .head.over { box-shadow: -3px 0 0 var(--accent); }
  .choose { display: flex; gap: 7px; align-items: flex-start; width: 100%; height: 100%; padding: 7px 8px; min-width: 0; }
  .words { display: grid; min-width: 0; line-height: 15px; flex: 1; }
  .title { font-weight: 600; font-size: 13px; line-height: 17px; padding-right: 19px; }
  .title, .line { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
  .line { color: var(--dim); font-size: 11px; }
  kbd { position: absolute; top: 7px; right: 7px; color: var(--dim); line-height: 14px; font-size: 10px; }
  .change {
    position: absolute; right: 0; bottom: 0; padding: 3px 8px 4px; font-size: 11px; color: var(--accent-deep); font-weight: 600;
    background: var(--bench); border-radius: var(--radius) 0 0 0; opacity: 0; text-decoration: none;
  }
  .head:hover .change, .change:focus-visible { opacity: 1; }
</style>
