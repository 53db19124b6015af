<script lang="ts">
  import { TableCell, TableRow } from 'carbon-components-svelte';
  import { api, taken, type Schemas } from '../api/client';
  import { asking } from '../api/query.svelte';
  import { say } from '../shell/notices.svelte';
  import Asked from '../ui/Asked.svelte';
  import CutName from '../ui/CutName.svelte';
  import Table from '../ui/Table.svelte';
  import { count } from '../words/numbers';
  import Address from './Address.svelte';

  let { id }: { id: number } = $props();

  type Detail = Schemas['LinkDetailOut'];
  type Judged = Schemas['JudgedOut'];
  const SAYS = ['yes', 'maybe', 'no'] as const;

  const page = asking<Detail>(
    () => taken(api.GET('/api/links/{number}', { params: { path: { number: id } } })),
    (hint) => hint.kind === 'link' && hint.id === id,
  );
  const link = $derived(page.data);

  const says = (item: Judged, guest: number) => item.said.find((each) => each.guest === guest && each.says)?.says ?? '';
  const comments = (item: Judged) => item.said.filter((each) => each.text);
  const who = (guest: number) => link?.people.find((each) => each.id === guest)?.name ?? 'Guest';
  const chosen = (what: string) => link?.judged.filter((item) => item.said.some((each) => each.says === what)) ?? [];
  const trays = $derived([...new Set(link?.judged.flatMap((item) => (item.tray === null ? [] : [item.tray])) ?? [])]);

  async function copy(what: string): Promise<void> {
    try {
      await navigator.clipboard.writeText(chosen(what).map((each) => each.name).join('\n'));
      say(`${count(chosen(what).length, 'name')} copied.`);
    } catch {
      say('The browser did not let them be copied.', { bad: true });
    }
  }
</script>

<svelte:head><title>{link?.name ?? 'Link'} · Upper Tray</title></svelte:head>
<div class="page">
  <Asked query={page} instead={{ to: '/links', text: 'Go to the links' }}>
  {#snippet children(link)}
    <div class="head"><a class="dim" href="/links">‹ Links</a><h1>{link.name}</h1><span class="dim">{link.kind === 'pickup' ? `for picking up ${count(link.files, 'file')}` : `for choosing from ${count(link.files, 'picture')}`} · opened {link.opened === 1 ? 'once' : `${link.opened} times`}{link.kind === 'pickup' ? `, ${count(link.saved, 'file')} saved` : ''}{link.withdrawn ? ' · withdrawn' : link.good ? '' : ' · ended'}</span></div>
    <div class="columns" class:one={link.kind === 'pickup'}>
      {#if link.kind === 'proof'}
        <section aria-label="What was chosen">
          {#if link.people.length === 0}<p>Nobody has come yet. What they choose appears here at once.</p>
          {:else}
            <p class="people">{#each link.people as guest (guest.id)}<span><span class="strong">{guest.name}</span> {guest.yes} yes, {guest.maybe} maybe, {guest.no} no{link.wanted ? ` of ${link.wanted} agreed` : ''}{guest.done ? ' · done' : ''}</span>{/each}</p>
            <div class="board">
              {#each trays as tray (tray)}{#each SAYS as each (each)}{#if chosen(each).length}<a class="quiet small" href="/trays/{tray}?picks={link.id}%3A{each}">Show the {chosen(each).length} with {each} on the board</a>{/if}{/each}{/each}
              {#if chosen('yes').length}<button class="plain" onclick={() => void copy('yes')}>Copy the names of yes</button>{/if}
            </div>
          {/if}
          <Table heads={[{ text: 'Picture' }, ...link.people.map((guest) => ({ text: guest.name })), { text: 'Comments' }]} rows="lines">
              {#each link.judged as item (item.id)}
                <TableRow>
                  <TableCell><span class="picture"><img src="/api/links/{id}/things/{item.id}/picture" alt="" loading="lazy" /><CutName name={item.name} /></span></TableCell>
                  {#each link.people as guest (guest.id)}<TableCell class={says(item, guest.id)}>{says(item, guest.id)}</TableCell>{/each}
                  <TableCell>{#each comments(item) as comment, i (i)}<p><span class="dim">{who(comment.guest)}{comment.x == null ? '' : `, at ${Math.round(100 * comment.x)} % across, ${Math.round(100 * (comment.y ?? 0))} % down`}:</span> {comment.text}</p>{/each}</TableCell>
                </TableRow>
              {/each}
          </Table>
        </section>
      {/if}
      <section class="address" aria-label="Address"><Address {link} narrow={link.kind === 'proof'} /></section>
    </div>
  {/snippet}
  </Asked>
</div>

<style>
  .page { padding: 16px; overflow: auto; }
  .head { display: flex; gap: 14px; align-items: baseline; margin-bottom: 12px; }
  .head a { text-decoration: none; }
  h1 { font-size: 20px; font-weight: 600; overflow-wrap: anywhere; }
  .columns { display: grid; grid-template-columns: 1fr 300px; gap: var(--gap); align-items: start; }
  .columns.one { grid-template-columns: 560px; }
  section { background: var(--bench); border-radius: var(--radius); padding: 14px 16px; display: grid; gap: 12px; min-width: 0; }
  .people, .board { display: flex; gap: 8px 20px; flex-wrap: wrap; align-items: center; font-size: 13px; }
  section :global(td) { vertical-align: middle; }
  .picture { display: grid; grid-template-columns: 84px minmax(100px, 1fr); gap: 10px; align-items: center; }
  img { max-width: 84px; max-height: 60px; justify-self: center; }
  section :global(td.yes) { color: var(--accent-deep); font-weight: 600; }
  section :global(td.maybe) { color: var(--eye); font-weight: 600; }
  section :global(td.no) { color: var(--bad); font-weight: 600; }
  @media (max-width: 900px) { .columns { grid-template-columns: 1fr; } }
</style>
