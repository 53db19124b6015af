<script lang="ts">
  import { say, trying } from '../shell/notices.svelte';
  import Actions from '../ui/Actions.svelte';
  import { bytes, count } from '../words/numbers';
  import type { BoardState } from './board.svelte';
  import { ANCHORS } from './framings';

  interface Props {
    board: BoardState;
    /** Whether much is about to be made, and is asked about. */
    sure: boolean;
    onmake: (again: boolean) => void;
    oncancel: () => void;
    oneye: () => void;
  }
  let { board, sure, onmake, oncancel, oneye }: Props = $props();

  const all = $derived(board.overview);
  const counts = $derived(board.counts);
  const chosen = $derived(board.size);
  const allOut = $derived(counts !== undefined && counts.renditions === 0 && counts.excluded > 0);
  const eyes = $derived(all?.eye ?? 0);
  const source = $derived(board.at(board.focus));
  const number = (value: number) => value.toLocaleString('en-US');

  /** The framing that the cell in focus follows, for the other chosen photos. */
  function carry(): void {
    const found = source;
    if (!found) return;
    void trying(async () => {
      const bench = await board.framings.bench(found[0].id, found[1].recipe);
      const framing = { ...bench.framing, name: bench.framing.name || 'like its neighbor', recipe: null };
      say(await board.framings.carry(found[0].id, framing, board.chosen()));
    });
  }

  const frames = $derived([
    ...ANCHORS.map(([anchor, name]) => ({ text: name, do: () => void trying(async () => say(await board.framings.byAnchor(board.chosen(), anchor, name))) })),
    ...(source && board.picked.size > 1 ? [{ text: `like ${source[0].name}`, do: carry, under: 'or' }] : []),
  ]);
</script>

<footer class="foot">
  {#if sure && counts}
    <div class="sums" role="alert">
      <span>Make <b>{count(counts.to_make, 'rendition')}</b>{chosen ? ' of what is chosen' : ''}, about <b>{bytes(counts.about)}</b>?</span>
    </div>
    <div class="do">
      <button class="quiet" onclick={oncancel}>Cancel <kbd>Esc</kbd></button>
      <button class="press" onclick={() => onmake(false)}>Make {count(counts.to_make, 'rendition')} <kbd>M</kbd></button>
    </div>
  {:else}
    <div class="sums">
      {#if chosen || board.hidden}
        <span><b>{number(chosen)}</b> {board.hidden ? `of ${number(chosen + board.hidden)} chosen shown` : 'chosen'}</span>
        {#if counts?.unread}<span class="dim">{count(counts.unread, 'photo')} not readable</span>{/if}
        {#if counts?.excluded && !allOut}<span class="dim">{number(counts.excluded)} left out</span>{/if}
        {#if counts?.eye}<span class="eyes"><b>{number(counts.eye)}</b> {counts.eye === 1 ? 'needs' : 'need'} a crop</span>{/if}
      {:else if board.filtered}
        <span><b>{number(board.photos.length)}</b> of {count(board.board?.total ?? 0, 'photo')} shown</span>
        {#if counts}<span><b>{number(counts.renditions)}</b> {counts.renditions === 1 ? 'rendition' : 'renditions'}</span>{/if}
      {:else if all}
        <span><b>{number(all.renditions)}</b> {all.renditions === 1 ? 'rendition' : 'renditions'}</span>
        <span>{all.made === all.renditions ? '' : 'about '}<b>{bytes(all.about)}</b> <span class="dim">of {bytes(all.originals)} originals</span></span>
        {#if all.made}<span><b>{number(all.made)}</b> made</span>{/if}
        {#if eyes}<span class="eyes"><b>{number(eyes)}</b> {eyes === 1 ? 'needs' : 'need'} a crop</span>{/if}
        {#if board.unreadable}<span class="dim">{count(board.unreadable, 'photo')} cannot be read</span>{/if}
      {:else}
        <span class="dim">Counting…</span>
      {/if}
    </div>
    <div class="do">
      {#if chosen || board.hidden}
        <button class="quiet" onclick={() => board.clear()}>Clear selection <kbd>Esc</kbd></button>
      {/if}
      {#if chosen}
        <Actions label="Frame…" kind="quiet" up actions={frames} />
        {#if counts?.whole}<button class="quiet" onclick={() => void trying(() => board.takeOut())}>Take out of the tray</button>{/if}
        <button class="quiet" onclick={() => void trying(() => board.toggleIncluded())}>{allOut ? 'Take in' : 'Leave out'} <kbd>Space</kbd></button>
      {:else if eyes && !board.filtered}
        <button class="quiet" onclick={oneye}>Review {count(eyes, 'crop')} <kbd>L</kbd></button>
      {/if}
      {#if !counts}
        <button class="press" disabled>Counting…</button>
      {:else if counts.to_make > 0}
        <button class="press" onclick={() => onmake(false)}>Make {count(counts.to_make, 'rendition')} <kbd>M</kbd></button>
      {:else if counts.open > 0}
        <button class="press" disabled>Making {count(counts.open, 'rendition')}</button>
      {:else if counts.made > 0}
        <button class="quiet" onclick={() => onmake(true)}>Make {chosen || board.filtered ? number(counts.made) : 'all'} again</button>
        <button class="press" disabled>All made</button>
      {:else}
        <button class="press" disabled>{allOut ? 'All left out' : 'Nothing to make'}</button>
      {/if}
    </div>
  {/if}
</footer>

<style>
  .eyes { color: var(--eye); }
</style>
