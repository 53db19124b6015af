<script lang="ts">
  import { trying } from '../shell/notices.svelte';
  import { count } from '../words/numbers';
  import type { RehearsalState, Tried } from './rehearsal.svelte';

  let { rehearsal, photos, recipes, outlet, onsecond }: { rehearsal: RehearsalState; photos: readonly number[]; recipes: boolean; outlet: string; onsecond: (tried: Tried) => void } = $props();

  /** Photos that one rehearsal goes through: each costs some seconds. */
  const MOST = 100;
  /** Points of the score below which another variant is not worth a second recipe. */
  const WORTH = 1;

  const some = $derived(photos.slice(0, MOST));
  const best = $derived(rehearsal.best);
  const ok = $derived(rehearsal.verdicts.filter((each) => !each.failed));
  const same = $derived(ok.filter((each) => each.best === best?.key || each.by < WORTH));
  /** The variants that suit others better, with these. */
  const others = $derived.by(() => {
    const found = new Map<string, typeof ok>();
    for (const each of ok) if (!same.includes(each)) found.set(each.best, [...(found.get(each.best) ?? []), each]);
    return [...found].flatMap(([key, verdicts]) => {
      const tried = rehearsal.tried.find((each) => each.key === key);
      return tried?.made ? [{ tried, made: tried.made, verdicts }] : [];
    });
  });
  const failed = $derived(rehearsal.verdicts.filter((each) => each.failed));
</script>

<section aria-label="Is it the same for all">
  <h2>Is it the same for all {photos.length.toLocaleString('en-US')}? {#if rehearsal.left}<span class="dim" role="status">{count(rehearsal.left, 'photo')} to go</span> <button class="plain" onclick={() => rehearsal.halt()}>Stop</button>{/if}</h2>
  <div class="told">
    {#if rehearsal.verdicts.length && best?.made}
      <p><b>{same.length}</b> {same.length === 1 ? 'photo' : 'photos'}: {best.made.what}, {best.made.how}</p>
      {#each others as { tried, made, verdicts } (tried.key)}
        <p class="eye"><b>{verdicts.length}</b> {verdicts.length === 1 ? 'photo' : 'photos'}: {made.what}, {made.how} is better by {Math.max(...verdicts.map((each) => each.by)).toFixed(1)} ({verdicts.slice(0, 3).map((each) => each.name).join(', ')}{verdicts.length > 3 ? ', …' : ''})
          <button class="plain" disabled={recipes} onclick={() => onsecond(tried)}>Make a second recipe for {verdicts.length === 1 ? 'it' : `these ${verdicts.length}`}</button></p>
      {/each}
      {#if failed.length}<p class="dim">{count(failed.length, 'photo')} could not be rehearsed: {failed[0]?.failed}</p>{/if}
    {:else if !rehearsal.left}
      <p class="dim">{outlet} treats each photo alike, but not every photo bears it alike: fine texture, flat skies and lettering want different files.</p>
      <p><button class="plain" disabled={!best || rehearsal.waiting > 0 || photos.length < 2} onclick={() => void trying(() => rehearsal.goThrough(some))}>Go through {photos.length > MOST ? `the first ${MOST}` : `all ${photos.length}`} photos</button></p>
    {/if}
  </div>
</section>

<style>
  h2 { font-weight: 600; font-size: 12px; display: flex; gap: 12px; }
  h2 .dim { font-weight: 400; }
  .told { overflow: auto; display: grid; gap: 4px; align-content: start; line-height: 18px; }
  .eye { color: var(--eye); }
</style>
