<script lang="ts">
  import { trying } from '../shell/notices.svelte';
  import { bytes, count } from '../words/numbers';
  import type { BoardState } from './board.svelte';

  let { board, onmake }: { board: BoardState; onmake: (again: boolean) => void } = $props();

  const made = $derived(board.made.reduce((sum, cell) => sum + (cell.bytes ?? 0), 0));
  const allOut = $derived(board.chosen.every(([, , cell]) => cell.state === 'excluded'));
  const chosen = $derived(board.selected.size);
  const again = $derived(board.chosen.filter(([, , cell]) => ['done', 'kept'].includes(cell.state)).length);
</script>

<footer class="foot">
  <div class="sums">
    {#if chosen}
      <span><b>{chosen}</b> chosen</span>
    {:else}
      <span><b>{board.included.length}</b> {board.included.length === 1 ? 'rendition' : 'renditions'}</span>
      <span class="dim">of {bytes(board.originals)} originals</span>
    {/if}
    {#if board.made.length}<span><b>{board.made.length}</b> made <span class="dim">{bytes(made)}</span></span>{/if}
    {#if board.unreadable && !chosen}<span class="dim">{count(board.unreadable, 'photo')} cannot be read</span>{/if}
  </div>
  <div class="do">
    {#if chosen}
      <button class="quiet" onclick={() => board.clear()}>Choose nothing <kbd>Esc</kbd></button>
      <button class="quiet" onclick={() => void trying(() => board.toggleIncluded())}>{allOut ? 'Take in' : 'Leave out'} <kbd>Space</kbd></button>
    {/if}
    {#if board.toMake === 0 && (chosen ? again : board.made.length) > 0 && !board.making}
      <button class="quiet" onclick={() => onmake(true)}>Make {chosen ? again : 'all'} again</button>
      <button class="press" disabled>All made</button>
    {:else if board.toMake === 0 && board.making}
      <button class="press" disabled>Making {count(board.making, 'rendition')}</button>
    {:else if board.toMake === 0}
      <button class="press" disabled>Nothing to make</button>
    {:else}
      <button class="press" onclick={() => onmake(false)}>Make {count(board.toMake, 'rendition')} <kbd>M</kbd></button>
    {/if}
  </div>
</footer>
