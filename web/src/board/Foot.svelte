<script lang="ts">
  import { trying } from '../shell/notices.svelte';
  import Menu from '../ui/Menu.svelte';
  import { bytes, count } from '../words/numbers';
  import type { BoardState } from './board.svelte';
  import { ANCHORS } from './framings';

  interface Props {
    board: BoardState;
    onmake: (again: boolean) => void;
    oneye: () => void;
  }
  let { board, onmake, oneye }: Props = $props();

  const all = $derived(board.overview);
  const chosen = $derived(board.selected.size);
  const allOut = $derived(board.chosen.every(([, , cell]) => cell?.state === 'excluded'));
  const again = $derived(
    chosen ? board.chosen.filter(([, , cell]) => cell && ['done', 'kept'].includes(cell.state)).length : (all?.made ?? 0),
  );
  const photos = $derived([...new Set(board.chosen.map(([photo]) => photo))]);
  /** Whole rows are chosen: what is done to them is done to photos. */
  const whole = $derived(chosen > 0 && chosen === photos.length * board.recipes.length);
  const eyes = $derived(all?.eye ?? 0);
  const source = $derived(board.at(board.focus));

  /** The framing that the cell in focus follows, for the other chosen photos. */
  function carry(close: () => void): void {
    close();
    const found = source;
    if (!found) return;
    void trying(async () => {
      const bench = await board.framings.bench(found[0].id, found[1].recipe);
      await board.framings.carry(found[0].id, { ...bench.framing, name: bench.framing.name || 'like its neighbor', recipe: null }, photos);
    });
  }
</script>

<footer class="foot">
  <div class="sums">
    {#if chosen}
      <span><b>{chosen.toLocaleString('en-US')}</b> chosen</span>
    {:else if all}
      <span><b>{all.renditions.toLocaleString('en-US')}</b> {all.renditions === 1 ? 'rendition' : 'renditions'}</span>
      <span>{all.made === all.renditions ? '' : 'about '}<b>{bytes(all.about)}</b> <span class="dim">of {bytes(all.originals)} originals</span></span>
      {#if all.made}<span><b>{all.made.toLocaleString('en-US')}</b> made</span>{/if}
      {#if eyes}<span class="eyes"><b>{eyes}</b> {eyes === 1 ? 'needs' : 'need'} an eye</span>{/if}
      {#if board.unreadable}<span class="dim">{count(board.unreadable, 'photo')} cannot be read</span>{/if}
    {:else}
      <span class="dim">counting…</span>
    {/if}
  </div>
  <div class="do">
    {#if chosen}
      <button class="quiet" onclick={() => board.clear()}>Choose nothing <kbd>Esc</kbd></button>
      <Menu label="Frame…" kind="quiet" up>
        {#snippet children(close)}
          <p>Frame what is chosen by its</p>
          {#each ANCHORS as [anchor, name] (anchor)}
            <button class="item" onclick={() => { close(); void trying(() => board.framings.byAnchor(board.pairs(), anchor, name)); }}>{name}</button>
          {/each}
          {#if source && photos.length > 1}
            <p>or</p>
            <button class="item" onclick={() => carry(close)}>like {source[0].name}</button>
          {/if}
        {/snippet}
      </Menu>
      {#if whole}<button class="quiet" onclick={() => void trying(() => board.takeOut(photos))}>Take out of the tray</button>{/if}
      <button class="quiet" onclick={() => void trying(() => board.toggleIncluded())}>{allOut ? 'Take in' : 'Leave out'} <kbd>Space</kbd></button>
    {:else if eyes}
      <button class="quiet" onclick={oneye}>Look at the {eyes} <kbd>L</kbd></button>
    {/if}
    {#if board.toMake === 0 && again > 0 && !board.making}
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

<style>
  .eyes { color: var(--eye); }
</style>
