<script lang="ts">
  import { untrack } from 'svelte';
  import { api, taken } from '../api/client';
  import { showing, trying } from '../shell/notices.svelte';
  import { bytes } from '../words/numbers';
  import Chart from './Chart.svelte';
  import type { CloserState } from './closer.svelte';
  import { dragging } from './dragging';
  import { panned, windowFor } from './geometry';
  import Pane from './Pane.svelte';
  import { CONNECTIONS, FORMATS, foundHow, WeightState, type Candidate } from './weight.svelte';

  let { closer }: { closer: CloserState } = $props();

  // The cell never changes in the life of this component.
  // svelte-ignore state_referenced_locally
  const weight = new WeightState(closer);
  let room = $state({ width: 900, height: 300 });
  let middle = $state({ x: 0.5, y: 0.5 });
  let hand = $state({ x: 0, y: 0 });
  const NAMES = Object.fromEntries(FORMATS);

  $effect(() => {
    void [closer.content, closer.strength];
    untrack(() => void showing(() => weight.follow()));
  });
  // Begin where there is something to see.
  $effect(() => void showing(async () => {
    const places = await taken(api.GET('/api/trays/{number}/places', { params: { path: { number: closer.tray } } }));
    const fine = places.find((each) => each.kind === 'fine' && each.photo === closer.photo);
    if (fine && untrack(() => middle.x === 0.5 && middle.y === 0.5)) middle = { x: fine.x, y: fine.y };
  }));

  const facts = $derived(closer.facts);
  // Room for two from the start, so that nothing moves when the second comes.
  const across = $derived(Math.max(2, weight.candidates.length) + 1);
  const part = $derived(windowFor(facts ?? { width: 1, height: 1 }, { width: (room.width - 8 * (across - 1)) / across, height: room.height - 66 }, 1, middle));
  const own = $derived(weight.own);
  const made = $derived(weight.made);

  function pan(event: PointerEvent): void {
    if (event.button !== 0 || !facts || (event.target as Element).closest('button')) return;
    const size = facts;
    const end = () => {
      middle = panned(part, hand, 1, size);
      hand = { x: 0, y: 0 };
    };
    dragging(event, (by) => (hand = by), end);
  }

  function isOwn(candidate: Candidate): boolean {
    return own?.format === candidate.format && own.quality === candidate.quality;
  }
</script>

<div class="weight">
  <section class="chart"><Chart {weight} /></section>
  <section class="candidates" bind:clientWidth={room.width} bind:clientHeight={room.height} onpointerdown={pan} role="presentation">
    <div class="candidate">
      <Pane {closer} what="window" more={{ view: 'after' }} window={part} zoom={1} drag={hand} alt="the resized picture" />
      <p class="first strong">the picture itself</p>
      <p class="dim">resized and sharpened, not yet a file</p>
    </div>
    {#each weight.candidates as candidate (`${candidate.format}-${candidate.quality}`)}
      {@const point = weight.point(candidate)}
      <div class="candidate" data-candidate="{candidate.format}-{candidate.quality}">
        <Pane {closer} what="candidate" more={{ format: candidate.format, quality: candidate.quality }} window={part} zoom={1} drag={hand} alt="{NAMES[candidate.format]} at quality {candidate.quality}" soft={false} />
        <p class="first">
          <span class="strong">{NAMES[candidate.format]} {candidate.quality}</span>
          {#if point}<span class="numbers">{bytes(point.bytes)}{point.score == null ? '' : ` · score ${point.score.toFixed(0)}`}</span>{/if}
          {#if weight.candidates.length > 1}<button class="dim remove" aria-label="Remove {NAMES[candidate.format]} {candidate.quality}" onclick={() => weight.remove(candidate)}>×</button>{/if}
        </p>
        <p class="loads dim">{#if point}{#each CONNECTIONS as [name, speed], i (name)}{i ? ' · ' : ''}{name} {(point.bytes / speed).toFixed(point.bytes / speed < 1 ? 2 : 1)} s{/each}{:else}…{/if}</p>
        <p class="last">{#if isOwn(candidate)}<span class="used">in the recipe</span>{:else}<button class="plain" onclick={() => void trying(() => weight.choose(candidate))}>Use in the recipe</button>{/if}</p>
      </div>
    {/each}
    {#if weight.candidates.length < 2}
      <p class="candidate none dim" style:height="{part.height}px">{#if weight.proposed}Press a curve above to compare what it gives there.{:else}Looking for the lightest with a score of {weight.look}…{/if}</p>
    {/if}
  </section>
</div>
<footer class="foot">
  <div class="sums">
    {#if made}
      <span>As the recipe says: <b>{bytes(made.bytes)}</b> <span class="dim">({made.bytes.toLocaleString('en-US')} bytes)</span></span>
      {#if made.quality}<span class={foundHow(made).short ? 'eye' : 'dim'}>{foundHow(made).words}</span>{/if}
    {:else if weight.refused}<span class="bad" role="alert">{weight.refused}</span>
    {:else}<span class="dim">Measuring…</span>{/if}
  </div>
</footer>

<style>
  .weight { flex: 1; min-height: 0; display: flex; flex-direction: column; gap: 8px; padding: 4px 16px 8px; }
  .chart { flex: 0 0 42%; min-height: 190px; background: var(--sheet); border-radius: var(--radius); padding: 8px 12px; display: flex; flex-direction: column; gap: 6px; }
  .candidates { flex: 1; min-height: 0; display: flex; gap: 8px; cursor: grab; touch-action: none; overflow: hidden; }
  .candidate { display: flex; flex-direction: column; min-width: 0; flex: 1 1 0; }
  .candidate p { font-size: 12px; line-height: 17px; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
  .candidate .first { margin-top: 6px; display: flex; gap: 8px; }
  .candidate .loads { font-size: 11px; font-variant-numeric: tabular-nums; }
  .remove { margin-left: auto; padding: 0 6px; }
  .none { align-items: center; justify-content: center; background: var(--bench); border-radius: var(--radius); text-align: center; }
  .numbers { font-variant-numeric: tabular-nums; }
  .eye { color: var(--eye); }
  .bad { color: var(--bad); }
  .candidate .last { line-height: 24px; }
  .used { color: var(--accent-deep); font-weight: 600; }
  @media (max-width: 900px) { .weight { overflow-y: auto; } .chart { flex: none; height: 320px; } .candidates { flex: none; height: 240px; } }
</style>
