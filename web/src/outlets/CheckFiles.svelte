<script lang="ts">
  import { FileUploaderDropContainer, TableCell, TableRow } from 'carbon-components-svelte';
  import { sent, type Schemas } from '../api/client';
  import { showing } from '../shell/notices.svelte';
  import CutName from '../ui/CutName.svelte';
  import Table from '../ui/Table.svelte';
  import { bytes, count } from '../words/numbers';

  type Checked = Schemas['CheckedOut'];

  let { outlet, use }: { outlet: number; use: string } = $props();

  const MOST = 200;
  let checked = $state.raw<Checked[]>([]);
  let waiting = $state(0);
  let turn = 0;
  const KINDS: Record<string, string> = { refuses: 'refused', changes: 'changed', spoils: 'spoiled' };
  const worst = (file: Checked) => (file.unread ? 'unreadable' : file.breaches.some((each) => each.kind === 'refuses') ? 'refused' : file.breaches.some((each) => each.kind === 'spoils') ? 'spoiled' : file.breaches.length ? 'changed' : 'as it is');
  const refused = $derived(checked.filter((each) => worst(each) === 'refused' || each.unread).length);

  /** One value, so that a sheet that is loaded anew takes nothing away. */
  const target = $derived(`${outlet} ${use}`);
  // Another use has other rules: what was found out is not true of it.
  $effect(() => {
    void target;
    turn += 1;
    checked = [];
    waiting = 0;
  });

  async function take(files: readonly File[]): Promise<void> {
    const at = `/api/outlets/${outlet}/check?use=${encodeURIComponent(use)}`;
    const mine = ++turn;
    checked = [];
    waiting = Math.min(MOST, files.length);
    // One after the other: the first is told at once, however many there are.
    for (const file of files.slice(0, MOST)) {
      await showing(async () => {
        const found = await sent<Checked>(at, file);
        if (mine === turn) checked = [...checked, found];
      });
      if (mine !== turn) return;
      waiting -= 1;
    }
  }
</script>

<section aria-label="Check files">
  <h2>Check files <span class="dim">finished ones, from anywhere; nothing is kept</span></h2>
  <FileUploaderDropContainer labelText="Drop files here, or choose them" multiple role="" on:change={(event) => void take(event.detail)} />
  <div aria-live="polite">
    {#if waiting}<p class="dim">Looking at {count(waiting, 'more file', 'more files')}…</p>
    {:else if checked.length}<p><b>{refused ? `${count(refused, 'file')} of ${checked.length} would be refused` : `${checked.length === 1 ? 'It' : `All ${checked.length}`} would be taken`}</b></p>{/if}
  </div>
  {#if checked.length}
    <Table heads={[{ text: 'File' }, { text: 'At this outlet' }]} rows="lines">
        {#each checked as file, i (i)}
          <TableRow>
            <TableCell><CutName name={file.name} /><span class="dim">{file.unread ? '' : `${file.width} × ${file.height} · `}{bytes(file.bytes)}</span></TableCell>
            <TableCell>
              <span class="state {worst(file).replace(/ /g, '-')}">{worst(file)}</span>
              {#if file.unread}<p>{file.unread}</p>{/if}
              {#each file.breaches as breach (breach.text)}<p><span class="kind">{KINDS[breach.kind]}</span> {breach.text}</p>{/each}
            </TableCell>
          </TableRow>
        {/each}
    </Table>
  {/if}
</section>

<style>
  h2 { font-weight: 600; margin-bottom: 6px; }
  h2 .dim { font-weight: 400; margin-left: 6px; }
  section :global(td:first-child) { width: 190px; max-width: 190px; font-variant-numeric: tabular-nums; }
  .state { font-weight: 600; }
  .refused, .unreadable { color: var(--bad); }
  .spoiled { color: var(--eye); }
  .kind { color: var(--dim); }
</style>
