<script lang="ts">
  import { api, taken, type Schemas } from '../api/client';
  import { onHint, paced } from '../api/live';
  import { say, trying } from '../shell/notices.svelte';
  import { undo } from '../shell/undo.svelte';
  import { count } from '../words/numbers';

  type Link = Schemas['LinkOut'];
  let links = $state.raw<Link[]>();
  let failed = $state('');

  async function load(): Promise<void> {
    links = await taken(api.GET('/api/links'));
    failed = '';
  }

  $effect(() => {
    load().catch((error: Error) => (failed = error.message));
    const reload = paced(load, 400);
    return onHint((hint) => void ((hint.kind === 'link' || hint.kind === 'resync') && reload()));
  });

  const day = (text: string) => new Date(text).toLocaleDateString('en-US', { day: 'numeric', month: 'short', year: 'numeric' });
  const stands = (link: Link) => (link.withdrawn ? 'taken back' : link.good ? `until ${day(link.expires)}` : 'ended');

  function withdraw(link: Link, withdrawn: boolean): void {
    const call = (to: boolean) => ({ method: 'PUT' as const, path: `/api/links/${link.id}`, body: { withdrawn: to } });
    void trying(async () => {
      await taken(api.PUT('/api/links/{number}', { params: { path: { number: link.id } }, body: { withdrawn } }));
      undo.push({ what: `${withdrawn ? 'took back' : 'opened'} ${link.name}`, at: '/links', place: 'Links', undo: [call(!withdrawn)], redo: [call(withdrawn)] });
      say(withdrawn ? `${link.name} opens for nobody now.` : `${link.name} opens again.`);
      await load();
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
  {#if failed}<p>{failed}</p>
  {:else if !links}<p class="dim" aria-busy="true">One moment…</p>
  {:else if links.length === 0}<p>Nothing is handed over yet. Open a run and press <b>Hand over…</b> to make a link for a phone, a guest or a client.</p>
  {:else}
    <table>
      <thead><tr><th>Name</th><th>For</th><th class="number">Files</th><th class="number">Opened</th><th class="number">Saved</th><th class="number">Guests</th><th>Opens</th><th><span class="visually-hidden">What can be done</span></th></tr></thead>
      <tbody>
        {#each links as link (link.id)}
          <tr class:over={!link.good}>
            <td><a class="strong" href="/links/{link.id}">{link.name}</a></td>
            <td>{link.kind === 'pickup' ? 'picking up' : 'choosing'}{link.passphrase ? ', with a passphrase' : ''}</td>
            <td class="number">{link.files}</td>
            <td class="number">{link.opened}</td>
            <td class="number">{link.kind === 'pickup' ? link.saved : ''}</td>
            <td class="number">{link.kind === 'proof' ? link.guests : ''}</td>
            <td>{stands(link)}</td>
            <td class="do">
              {#if link.good && link.address}<button class="plain" aria-label="Copy the address of {link.name}" onclick={() => void copy(link)}>Copy</button>{/if}
              {#if link.withdrawn}<button class="plain" aria-label="Open {link.name} again" onclick={() => withdraw(link, false)}>Open again</button>
              {:else if link.good}<button class="plain" aria-label="Take back {link.name}" onclick={() => withdraw(link, true)}>Take back</button>{/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
    <p class="dim">{count(links.length, 'link')}</p>
  {/if}
</div>

<style>
  .page { padding: 16px; overflow: auto; }
  .head { display: flex; gap: 18px; align-items: baseline; margin-bottom: 12px; }
  .head a { text-decoration: none; }
  h1 { font-size: 20px; font-weight: 600; }
  table { border-collapse: separate; border-spacing: 0 3px; width: 100%; max-width: 1240px; font-size: 13px; }
  th { text-align: left; font-weight: 400; color: var(--dim); padding: 0 14px; font-size: 12px; }
  td { background: var(--bench); padding: 9px 14px; }
  td:first-child { border-radius: var(--radius) 0 0 var(--radius); max-width: 320px; overflow-wrap: anywhere; }
  td:last-child { border-radius: 0 var(--radius) var(--radius) 0; }
  .number { text-align: right; font-variant-numeric: tabular-nums; }
  .over td { color: var(--dim); }
  .do { text-align: right; white-space: nowrap; }
  .do button { margin-left: 14px; }
  td a { text-decoration: none; }
</style>
