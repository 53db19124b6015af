<script lang="ts">
  import { Checkbox, TableCell, TableRow } from 'carbon-components-svelte';
  import { api, taken, type Schemas } from '../api/client';
  import { somePages } from '../api/pages';
  import { asking } from '../api/query.svelte';
  import { say, trying } from '../shell/notices.svelte';
  import { studio } from '../shell/studio.svelte';
  import Asked from '../ui/Asked.svelte';
  import Confirm from '../ui/Confirm.svelte';
  import Table from '../ui/Table.svelte';
  import { bytes, count, when } from '../words/numbers';
  import InletForm from './InletForm.svelte';

  type Inlet = Schemas['InletOut'];
  type Arrival = Schemas['ArrivalOut'];

  /** The one that somebody pressed. */
  let pressed = $state<number>();
  let filter = $state('');
  let wanted = $state(1);
  let editing = $state.raw<{ inlet: Inlet | undefined }>();
  /** Recipes for what waits. */
  let recipes = $state.raw<readonly number[]>([]);
  let deleting = $state.raw<Inlet>();
  let telling = $state(false);
  const STATES = [['', 'All'], ['settling', 'Arriving'], ['reading', 'Being read'], ['waiting', 'Wait for you'], ['making', 'Being made'], ['made', 'Made'], ['failed', 'Failed'], ['gone', 'Gone']] as const;
  const WORDS: Record<string, string> = Object.fromEntries(STATES.map(([state, title]) => [state, title.toLowerCase()]));

  const list = asking(
    async () => {
      const [wish, state, many] = [pressed, filter, wanted];
      const [inlets, roots] = await Promise.all([taken(api.GET('/api/inlets')), taken(api.GET('/api/roots'))]);
      const chosen = (inlets.find((each) => each.id === wish) ?? inlets[0])?.id;
      if (chosen === undefined) return { inlets, roots, chosen, rows: [], total: 0 };
      const got = await somePages<Arrival>(many, async (start) => {
        const page = await taken(api.GET('/api/inlets/{number}/arrivals', { params: { path: { number: chosen }, query: { state, start } } }));
        return { total: page.total, rows: page.arrivals };
      });
      return { inlets, roots, chosen, ...got };
    },
    (hint) => hint.kind === 'inlet' || hint.kind === 'run',
    400,
  );
  const { load } = list;
  const roots = $derived(list.data?.roots ?? []);
  const chosen = $derived(list.data?.chosen);
  const inlet = $derived(list.data?.inlets.find((each) => each.id === chosen));
  const number = (state: string) => (state ? (inlet?.counts[state] ?? 0) : Object.values(inlet?.counts ?? {}).reduce((sum, each) => sum + each, 0));
  const path = $derived({ number: chosen ?? 0 });
  const known = $derived(studio.recipes.filter((each) => !each.archived));
  const line = $derived(inlet ? `curl -H "Authorization: Bearer ${inlet.token}" -F file=@photo.jpg ${location.origin}${inlet.address}` : '');

  function pick(recipe: number, on: boolean): void {
    if (on !== recipes.includes(recipe)) recipes = on ? [...recipes, recipe] : recipes.filter((each) => each !== recipe);
  }

  const make = () => void trying(async () => {
    const { count: taking } = await taken(api.POST('/api/inlets/{number}/choice', { params: { path }, body: { recipes: [...recipes], arrivals: null } }));
    say(`Making ${count(taking, 'file')}.`);
    await load();
  });
  const pause = (paused: boolean) => void trying(async () => {
    await taken(api.POST('/api/inlets/{number}/paused', { params: { path }, body: { paused } }));
    await load();
  });
  const again = () => void trying(async () => {
    const { count: tried } = await taken(api.POST('/api/inlets/{number}/again', { params: { path }, body: { arrivals: null } }));
    say(`Trying ${count(tried, 'file')} again.`);
    await load();
  });
  const remove = (which: Inlet) => void trying(async () => {
    await taken(api.DELETE('/api/inlets/{number}', { params: { path: { number: which.id } } }));
    say(`${which.name} is watched no more. Its tray and what was made stay.`);
    await load();
  });
  const renew = () => void trying(async () => {
    await taken(api.POST('/api/inlets/{number}/token', { params: { path } }));
    say('The old token posts nothing any more.');
    await load();
  });

  async function copy(): Promise<void> {
    try {
      await navigator.clipboard.writeText(line);
      say('The line is copied.');
    } catch {
      say('The browser did not let it be copied. Select the line and copy it by hand.', { bad: true });
    }
  }
</script>

<svelte:head><title>Inlets · Upper Tray</title></svelte:head>
<div class="page">
  <div class="head"><h1>Inlets</h1><span class="dim">Folders that are watched: what arrives goes through recipes automatically.</span><button class="press small" disabled={!roots.length} onclick={() => (editing = { inlet: undefined })}>New inlet</button></div>
  <Asked query={list}>
  {#snippet children({ inlets, rows, total })}
  {#if inlets.length === 0}<p>{roots.length ? 'No inlets yet. Choose a folder that a card reader, a sync program or a camera puts files into.' : 'There is no root to watch a folder in. Whoever runs the server adds one.'}</p>
  {:else}
    <div class="columns">
      <div class="list" role="list" aria-label="Inlets">
        {#each inlets as each (each.id)}
          <div class="inlet" class:on={each.id === chosen} role="listitem">
            <button class="open" aria-pressed={each.id === chosen} onclick={() => ((pressed = each.id), (filter = ''), (wanted = 1), (telling = false))}><span class="strong">{each.name}</span><span class="dim">{each.root_name}/{each.path}{each.paused ? ' · paused' : ''}</span><span>{each.counts['made'] ?? 0} made{each.counts['failed'] ? `, ${each.counts['failed']} failed` : ''}{each.counts['waiting'] ? `, ${each.counts['waiting']} waiting` : ''}</span></button>
            {#if each.problem}<p class="bad">{each.problem}</p>{/if}
            <p class="do"><button class="plain" aria-label="Change {each.name}" onclick={() => (editing = { inlet: each })}>Change</button> <a class="plain" href="/trays/{each.tray}">Its tray</a> <button class="plain" aria-label="Stop watching {each.name}" onclick={() => (deleting = each)}>Stop watching</button></p>
          </div>
        {/each}
      </div>
      <section aria-label="Arrivals">
        <div class="filters" role="group" aria-label="Show">
          {#each STATES as [state, title] (state)}{#if !state || number(state)}<button class="pill" class:chosen={filter === state} aria-pressed={filter === state} onclick={() => ((filter = state), (wanted = 1))}>{title} {number(state)}</button>{/if}{/each}
          <span class="acts">
            {#if number('failed')}<button class="quiet small" onclick={again}>Try the failed again</button>{/if}
            {#if inlet?.writable}<button class="quiet small" aria-expanded={telling} onclick={() => (telling = !telling)}>Send by HTTP</button>{/if}
            {#if inlet}<button class="quiet small" onclick={() => pause(!inlet.paused)}>{inlet.paused ? 'Go on' : 'Pause'}</button>{/if}
          </span>
        </div>
        {#if telling && inlet}
          <div class="told"><p>A camera, a script or another program posts files with this line:</p><code>{line}</code><p class="do"><button class="plain" onclick={() => void copy()}>Copy the line</button> <button class="plain" onclick={renew}>Make another token</button></p></div>
        {/if}
        {#if number('waiting') && (inlet?.choose === 'ask' || inlet?.choose === 'folder')}
          <div class="told" role="group" aria-label="Recipes for what waits">
            <p class="strong">{count(number('waiting'), 'file')} {number('waiting') === 1 ? 'waits' : 'wait'} for your choice</p>
            <div class="recipes">{#each known as recipe (recipe.id)}<Checkbox labelText={recipe.title} checked={recipes.includes(recipe.id)} on:check={(event) => pick(recipe.id, event.detail)} />{/each}</div>
            <button class="press small" disabled={!recipes.length} onclick={make}>Make {count(number('waiting'), 'file')}</button>
          </div>
        {/if}
        {#if rows.length === 0}<p class="dim">{filter ? 'None of these.' : 'Nothing has arrived yet. Put a picture into the folder.'}</p>
        {:else}
          <Table heads={[{ text: 'File' }, { text: 'Weight', holds: 'number' }, { text: 'Came' }, { text: 'State' }, { text: 'What can be done', holds: 'acts' }]}>
              {#each rows as row (row.id)}
                <TableRow>
                  <TableCell class="wide path">{row.path}</TableCell><TableCell class="number">{bytes(row.size)}</TableCell><TableCell class="short dim">{when(row.came)}</TableCell>
                  <TableCell class={row.state}>{WORDS[row.state] ?? row.state}{#if row.reason}<p class="reason">{row.reason}</p>{/if}</TableCell>
                  <TableCell class="acts">{#if row.run}<a class="plain" href="/runs/{row.run}">Run</a>{/if}</TableCell>
                </TableRow>
              {/each}
          </Table>
          {#if rows.length < total}<button class="quiet" onclick={() => (wanted += 1)}>Show more ({total - rows.length} left)</button>{/if}
        {/if}
      </section>
    </div>
  {/if}
  {/snippet}
  </Asked>
</div>
{#if deleting}
  {@const gone = deleting}
  <Confirm title="Stop watching {gone.name}?" text="Its files, its tray and what was made of them stay. The list of what arrived goes, and its token posts nothing any more." doing="Stop watching" ondo={() => remove(gone)} onclose={() => (deleting = undefined)} />
{/if}
{#if editing}<InletForm inlet={editing.inlet} {roots} onclose={() => (editing = undefined)} onkept={() => { editing = undefined; void load(); }} />{/if}

<style>
  .page { padding: 16px; overflow: auto; }
  .head { display: flex; gap: 18px; align-items: baseline; margin-bottom: 12px; }
  .head .press { margin-left: auto; }
  h1 { font-size: 20px; font-weight: 600; }
  .columns { display: grid; grid-template-columns: 280px 1fr; gap: 12px; align-items: start; }
  .list { display: grid; gap: var(--gap); }
  .inlet { background: var(--bench); border-radius: var(--radius); padding: 10px 14px 8px; }
  .inlet.on { background: var(--sheet); box-shadow: inset 2px 0 0 var(--accent); }
  .open { display: grid; gap: 1px; width: 100%; overflow-wrap: anywhere; }
  .do { display: flex; gap: 14px; margin-top: 4px; }
  .do a { text-decoration: none; }
  section { min-width: 0; display: grid; gap: 8px; justify-items: start; }
  .filters { display: flex; gap: 4px; align-items: center; width: 100%; flex-wrap: wrap; }
  .acts { margin-left: auto; display: flex; gap: 8px; }
  .pill { padding: 3px 10px; color: var(--dim); }
  .pill.chosen { background: var(--sheet); color: var(--ink); font-weight: 600; }
  .told { background: var(--sheet); border-radius: var(--radius); padding: 12px 14px; display: grid; gap: 8px; width: 100%; justify-items: start; }
  .told code { overflow-wrap: anywhere; background: var(--field); padding: 6px 10px; border-radius: 4px; font-size: 12px; }
  .recipes { display: flex; gap: 4px 18px; flex-wrap: wrap; }
  .recipes :global(.bx--form-item) { flex: none; margin: 0; }
  section :global(td.path) { min-width: 200px; }
  .reason { color: var(--dim); }
  section :global(td.made) { color: var(--accent-deep); }
  section :global(td.failed), .bad { color: var(--bad); }
  section :global(td.waiting) { color: var(--eye); }
  @media (max-width: 900px) { .columns { grid-template-columns: 1fr; } }
</style>
