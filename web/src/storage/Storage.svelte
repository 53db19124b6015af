<script lang="ts">
  import { Checkbox, Modal, NumberInput } from 'carbon-components-svelte';
  import { api, taken, type Schemas } from '../api/client';
  import { asking } from '../api/query.svelte';
  import { say, trying } from '../shell/notices.svelte';
  import Asked from '../ui/Asked.svelte';
  import { bytes, count } from '../words/numbers';

  type What = Exclude<Schemas['ClearIn']['what'], 'run'>;

  let days = $state<number | null>(30);
  let files = $state(false);
  let asked = $state<What>();
  let busy = $state(false);

  const storage = asking<Schemas['StorageOut']>(
    () => taken(api.GET('/api/storage', { params: { query: { days: age } } })),
    (hint) => hint.kind === 'run',
    1000,
  );
  const found = $derived(storage.data);
  const used = $derived(found ? found.renditions + found.uploads + found.copies + found.ahead : 0);
  const left = $derived(found ? Math.max(0, found.quota - used) : 0);
  const age = $derived(Math.round(Math.min(3650, Math.max(0, days ?? 30))));
  const kinds = $derived(
    found
      ? [
          { name: 'Renditions', size: found.renditions, says: 'Files made by all runs, in the output folder and for download.' },
          { name: 'Uploads', size: found.uploads, says: 'Originals that were dropped on a page. Those in your own folders take nothing here.' },
          { name: 'Working copies', size: found.copies + found.ahead, says: 'Small copies for the screens, and renditions weighed ahead. Both come back when they are needed.' },
        ]
      : [],
  );
  const questions: Record<What, string> = {
    runs: 'Clear old runs',
    uploads: 'Delete unused uploads',
    copies: 'Clear working copies',
  };

  async function clear(): Promise<void> {
    const what = asked;
    if (!what || busy) return;
    busy = true;
    await trying(async () => {
      const done = await taken(api.POST('/api/storage/clear', { body: { what, days: age, files } }));
      storage.answered(done.storage);
      say(`Cleared ${bytes(done.freed)}`);
    });
    busy = false;
    asked = undefined;
  }
</script>

<div class="page">
  <h1>Storage</h1>
  <Asked query={storage}>
  {#snippet children(found)}
    <p class="sum"><b>{bytes(used)}</b> of {bytes(found.quota)} used, {bytes(left)} left</p>
    <div class="bar" aria-hidden="true">
      {#each kinds as kind, i (kind.name)}<span class="k{i}" style:width="{(100 * kind.size) / Math.max(found.quota, used)}%"></span>{/each}
    </div>
    <dl>
      {#each kinds as kind, i (kind.name)}
        <dt><span class="dot k{i}"></span>{kind.name}</dt>
        <dd class="size">{bytes(kind.size)}</dd>
        <dd class="dim">{kind.says}</dd>
      {/each}
    </dl>

    <h2>Make room</h2>
    <div class="rows">
      <section aria-label="Old runs">
        <div>
          <p class="strong">Old runs</p>
          <p class="dim">{found.old_runs ? `${count(found.old_runs, 'run')} made ${bytes(found.old_runs_bytes)}.` : 'No run is that old.'} Their records and downloads go.</p>
          <div class="choices">
            <NumberInput labelText="Finished more than this many days ago" bind:value={days} min={0} max={3650} hideSteppers size="sm" allowEmpty invalidText="Type whole days, 0 to 3650." />
            <Checkbox labelText="Delete their files in the output folder, too" bind:checked={files} />
          </div>
        </div>
        <button class="quiet" disabled={!found.old_runs} onclick={() => (asked = 'runs')}>Clear old runs…</button>
      </section>
      <section aria-label="Unused uploads">
        <div>
          <p class="strong">Unused uploads</p>
          <p class="dim">{found.unused ? `${count(found.unused, 'upload')} in no tray and no run: ${bytes(found.unused_bytes)}.` : 'Every upload is in a tray or a run.'}</p>
        </div>
        <button class="quiet" disabled={!found.unused} onclick={() => (asked = 'uploads')}>Delete unused uploads…</button>
      </section>
      <section aria-label="Working copies">
        <div>
          <p class="strong">Working copies</p>
          <p class="dim">Nothing is lost. Boards draw their pictures anew, more slowly the first time.</p>
        </div>
        <button class="quiet" disabled={!(found.copies + found.ahead)} onclick={() => (asked = 'copies')}>Clear working copies…</button>
      </section>
    </div>
    <p class="dim">Originals in your own folders are never deleted. Whoever runs this server sets how much the studio may keep.</p>
  {/snippet}
  </Asked>
</div>

{#if found && asked}
  <Modal
    open
    danger
    size="sm"
    modalHeading={questions[asked]}
    primaryButtonText={busy ? 'Clearing…' : questions[asked]}
    primaryButtonDisabled={busy}
    secondaryButtonText="Cancel"
    on:click:button--secondary={() => (asked = undefined)}
    on:close={() => (asked = undefined)}
    on:submit={() => void clear()}
  >
    {#if asked === 'runs'}
      <p>
        {count(found.old_runs, 'run')} and their downloads are deleted.
        {files ? 'So are their files in the output folder, unless somebody changed them since.' : 'Their files in the output folder stay, but the board no longer knows them.'}
      </p>
    {:else if asked === 'uploads'}
      <p>{count(found.unused, 'upload')}, {bytes(found.unused_bytes)}. This cannot be undone.</p>
    {:else}
      <p>{bytes(found.copies + found.ahead)} of copies are deleted, and made again when they are needed.</p>
    {/if}
  </Modal>
{/if}

<style>
  .page { padding: 16px; overflow: auto; max-width: 960px; }
  h1 { font-size: 20px; font-weight: 600; margin-bottom: 12px; }
  h2 { font-size: 15px; font-weight: 600; margin: 28px 0 8px; }
  .sum { font-size: 13px; }
  .sum b { font-size: 15px; }
  .bar { display: flex; height: 12px; background: var(--bench); border-radius: 6px; overflow: hidden; margin: 10px 0 14px; }
  .k0 { background: var(--accent); }
  .k1 { background: var(--dim); }
  .k2 { background: var(--edge-soft); }
  dl { display: grid; grid-template-columns: max-content max-content 1fr; gap: 6px 20px; font-size: 13px; align-items: center; }
  dt { display: flex; align-items: center; gap: 8px; }
  .dot { width: 10px; height: 10px; border-radius: 3px; }
  .size { text-align: right; }
  .rows { display: grid; gap: 3px; margin-bottom: 12px; }
  section { background: var(--bench); border-radius: var(--radius); padding: 14px; display: flex; gap: 24px; justify-content: space-between; align-items: center; font-size: 13px; }
  section .quiet { flex: none; min-width: 200px; justify-content: center; }
  .choices { display: flex; gap: 28px; align-items: end; margin-top: 10px; }
</style>
