<script lang="ts">
  import { TableCell, TableRow } from 'carbon-components-svelte';
  import { api, taken, type Schemas } from '../api/client';
  import { somePages } from '../api/pages';
  import { asking } from '../api/query.svelte';
  import { say, trying } from '../shell/notices.svelte';
  import Asked from '../ui/Asked.svelte';
  import Confirm from '../ui/Confirm.svelte';
  import CutName from '../ui/CutName.svelte';
  import Table from '../ui/Table.svelte';
  import { bytes, count, when } from '../words/numbers';
  import AccountForm from './AccountForm.svelte';

  type Account = Schemas['AccountOut'];
  type Delivery = Schemas['DeliveryOut'];

  /** The one that somebody pressed. */
  let pressed = $state<number>();
  let filter = $state('');
  let wanted = $state(1);
  let editing = $state.raw<{ account: Account | undefined }>();
  let deleting = $state.raw<Account>();
  let trying_ = $state<number>();
  const STATES = [['', 'All'], ['waiting', 'Waiting'], ['sending', 'Being sent'], ['sent', 'Sent'], ['failed', 'Failed'], ['stopped', 'Stopped']] as const;
  const KINDS: Record<string, string> = { platform: 'platform', folder: 'folder', webdav: 'WebDAV', s3: 'S3', sftp: 'SFTP' };

  const list = asking(
    async () => {
      const [wish, state, many] = [pressed, filter, wanted];
      const [accounts, outlets] = await Promise.all([taken(api.GET('/api/accounts')), taken(api.GET('/api/outlets'))]);
      const chosen = (accounts.find((each) => each.id === wish) ?? accounts.find((each) => Object.values(each.counts).some(Boolean)) ?? accounts[0])?.id;
      if (chosen === undefined) return { accounts, outlets, chosen, rows: [], total: 0 };
      const got = await somePages<Delivery>(many, async (start) => {
        const page = await taken(api.GET('/api/accounts/{number}/deliveries', { params: { path: { number: chosen }, query: { state, start } } }));
        return { total: page.total, rows: page.deliveries };
      });
      return { accounts, outlets, chosen, ...got };
    },
    (hint) => hint.kind === 'delivery',
    400,
  );
  const { load } = list;
  const chosen = $derived(list.data?.chosen);
  const account = $derived(list.data?.accounts.find((each) => each.id === chosen));
  const number = (state: string) => (state ? (account?.counts[state] ?? 0) : Object.values(account?.counts ?? {}).reduce((sum, each) => sum + each, 0));
  const path = $derived({ number: chosen ?? 0 });

  function tryOut(which: Account): void {
    if (trying_ !== undefined) return;
    trying_ = which.id;
    void trying(async () => {
      const told = await taken(api.POST('/api/accounts/{number}/try', { params: { path: { number: which.id } } }));
      say(told.problem || `${which.name} answers and lets us in.`, { bad: Boolean(told.problem) });
    }).finally(() => (trying_ = undefined));
  }

  const pause = (paused: boolean) => void trying(async () => {
    await taken(api.POST('/api/accounts/{number}/paused', { params: { path }, body: { paused } }));
    await load();
  });
  const again = (deliveries: number[] | null = null) => void trying(async () => {
    const { count: sent } = await taken(api.POST('/api/accounts/{number}/again', { params: { path }, body: { deliveries } }));
    say(`Sending ${count(sent, 'file')} again.`);
    await load();
  });
  const stop = () => void trying(async () => {
    const { count: stopped } = await taken(api.POST('/api/accounts/{number}/stop', { params: { path } }));
    say(`${count(stopped, 'file')} ${stopped === 1 ? 'is' : 'are'} not sent.`);
    await load();
  });
  const remove = (which: Account) => void trying(async () => {
    await taken(api.DELETE('/api/accounts/{number}', { params: { path: { number: which.id } } }));
    say(`${which.name} is deleted. What was sent stays where it is.`);
    await load();
  });
  const told = (row: Delivery) => (row.state === 'waiting' && row.due ? `tried again ${new Date(row.due) > new Date() ? `in ${Math.ceil((Date.parse(row.due) - Date.now()) / 1000)} s` : 'now'}: ${row.error}` : row.error);
</script>

<svelte:head><title>Deliveries · Upper Tray</title></svelte:head>
<div class="page">
  <div class="head"><h1>Deliveries</h1><a class="plain" href="/runs">Runs</a> <a class="plain" href="/links">Pick-ups and proof rooms</a><button class="press small" onclick={() => (editing = { account: undefined })}>New account</button></div>
  <Asked query={list}>
  {#snippet children({ accounts, rows, total })}
  {#if accounts.length === 0}<p>No accounts yet. An account is where finished files are sent: a platform, a folder, a store. Add one, then choose it in a recipe’s place station, or send a run’s files from its page.</p>
  {:else}
    <div class="columns">
      <div class="accounts" role="list" aria-label="Accounts">
        {#each accounts as each (each.id)}
          <div class="account" class:on={each.id === chosen} role="listitem">
            <button class="open" aria-pressed={each.id === chosen} onclick={() => ((pressed = each.id), (filter = ''), (wanted = 1))}><span class="strong">{each.name}</span><span class="dim">{KINDS[each.kind]}{each.paused ? ' · paused' : ''}</span><span>{each.counts['sent'] ?? 0} sent{each.counts['failed'] ? `, ${each.counts['failed']} failed` : ''}{(each.counts['waiting'] ?? 0) + (each.counts['sending'] ?? 0) ? `, ${(each.counts['waiting'] ?? 0) + (each.counts['sending'] ?? 0)} waiting` : ''}</span></button>
            <p class="do"><button class="plain" disabled={trying_ !== undefined} aria-label="Try it: {each.name}" onclick={() => tryOut(each)}>{trying_ === each.id ? 'Knocking…' : 'Try it'}</button> <button class="plain" aria-label="Change {each.name}" onclick={() => (editing = { account: each })}>Change</button> <button class="plain" aria-label="Delete {each.name}" onclick={() => (deleting = each)}>Delete</button></p>
          </div>
        {/each}
      </div>
      <section aria-label="Deliveries">
        <div class="filters" role="group" aria-label="Show">
          {#each STATES as [state, title] (state)}{#if !state || number(state)}<button class="pill" class:chosen={filter === state} aria-pressed={filter === state} onclick={() => ((filter = state), (wanted = 1))}>{title} {number(state)}</button>{/if}{/each}
          <span class="acts">
            {#if number('failed') + number('stopped')}<button class="quiet small" onclick={() => again()}>Send the failed again</button>{/if}
            {#if number('waiting')}<button class="quiet small" onclick={stop}>Stop what waits</button>{/if}
            {#if account}<button class="quiet small" onclick={() => pause(!account.paused)}>{account.paused ? 'Go on' : 'Pause'}</button>{/if}
          </span>
        </div>
        {#if rows.length === 0}<p class="dim">{filter ? 'None of these.' : 'Nothing was sent here yet. Open a run and press Hand over…, or choose this account in a recipe’s place station.'}</p>
        {:else}
          <Table heads={[{ text: 'File' }, { text: 'Weight', holds: 'number' }, { text: 'State' }, { text: 'There' }, { text: 'What can be done', holds: 'acts' }]}>
              {#each rows as row (row.id)}
                <TableRow>
                  <TableCell><a href="/runs/{row.run}"><CutName name={row.name} /></a></TableCell>
                  <TableCell class="number">{bytes(row.bytes)}</TableCell>
                  <TableCell class="short {row.state}">{row.state}{row.tries > 1 ? `, ${row.tries} tries` : ''}<br /><span class="dim">{row.finished ? when(row.finished) : ''}</span></TableCell>
                  <TableCell class="wide there">{#if row.remote}{#if /^https?:/.test(row.remote)}<a href={row.remote} target="_blank" rel="noreferrer">{row.remote}</a>{:else}{row.remote}{/if}<br /><span class="dim" title={row.remote_sha256}>{row.remote_sha256 ? `SHA-256 ${row.remote_sha256.slice(0, 12)}…, as it was made` : ''}</span>{/if}{#if row.error}<p class:bad={row.state === 'failed'}>{told(row)}</p>{/if}{#each row.notes as note (note)}<p class="dim">{note}</p>{/each}</TableCell>
                  <TableCell class="acts">{#if row.state === 'failed' || row.state === 'stopped'}<button class="plain" aria-label="Send {row.name} again" onclick={() => again([row.id])}>Send again</button>{/if}</TableCell>
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
  <Confirm title="Delete {gone.name}?" text="What was sent stays where it is; what waits is not sent, and its receipts go." doing="Delete the account" ondo={() => remove(gone)} onclose={() => (deleting = undefined)} />
{/if}
{#if editing}<AccountForm account={editing.account} outlets={list.data?.outlets ?? []} onclose={() => (editing = undefined)} onkept={() => { editing = undefined; void load(); }} />{/if}

<style>
  .page { padding: 16px; overflow: auto; }
  .head { display: flex; gap: 18px; align-items: center; margin-bottom: 12px; }
  .head a { text-decoration: none; }
  .head .press { margin-left: auto; }
  h1 { font-size: 20px; font-weight: 600; }
  .columns { display: grid; grid-template-columns: 280px 1fr; gap: 12px; align-items: start; }
  .accounts { display: grid; gap: var(--gap); }
  .account { background: var(--bench); border-radius: var(--radius); padding: 10px 14px 8px; }
  .account.on { background: var(--sheet); box-shadow: inset 2px 0 0 var(--accent); }
  .open { display: grid; gap: 1px; width: 100%; }
  .do { display: flex; gap: 14px; margin-top: 4px; }
  section { min-width: 0; display: grid; gap: 8px; justify-items: start; }
  .filters { display: flex; gap: 4px; align-items: center; width: 100%; }
  .acts { margin-left: auto; display: flex; gap: 8px; }
  .pill { padding: 3px 10px; color: var(--dim); }
  .pill.chosen { background: var(--sheet); color: var(--ink); font-weight: 600; }
  section :global(td:first-child) { max-width: 260px; }
  section :global(td.sent) { color: var(--accent-deep); }
  section :global(td.failed), .bad { color: var(--bad); }
  @media (max-width: 900px) { .columns { grid-template-columns: 1fr; } }
</style>
