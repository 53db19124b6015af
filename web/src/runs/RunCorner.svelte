<script lang="ts">
  import { studio } from '../shell/studio.svelte';
  import { going, stand, worked } from '../words/runs';

  /** How far the work is, seen from everywhere. */
  let lately = $state<number>();
  let newest: number | undefined;
  const run = $derived(studio.active[0] ?? studio.runs.find((each) => each.id === lately));
  const part = $derived(run ? worked(run.counts) / Math.max(1, run.counts.total) : 0);

  // A run that was not there before is shown even when it is over before anyone saw it going on.
  $effect(() => {
    if (!studio.trays) return;
    const first = studio.runs[0]?.id ?? 0;
    if (newest !== undefined && first > newest) lately = first;
    newest = first;
    if (studio.active[0]) lately = studio.active[0].id;
  });

  const over = $derived(run && !going(run) ? run.id : undefined);
  $effect(() => {
    if (over === undefined) return;
    const timer = setTimeout(() => (lately = undefined), 20_000);
    return () => clearTimeout(timer);
  });
</script>

{#if run}
  <a class="corner" href="/runs/{run.id}">
    <span class="visually-hidden">Run {run.id}:</span>
    <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
      <circle cx="7" cy="7" r="5.5" fill="none" stroke="var(--line)" stroke-width="3" />
      <circle cx="7" cy="7" r="5.5" fill="none" stroke={run.counts.failed && run.finished ? 'var(--bad)' : 'var(--accent)'} stroke-width="3" pathLength="100" stroke-dasharray="{part * 100} 100" transform="rotate(-90 7 7)" />
    </svg>
    {stand(run)}
    {#if studio.active.length > 1}<span class="dim">and {studio.active.length - 1} more</span>{/if}
  </a>
{/if}

<style>
  .corner { display: flex; gap: 8px; align-items: center; background: var(--sheet); border-radius: 16px; padding: 6px 14px; text-decoration: none; }
  .corner:hover { background: var(--field); }
</style>
