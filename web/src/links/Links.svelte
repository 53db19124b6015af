<script lang="ts">
  import { TableCell, TableRow } from 'carbon-components-svelte';
  import { api, taken, type Schemas } from '../api/client';
  import { asking } from '../api/query.svelte';
  import { say, trying } from '../shell/notices.svelte';
  import { undo } from '../shell/undo.svelte';
  import Asked from '../ui/Asked.svelte';
  import Table from '../ui/Table.svelte';
  import { count } from '../words/numbers';

  type Link = Schemas['LinkOut'];
  const list = asking<Link[]>(
    () => taken(api.GET('/api/links')),
    (hint) => hint.kind === 'link',
  );

  const day = (text: string) => new Date(text).toLocaleDateString('en-US', { day: 'numeric', month: 'short', year: 'numeric' });
  const stands = (link: Link) => (link.withdrawn ? 'withdrawn' : link.good ? `until ${day(link.expires)}` : 'ended');

  function withdraw(link: Link, withdrawn: boolean): void {
    const call = (to: boolean) => ({ method: 'PUT' as const, path: `/api/links/${link.id}`, body: { withdrawn: to } });
    void trying(async () => {
      await taken(api.PUT('/api/links/{number}', { params: { path: { number: link.id } }, body: { withdrawn } }));
      undo.push({ what: `${withdrawn ? 'withdrew' : 'opened'} ${link.name}`, at: '/links', place: 'Links', undo: [call(!withdrawn)], redo: [call(withdrawn)] });
      say(withdrawn ? `${link.name} opens for nobody now.` : `${link.name} opens again.`);
      await list.load();
    });
  }

  async function copy(link: Link): Promise<void> {
    try {
      await navigator.clipboard.writeText(`${location.origin}${link.address}`);
      say('The address is copied.');
    } catch {
      say('The browser did not let it be copied. Open the link’s page and copy it by hand.', { bad: true });
    }
  }
</script>

<svelte:head><title>Links · Upper Tray</title></svelte:head>
<div class="page">
  <div class="head"><h1>Pick-ups and proof rooms</h1><a class="plain" href="/runs">Runs</a> <a class="plain" href="/deliveries">Deliveries</a></div>
  <Asked query={list}>
  {#snippet children(links)}
  {#if links.length === 0}<p>Nothing is handed over yet. Open a run and press <b>Hand over…</b> to make a link for a phone, a guest or a client.</p>
  {:else}
    <Table heads={[{ text: 'Name' }, { text: 'For' }, ...['Files', 'Opened', 'Saved', 'Guests'].map((text) => ({ text, holds: 'number' as const })), { text: 'Opens' }, { text: 'What can be done', holds: 'acts' }]}>
        {#each links as link (link.id)}
          <TableRow class={link.good ? '' : 'over'}>
            <TableCell><a class="strong" href="/links/{link.id}">{link.name}</a></TableCell>
            <TableCell>{link.kind === 'pickup' ? 'picking up' : 'choosing'}{link.passphrase ? ', with a passphrase' : ''}</TableCell>
            <TableCell class="number">{link.files}</TableCell>
            <TableCell class="number">{link.opened}</TableCell>
            <TableCell class="number">{link.kind === 'pickup' ? link.saved : ''}</TableCell>
            <TableCell class="number">{link.kind === 'proof' ? link.guests : ''}</TableCell>
            <TableCell>{stands(link)}</TableCell>
            <TableCell class="acts">
              {#if link.good && link.address}<button class="plain" aria-label="Copy the address of {link.name}" onclick={() => void copy(link)}>Copy</button>{/if}
              {#if link.withdrawn}<button class="plain" aria-label="Open {link.name} again" onclick={() => withdraw(link, false)}>Open again</button>
              {:else if link.good}<button class="plain" aria-label="Withdraw {link.name}" onclick={() => withdraw(link, true)}>Withdraw</button>{/if}
            </TableCell>
          </TableRow>
        {/each}
    </Table>
    <p class="dim">{count(links.length, 'link')}</p>
  {/if}
  {/snippet}
  </Asked>
</div>

<style>
  .page { padding: 16px; overflow: auto; }
  .head { display: flex; gap: 18px; align-items: baseline; margin-bottom: 12px; }
  .head a { text-decoration: none; }
  h1 { font-size: 20px; font-weight: 600; }
  .page :global(td:first-child) { max-width: 320px; overflow-wrap: anywhere; }
  .page :global(.over td) { color: var(--dim); }
  .page :global(td.acts button) { margin-left: 14px; }
</style>
