<script lang="ts">
  import { Search } from 'carbon-components-svelte';
  import { api, taken, type Rendition, type RunDetail } from '../api/client';
  import { onHint, paced } from '../api/live';
  import { trying } from '../shell/notices.svelte';
  import { bytes, count, when } from '../words/numbers';
  import { going, stand, worked } from '../words/runs';
  import Pick from '../ui/Pick.svelte';
  import Markup from './Markup.svelte';
  import Receipt from './Receipt.svelte';

  let { id }: { id: number } = $props();

  const states = [
    { state: '', name: 'All' },
    { state: 'made', name: 'Made' },
    { state: 'asking', name: 'Wait for your answer' },
    { state: 'failed', name: 'Failed' },
    { state: 'differs', name: 'Not as planned' },
    { state: 'kept', name: 'Kept' },
    { state: 'stopped', name: 'Stopped' },
  ] as const;

  let run = $state.raw<RunDetail>();
  let rows = $state.raw<Rendition[]>([]);
  let total = $state(0);
  let filter = $state('');
  let find = $state('');
  let sort = $state('');
  let marking = $state(false);
  let wanted = $state(1);
  let failed = $state('');

  let turn = 0;

  async function load(): Promise<void> {
    const mine = ++turn; // what another filter asks for later must not be overwritten
    const path = { number: id };
    run = await taken(api.GET('/api/runs/{number}', { params: { path } }));
    const found: Rendition[] = [];
    for (let page = 0; page < wanted; page++) {
      const query = { state: filter, find, sort, start: found.length };
      const got = await taken(api.GET('/api/runs/{number}/renditions', { params: { path, query } }));
      if (mine !== turn) return;
      found.push(...got.renditions);
      total = got.total;
      if (found.length >= total) break;
    }
    rows = found;
  }

  $effect(() => {
    // Read here so that a change of filter or a longer list loads anew.
    void [filter, wanted, find, sort];
    load().catch((error: Error) => (failed = error.message));
  });

  $effect(() => {
    const reload = paced(load, 300);
    return onHint((hint) => (hint.kind === 'resync' || (hint.kind === 'run' && hint.id === id)) && reload());
  });

  function stop(): void {
    void trying(async () => {
      await taken(api.POST('/api/runs/{number}/stop', { params: { path: { number: id } } }));
      await load();
    });
  }

  /** Make again what failed: all of it, or one. */
  function again(renditions: number[] | null = null): void {
    void trying(async () => {
      await taken(api.POST('/api/runs/{number}/again', { params: { path: { number: id } }, body: { renditions } }));
      await load();
    });
  }

  let timer: ReturnType<typeof setTimeout> | undefined;
  function search(text: string): void {
    clearTimeout(timer);
    timer = setTimeout(() => ((find = text), (wanted = 1)), 200);
  }

  const sorts: [string, string][] = [
    ['', 'as planned'],
    ['bytes', 'heaviest first'],
    ['pixels', 'most pixels first'],
    ['planned', 'furthest from the forecast first'],
  ];

  function number(state: string): number {
    if (!run) return 0;
    if (state === 'differs') return run.differs;
    return state === '' ? run.counts.total : run.counts[state as 'made'];
  }
</script>

<svelte:head><title>{run ? `${run.tray_name}, run · ` : ''}Upper Tray</title></svelte:head>
{#if failed}
  <p class="empty">{failed}</p>
{:else if run}
  <div class="page">
    <aside>
      <h1>{run.tray_name}</h1>
      <p class="dim">{when(run.started)}</p>
      <p class="sum">
        <b>{stand(run)}</b>
        {#if run.counts.asking && !run.finished}<br /><a class="eye" href="/questions">{run.counts.asking} {run.counts.asking === 1 ? 'waits' : 'wait'} for your answer</a>{/if}
      </p>
      <progress max={run.counts.total} value={worked(run.counts)} aria-label="All renditions"></progress>
      <div class="recipes">
        {#each run.recipes as recipe (recipe.recipe)}
          <div class="recipe">
            <span class="title">{recipe.title}</span>
            <span class="dim">{recipe.made} of {recipe.total} made{recipe.failed ? ` · ${recipe.failed} failed` : ''}{recipe.stopped ? ` · ${recipe.stopped} stopped` : ''}</span>
            <progress max={recipe.total} value={worked(recipe)} aria-label={recipe.title}></progress>
          </div>
        {/each}
      </div>
      {#if run.left_out.length}
        <details>
          <summary>{count(run.left_out.length, 'photo')} {run.left_out.length === 1 ? 'was' : 'were'} left out</summary>
          <ul>
            {#each run.left_out as photo (photo.name)}<li><span class="strong">{photo.name}</span> {photo.reason}</li>{/each}
          </ul>
        </details>
      {/if}
    </aside>
    <section aria-label="Receipts">
      <div class="filters picks" role="group" aria-label="Show">
        {#each states as { state, name } (state)}
          {#if state === '' || number(state) > 0}
            <button class="pill" class:chosen={filter === state} aria-pressed={filter === state} onclick={() => ((filter = state), (wanted = 1))}>{name} {number(state)}</button>
          {/if}
        {/each}
        <div class="search"><Search size="sm" placeholder="Find a name" labelText="Find a photo or file" value={find} on:input={(event) => search((event.target as HTMLInputElement).value)} on:clear={() => search('')} /></div>
        <Pick label="Order" value={sort} options={sorts} onchange={(to) => ((sort = to), (wanted = 1))} />
      </div>
      <div class="list">
        {#if rows.length === 0 && (filter || find)}<p class="none dim">None of these.</p>{/if}
        <div class="receipts" role="list">{#each rows as row (row.id)}<Receipt {row} onagain={() => again([row.id])} />{/each}</div>
        {#if rows.length < total}<button class="quiet" onclick={() => (wanted += 1)}>Show more ({total - rows.length} left)</button>{/if}
      </div>
    </section>
  </div>
  <footer class="foot">
    <div class="sums">
      <span><b>{run.counts.made}</b> made</span>
      {#if run.bytes}<span>{bytes(run.bytes)} <span class="dim">of {bytes(run.originals)} originals</span></span>{/if}
      {#if run.counts.failed}<span class="bad">{run.counts.failed} failed</span>{/if}
      {#if run.counts.kept}<span>{run.counts.kept} kept</span>{/if}
      {#if run.counts.stopped}<span>{run.counts.stopped} stopped</span>{/if}
      {#if run.lost}<span class="bad">{count(run.lost, 'file')} changed or gone since</span>{/if}
    </div>
    <div class="do">
      {#if going(run)}
        <button class="quiet" disabled={run.stop_asked} onclick={stop}>{run.stop_asked ? 'Stopping…' : 'Stop'}</button>
      {:else if !run.finished}
        <button class="quiet" onclick={stop}>Close without the {run.counts.asking === 1 ? 'one that waits' : `${run.counts.asking} that wait`}</button>
      {/if}
      {#if run.counts.failed}<button class="quiet" onclick={() => again()}>Try the failed again</button>{/if}
      {#if run.counts.made > run.lost}<button class="quiet" onclick={() => (marking = true)}>Markup…</button>{/if}
      {#if run.tray}<a class="quiet" href="/trays/{run.tray}">Back to the board</a>{/if}
      {#if run.counts.made > run.lost}<a class="press" style="text-decoration: none" href="/api/runs/{run.id}/zip" download>Download {count(run.counts.made - run.lost, 'file')} as zip</a>{/if}
    </div>
  </footer>
{:else}
  <p class="empty dim" aria-busy="true">One moment…</p>
{/if}

{#if marking && run}<Markup {run} onclose={() => (marking = false)} />{/if}

<style>
  .search { width: 140px; margin-left: auto; }
  .none { padding: 20px 6px; }
  .eye { color: var(--eye); }
  .page { flex: 1; min-height: 0; display: grid; grid-template-columns: 270px 1fr; }
  aside { padding: 16px; overflow: auto; display: grid; gap: 6px; align-content: start; background: var(--bench); border-right: 1px solid var(--line); }
  h1 { font-size: 20px; font-weight: 600; line-height: 26px; }
  .sum { margin-top: 10px; font-size: 13px; }
  .sum b { font-size: 15px; font-weight: 600; }
  progress { width: 100%; height: 6px; appearance: none; border: 0; border-radius: 3px; overflow: hidden; background: var(--room); display: block; }
  progress::-webkit-progress-bar { background: var(--track); }
  progress::-webkit-progress-value { background: var(--accent); }
  progress::-moz-progress-bar { background: var(--accent); }
  .recipes { display: grid; gap: 12px; margin-top: 14px; }
  .recipe { display: grid; grid-template-columns: 1fr auto; gap: 3px 8px; }
  .recipe progress { grid-column: 1 / -1; height: 4px; }
  .title { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
  details { margin-top: 16px; }
  summary { cursor: pointer; color: var(--eye); font-weight: 600; }
  details ul { list-style: none; display: grid; gap: 8px; margin-top: 8px; color: var(--dim); overflow-wrap: anywhere; }
  section { min-width: 0; min-height: 0; display: flex; flex-direction: column; }
  .filters { display: flex; gap: 4px; padding: 8px 16px; align-items: center; }
  .pill { padding: 3px 10px; color: var(--dim); }
  .pill.chosen { background: var(--sheet); color: var(--ink); font-weight: 600; }
  .list { overflow: auto; padding: 0 16px 16px; flex: 1; }
  .list, .receipts { display: grid; grid-auto-rows: max-content; gap: 3px; align-content: start; }
  .bad { color: var(--bad); }
  .empty { margin: auto; font-size: 13px; }
</style>
