<script lang="ts">
  import { Checkbox, Modal, Search } from 'carbon-components-svelte';
  import { api, taken, type Schemas } from '../api/client';
  import { somePages } from '../api/pages';
  import { asking } from '../api/query.svelte';
  import { leaveField } from '../shell/escape';
  import { say, trying } from '../shell/notices.svelte';
  import { studio } from '../shell/studio.svelte';
  import Asked from '../ui/Asked.svelte';
  import Thumb from '../ui/Thumb.svelte';
  import { bytes, count, duration, when } from '../words/numbers';
  import { going, stand, worked } from '../words/runs';

  type Card = Schemas['CardOut'];

  let pages = $state(1);
  let find = $state('');
  let clearing = $state.raw<Card>();
  let files = $state(false);

  const list = asking(
    () => {
      const query = { find };
      return somePages<Card>(pages, async (start) => {
        const page = await taken(api.GET('/api/run-cards', { params: { query: { ...query, start } } }));
        return { total: page.total, rows: page.runs };
      });
    },
    (hint) => hint.kind === 'run',
    500,
  );
  const cards = $derived(list.data?.rows ?? []);

  let timer: ReturnType<typeof setTimeout> | undefined;
  function search(text: string): void {
    clearTimeout(timer);
    timer = setTimeout(() => ((find = text), (pages = 1)), 250);
  }

  /** Those that are worked on, in the order in which they are. */
  const open = $derived(cards.filter(going).sort((a, b) => b.urgency - a.urgency || a.id - b.id));
  const waiting = $derived(cards.filter((run) => !run.finished && !going(run)));
  const over = $derived(cards.filter((run) => run.finished));

  function move(run: Card, by: number): void {
    const order = open.map((each) => each.id);
    const at = order.indexOf(run.id);
    const to = at + by;
    if (to < 0 || to >= order.length) return;
    order.splice(at, 1);
    order.splice(to, 0, run.id);
    void trying(async () => {
      await taken(api.PUT('/api/run-order', { body: { runs: order } }));
      await list.load();
    });
  }

  function hold(run: Card): void {
    void trying(async () => {
      const path = { number: run.id };
      await taken(run.held ? api.POST('/api/runs/{number}/go-on', { params: { path } }) : api.POST('/api/runs/{number}/hold', { params: { path } }));
      await list.load();
    });
  }

  async function clear(): Promise<void> {
    const run = clearing;
    if (!run) return;
    clearing = undefined;
    await trying(async () => {
      const done = await taken(api.POST('/api/storage/clear', { body: { what: 'run', run: run.id, files, days: 0 } }));
      say(`Cleared the run of ${run.tray_name}${done.freed ? `, ${bytes(done.freed)}` : ''}`);
      await Promise.all([list.load(), studio.loadRuns()]);
    });
  }

  const took = (run: Card) => (run.finished ? duration(Math.max(1, Math.round((Date.parse(run.finished) - Date.parse(run.started)) / 1000))) : '');
</script>

{#snippet card(run: Card, at: number)}
  <div class="run" role="listitem" data-run={run.id}>
    <a class="pictures" href="/runs/{run.id}" tabindex="-1" aria-hidden="true">
      {#each run.pictures.slice(0, 5) as picture (picture.photo)}<span><Thumb photo={picture.photo} version={picture.version} picture={picture.key} edge={112} /></span>{/each}
    </a>
    <div class="what">
      <p class="name"><a href="/runs/{run.id}">{run.tray_name}</a></p>
      <p class="dim cut" title={run.recipes.join(', ')}>for {run.recipes.join(', ')}</p>
    </div>
    <div class="stand">
      <p class:bad={run.counts.failed > 0}>{stand(run)}</p>
      {#if !run.finished}<progress max={run.counts.total} value={worked(run.counts)} aria-label="How far {run.tray_name} is"></progress>{/if}
    </div>
    <div class="number">{run.bytes ? bytes(run.bytes) : ''}</div>
    <div class="number dim">{when(run.started)}{#if took(run)}<br />in {took(run)}{/if}</div>
    <div class="acts">
      {#if run.finished}
        <button class="plain" aria-label="Clear away the run of {run.tray_name}, {when(run.started)}" onclick={() => ((files = false), (clearing = run))}>Clear away…</button>
      {:else if !going(run)}
        <a class="plain" href="/questions" aria-label="Answer the questions of {run.tray_name}">Answer</a>
      {:else}
        {#if open.length > 1}
          <button class="plain" disabled={at === 0} aria-label="Make {run.tray_name} earlier" onclick={() => move(run, -1)}>Earlier</button>
          <button class="plain" disabled={at === open.length - 1} aria-label="Make {run.tray_name} later" onclick={() => move(run, 1)}>Later</button>
        {/if}
        <button class="plain" aria-label="{run.held ? 'Go on with' : 'Hold'} {run.tray_name}" onclick={() => hold(run)}>{run.held ? 'Go on' : 'Hold'}</button>
      {/if}
    </div>
  </div>
{/snippet}

<div class="page">
  <header>
    <h1>Runs</h1>
    <a class="plain" href="/links">Pick-ups and proof rooms</a>
    <a class="plain" href="/deliveries">Deliveries</a>
    <a class="plain" href="/inlets">Inlets</a>
    <div class="search" role="presentation" onkeydowncapture={leaveField}><Search size="sm" placeholder="Find a tray, photo or file" labelText="Find a tray, photo or file" value={find} on:input={(event) => search((event.target as HTMLInputElement).value)} on:clear={() => search('')} /></div>
  </header>
  <Asked query={list}>
  {#snippet children({ total })}
  {#if total === 0}
    <p class="empty">{#if find}No run has a tray, photo or file of that name.{:else}Nothing has been made yet. On the board, press <kbd>M</kbd> or the button at the bottom right.{/if}</p>
  {:else}
    {#if open.length}
      <h2>Being made{open.length > 1 ? ', in this order' : ''}</h2>
      <div class="runs" role="list" aria-label="Runs being made">{#each open as run, at (run.id)}{@render card(run, at)}{/each}</div>
    {/if}
    {#if waiting.length}
      <h2>Waiting for your answer</h2>
      <div class="runs" role="list" aria-label="Runs that wait">{#each waiting as run (run.id)}{@render card(run, 0)}{/each}</div>
    {/if}
    {#if over.length}
      {#if open.length || waiting.length}<h2>Over</h2>{/if}
      <div class="runs" role="list" aria-label="Runs that are over">{#each over as run (run.id)}{@render card(run, 0)}{/each}</div>
    {/if}
    {#if cards.length < total}<button class="quiet" onclick={() => (pages += 1)}>Show more ({total - cards.length} left)</button>{/if}
  {/if}
  {/snippet}
  </Asked>
</div>

{#if clearing}
  <Modal open danger size="sm" modalHeading="Clear away this run" primaryButtonText={files ? 'Clear away, delete its files' : 'Clear away, leave its files'} secondaryButtonText="Cancel" on:click:button--secondary={() => (clearing = undefined)} on:close={() => (clearing = undefined)} on:submit={() => void clear()}>
    <p class="asked">{clearing.tray_name}, {when(clearing.started)}: {count(clearing.counts.made, 'file')}, {bytes(clearing.bytes)}. Its receipts go, and so do files that are for download only. The board then shows its cells as not made.</p>
    <Checkbox labelText="Delete its files in folders, too, unless somebody changed them since" bind:checked={files} />
  </Modal>
{/if}

<style>
  .page { padding: 16px; overflow: auto; display: grid; gap: 10px; align-content: start; }
  header { display: flex; align-items: center; gap: 24px; }
  h1 { font-size: 20px; font-weight: 600; }
  h2 { font-size: 13px; font-weight: 600; margin-top: 6px; }
  .search { width: 240px; margin-left: auto; }
  .empty { font-size: 13px; }
  .runs { display: grid; gap: 3px; }
  .run {
    display: grid; grid-template-columns: 330px minmax(140px, 1fr) minmax(150px, 210px) 72px 138px 136px; gap: 4px 16px; align-items: center;
    background: var(--bench); border-radius: var(--radius); padding: 8px 14px 8px 8px; min-height: 68px; font-size: 13px;
  }
  .pictures { display: flex; gap: 4px; height: 52px; overflow: hidden; align-items: center; }
  .pictures span { height: 52px; display: grid; align-items: center; flex: none; }
  .pictures :global(img) { max-height: 52px; max-width: 62px; width: auto; height: auto; object-fit: contain; }
  .what { min-width: 0; }
  .name { font-weight: 600; }
  .name a { text-decoration: none; }
  .name a:hover { text-decoration: underline; text-underline-offset: 3px; }
  .name, .cut { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
  .number { text-align: right; white-space: nowrap; }
  .acts { display: flex; gap: 14px; justify-content: flex-end; white-space: nowrap; }
  .acts :disabled { color: var(--dim); }
  .bad { color: var(--bad); }
  .asked { margin-bottom: 14px; font-size: 13px; }
  progress { width: 100%; height: 4px; appearance: none; border: 0; border-radius: 2px; overflow: hidden; background: var(--room); display: block; margin-top: 4px; }
  progress::-webkit-progress-bar { background: var(--track); }
  progress::-webkit-progress-value { background: var(--accent); }
  progress::-moz-progress-bar { background: var(--accent); }
</style>
