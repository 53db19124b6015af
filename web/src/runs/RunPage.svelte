<script lang="ts">
  import { Search } from 'carbon-components-svelte';
  import { api, taken, type Rendition, type RunDetail } from '../api/client';
  import { somePages } from '../api/pages';
  import { asking } from '../api/query.svelte';
  import { leaveField } from '../shell/escape';
  import { say, trying } from '../shell/notices.svelte';
  import { bytes, count, ranges } from '../words/numbers';
  import HandOver from '../links/HandOver.svelte';
  import { going } from '../words/runs';
  import Asked from '../ui/Asked.svelte';
  import Pick from '../ui/Pick.svelte';
  import Markup from './Markup.svelte';
  import RunAside from './RunAside.svelte';
  import SideBySide from './SideBySide.svelte';
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

  let filter = $state('');
  let find = $state('');
  let sort = $state('');
  let marking = $state(false);
  let handing = $state(false);
  let wanted = $state(1);
  /** Files that somebody ticked, by number. */
  let ticked = $state.raw<ReadonlySet<number>>(new Set());
  let looked = $state<number>();

  const page = asking<{ run: RunDetail; rows: Rendition[]; total: number }>(
    async () => {
      const [path, query, many] = [{ number: id }, { state: filter, find, sort }, wanted];
      const run = await taken(api.GET('/api/runs/{number}', { params: { path } }));
      const got = await somePages<Rendition>(many, async (start) => {
        const { total, renditions } = await taken(api.GET('/api/runs/{number}/renditions', { params: { path, query: { ...query, start } } }));
        return { total, rows: renditions };
      });
      return { run, ...got };
    },
    (hint) => hint.kind === 'run' && hint.id === id,
  );
  const { load } = page;
  const run = $derived(page.data?.run);
  const rows = $derived(page.data?.rows ?? []);
  const total = $derived(page.data?.total ?? 0);

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

  /** Make, by the same recipes, the photos that came since. */
  function forNew(): void {
    const tray = run?.tray;
    if (!tray) return;
    void trying(async () => {
      const made = await taken(api.POST('/api/trays/{number}/runs/{run}/for-new', { params: { path: { number: tray, run: id } } }));
      say(`Making ${count(made.counts.total - made.counts.asking, 'rendition')}`, { link: { to: `/runs/${made.id}`, text: 'See the run' } });
      await load();
    });
  }

  function hold(): void {
    const path = { number: id };
    void trying(async () => {
      await taken(run?.held ? api.POST('/api/runs/{number}/go-on', { params: { path } }) : api.POST('/api/runs/{number}/hold', { params: { path } }));
      await load();
    });
  }

  function tick(rendition: number, on: boolean): void {
    const next = new Set(ticked);
    if (on) next.add(rendition);
    else next.delete(rendition);
    ticked = next;
  }

  /** Files that can be looked at and downloaded. */
  const there = $derived(rows.filter((row) => row.state === 'made' && !row.lost));
  /** What the zip has: what is ticked, or what is shown, or all. */
  const zip = $derived.by(() => {
    if (!run) return { count: 0, query: '' };
    if (ticked.size) return { count: ticked.size, query: `?renditions=${ranges(ticked)}` };
    if (find || filter === 'differs') return { count: there.length < rows.length || rows.length < total ? undefined : total, query: `?${new URLSearchParams({ find, state: filter }).toString()}` };
    return { count: run.counts.made - run.lost, query: '' };
  });

  let timer: ReturnType<typeof setTimeout> | undefined;
  function search(text: string): void {
    clearTimeout(timer);
    timer = setTimeout(() => ((find = text), (wanted = 1)), 200);
  }

  const sorts: [string, string][] = [
    ['', 'as planned'],
    ['bytes', 'heaviest first'],
    ['pixels', 'most pixels first'],
    ['-bytes', 'lightest first'],
    ['-score', 'lowest score first'],
    ['planned', 'furthest from the forecast first'],
  ];

  function number(state: string): number {
    if (!run) return 0;
    if (state === 'differs') return run.differs;
    return state === '' ? run.counts.total : run.counts[state as 'made'];
  }
</script>

<svelte:head><title>{run ? `${run.tray_name}, run · ` : ''}Upper Tray</title></svelte:head>
{#if run}
  {#if page.stale}<p class="stale bad" role="alert">{page.stale} <button class="plain" onclick={() => void load()}>Try again</button></p>{/if}
  <div class="page">
    <RunAside {run} />
    <section aria-label="Receipts">
      <div class="filters picks" role="group" aria-label="Show">
        {#each states as { state, name } (state)}
          {#if state === '' || number(state) > 0}
            <button class="pill" class:chosen={filter === state} aria-pressed={filter === state} onclick={() => ((filter = state), (wanted = 1))}>{name} {number(state)}</button>
          {/if}
        {/each}
        <div class="search" role="presentation" onkeydowncapture={leaveField}><Search size="sm" placeholder="Find a name" labelText="Find a photo or file" value={find} on:input={(event) => search((event.target as HTMLInputElement).value)} on:clear={() => search('')} /></div>
        <Pick label="Order" value={sort} options={sorts} onchange={(to) => ((sort = to), (wanted = 1))} />
      </div>
      <div class="list">
        {#if rows.length === 0 && (filter || find)}<p class="none dim">None of these.</p>{/if}
        <div class="receipts" role="list">{#each rows as row (row.id)}<Receipt {row} ticked={ticked.has(row.id)} ontick={(on) => tick(row.id, on)} onlook={() => (looked = row.id)} onagain={() => again([row.id])} />{/each}</div>
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
        <button class="quiet" disabled={run.stop_asked} onclick={hold}>{run.held ? 'Go on' : 'Hold'}</button>
        <button class="quiet" disabled={run.stop_asked} onclick={stop}>{run.stop_asked ? 'Stopping…' : 'Stop'}</button>
      {:else if !run.finished}
        <button class="quiet" onclick={stop}>Close without the {run.counts.asking === 1 ? 'one that waits' : `${run.counts.asking} that wait`}</button>
      {/if}
      {#if run.fresh && run.finished}<button class="quiet" onclick={forNew}>Make {count(run.fresh, 'new photo')}, too</button>{/if}
      {#if run.counts.failed}<button class="quiet" onclick={() => again()}>Try the failed again</button>{/if}
      {#if run.counts.made > run.lost}<button class="quiet" onclick={() => (marking = true)}>Markup…</button><button class="quiet" onclick={() => (handing = true)}>Hand over…</button>{/if}
      {#if run.tray}<a class="quiet" href="/trays/{run.tray}">Back to the board</a>{/if}
      {#if ticked.size}<button class="quiet" onclick={() => (ticked = new Set())}>Clear selection</button>{/if}
      {#if run.counts.made > run.lost}<a class="press" style="text-decoration: none" href="/api/runs/{run.id}/zip{zip.query}" download>Download {zip.count === undefined ? 'what is shown' : count(zip.count, 'file')} as zip</a>{/if}
    </div>
  </footer>
{:else}
  <Asked query={page} instead={{ to: '/runs', text: 'Go to the runs' }}>{#snippet children()}{/snippet}</Asked>
{/if}

{#if looked !== undefined}
  <SideBySide rows={there} at={Math.max(0, there.findIndex((row) => row.id === looked))} onmove={(to) => (looked = there[to]?.id)} onclose={() => (looked = undefined)} />
{/if}
{#if handing && run}<HandOver run={run.id} name={run.tray_name} renditions={[...ticked]} files={ticked.size || run.counts.made - run.lost} onclose={() => (handing = false)} />{/if}
{#if marking && run}<Markup {run} onclose={() => (marking = false)} />{/if}

<style>
  .search { width: 140px; margin-left: auto; }
  .none { padding: 20px 6px; }
  .stale { flex: none; padding: 8px 16px; font-size: 13px; }
  .page { flex: 1; min-height: 0; display: grid; grid-template-columns: 270px 1fr; }
  section { min-width: 0; min-height: 0; display: flex; flex-direction: column; }
  .filters { display: flex; gap: 4px; padding: 8px 16px; align-items: center; }
  .pill { padding: 3px 10px; color: var(--dim); }
  .pill.chosen { background: var(--sheet); color: var(--ink); font-weight: 600; }
  .list { overflow: auto; padding: 0 16px 16px; flex: 1; }
  .list, .receipts { display: grid; grid-auto-rows: max-content; gap: 3px; align-content: start; }
  .bad { color: var(--bad); }
</style>
