<script lang="ts">
  import type { BoardState } from './board.svelte';
  import { coveredOf } from '../ui/CoveredParts.svelte';
  import CellView from './CellView.svelte';
  import PhotoFacts from './PhotoFacts.svelte';
  import { view } from './view.svelte';

  interface Props {
    board: BoardState;
    photo: number;
    index: number;
    onopen: (row: number, column: number) => void;
    /** The cell that has the focus goes away with its row. */
    onlost: () => void;
  }
  /** One photo, everywhere. */
  let { board, photo, index, onopen, onlost }: Props = $props();

  const row = $derived(board.rows.get(photo));
  const how = (event: MouseEvent) => ({ shift: event.shiftKey, add: event.ctrlKey || event.metaKey });

  let element = $state<HTMLElement>();

  // Its cells are asked for while it can be seen.
  $effect(() => board.want(photo));
  $effect.pre(() => () => {
    if (element?.contains(document.activeElement)) onlost();
  });

  let dragged = false;
  function down(event: MouseEvent, column: number): void {
    dragged = false;
    if (event.button !== 0 || event.shiftKey || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    (event.currentTarget as HTMLElement).focus({ preventScroll: true });
    board.click({ row: index, column }, { shift: false, add: false });
  }

  function enter(event: MouseEvent, column: number): void {
    if (event.buttons !== 1 || board.size === 0) return;
    dragged = true;
    board.drag({ row: index, column });
  }

  function press(event: MouseEvent, column: number): void {
    // A plain press has chosen already, on its way down.
    if (!dragged && (event.shiftKey || event.ctrlKey || event.metaKey || event.detail === 0)) board.click({ row: index, column }, how(event));
  }
</script>

<div class="row" role="row" aria-label={row?.photo.name} aria-rowindex={index + 2} bind:this={element} style:height="{view.height}px">
  <div class="stick" role="presentation">
    {#if row}<PhotoFacts photo={row.photo} height={view.height} facts={view.facts} onpress={(event) => board.clickRow(index, how(event))} />{/if}
  </div>
  {#if row && (row.photo.state === 'unreadable' || row.photo.state === 'gone')}
    <div class="reason" role="gridcell" aria-colindex="2"><span class="strong">{row.photo.name} {row.photo.state === 'gone' ? 'is gone' : 'cannot be read'}.</span> {row.photo.reason}</div>
  {:else}
    {#each board.recipes as recipe, column (recipe.id)}
      {@const cell = row?.cells.find((each) => each.recipe === recipe.id)}
      {#if row && cell}
        <CellView
          photo={row.photo}
          {cell}
          recipe={recipe.title}
          covered={view.covered ? coveredOf(recipe.content) : []}
          column={column + 2}
          height={view.height}
          focused={board.focus.row === index && board.focus.column === column}
          selected={board.isChosen(photo, recipe.id)}
          ondown={(event) => down(event, column)}
          onenter={(event) => enter(event, column)}
          onpress={(event) => press(event, column)}
          onopen={() => onopen(index, column)}
        />
      {:else}
        <div class="waiting" role="gridcell" aria-colindex={column + 2} aria-busy="true"></div>
      {/if}
    {/each}
  {/if}
</div>

<style>
  .row { display: grid; grid-template-columns: var(--columns); gap: var(--gap); min-width: var(--width); padding: 0 16px var(--gap) 0; }
  .stick { position: sticky; left: 0; z-index: 2; background: var(--room); min-width: 0; }
  .waiting { background: var(--empty-cell); border-radius: var(--radius); }
  .reason {
    grid-column: 2 / -1; align-self: center; background: var(--bench); border-left: 3px solid var(--bad); border-radius: 0 var(--radius) var(--radius) 0;
    padding: 12px 16px; font-size: 13px; max-width: 760px;
  }
</style>
