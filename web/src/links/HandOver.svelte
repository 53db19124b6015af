<script lang="ts">
  import { Modal, TextInput } from 'carbon-components-svelte';
  import { api, taken, type Schemas } from '../api/client';
  import Choice from '../recipes/Choice.svelte';
  import Typed from '../recipes/Typed.svelte';
  import { say, showing, trying } from '../shell/notices.svelte';
  import { router } from '../shell/router.svelte';
  import Pick from '../ui/Pick.svelte';
  import { count } from '../words/numbers';
  import Address from './Address.svelte';

  interface Props {
    run: number;
    name: string;
    /** Ticked files; all of the run where there are none. */
    renditions: number[];
    files: number;
    onclose: () => void;
  }
  /** Finished files for somebody outside the studio: to pick up, or to choose from. */
  let { run, name, renditions, files, onclose }: Props = $props();

  let kind = $state<'pickup' | 'proof' | 'send'>('pickup');
  let accounts = $state.raw<Schemas['AccountOut'][]>([]);
  let account = $state('');
  $effect(() => void showing(async () => {
    accounts = await taken(api.GET('/api/accounts'));
    account = String(accounts[0]?.id ?? '');
  }));
  // svelte-ignore state_referenced_locally
  let title = $state(name);
  let days = $state('14');
  let passphrase = $state('');
  let wanted = $state('');
  let stamp = $state('PROOF');
  let busy = $state(false);
  let made = $state.raw<Schemas['LinkOut']>();
  const DAYS: [string, string][] = [['1', '1 day'], ['7', '7 days'], ['14', '14 days'], ['60', '60 days'], ['365', 'a year']];
  const wrong = $derived(wanted && !/^[1-9]\d{0,2}$/.test(wanted) ? 'Expected a number of pictures, or nothing.' : undefined);

  function send(): void {
    if (busy || !account) return;
    busy = true;
    void trying(async () => {
      const sent = await taken(api.POST('/api/accounts/{number}/send', { params: { path: { number: Number(account) } }, body: { run, renditions } }));
      say(sent.count ? `Sending ${count(sent.count, 'file')}.` : 'They were sent there already.', { link: { to: '/deliveries', text: 'See deliveries' } });
      onclose();
    }).finally(() => (busy = false));
  }

  function create(): void {
    const what = kind;
    if (what === 'send') return send();
    if (busy || wrong) return;
    busy = true;
    void trying(async () => {
      const body = { kind: what, name: title, run, renditions, days: Number(days), passphrase, wanted: wanted ? Number(wanted) : null, stamp };
      made = await taken(api.POST('/api/links', { body }));
    }).finally(() => (busy = false));
  }
</script>

<Modal open size="sm" modalHeading={made ? `${made.kind === 'pickup' ? 'Pick-up' : 'Proof room'}: ${made.name}` : `Hand over ${count(files, 'file')}`} primaryButtonText={made ? 'Done' : kind === 'send' ? 'Send' : 'Make the link'} primaryButtonDisabled={busy || wrong !== undefined || (kind === 'send' && !account)} secondaryButtonText={made ? 'See all links' : 'Cancel'} selectorPrimaryFocus={made ? 'input' : '.bx--modal-close'} on:close={onclose} on:submit={() => (made ? onclose() : create())} on:click:button--secondary={() => { onclose(); if (made) router.go('/links'); }}>
  {#if made}
    <Address link={made} />
  {:else}
    <div class="form">
      <Choice label="For" value={kind} options={[['pickup', 'picking up'], ['proof', 'choosing'], ['send', 'an account']]} onchange={(value) => (kind = value as typeof kind)} />
      {#if kind === 'send'}
        <p class="dim">{accounts.length ? 'Each file is sent once; what was sent there already stays sent.' : 'There is no account yet. Add one on the page Deliveries.'}</p>
        {#if accounts.length}<div class="row"><span>Account</span><Pick label="Account" value={account} options={accounts.map((each): [string, string] => [String(each.id), each.name])} onchange={(value) => (account = value)} /></div>{/if}
      {:else}
      <p class="dim">{kind === 'pickup' ? 'A page for a phone: the files themselves, to save or share. Nobody signs in.' : 'A room for a client: stamped, small pictures, to say yes, maybe or no and to comment. What they choose is seen on your board at once.'}</p>
      <TextInput labelText="Name, seen by whoever opens it" value={title} maxlength={80} on:input={(event) => (title = String(event.detail ?? ''))} />
      <div class="row"><span>Ends after</span><Pick label="Ends after" value={days} options={DAYS} onchange={(value) => (days = value)} /></div>
      <TextInput labelText="Passphrase (optional)" value={passphrase} maxlength={200} on:input={(event) => (passphrase = String(event.detail ?? ''))} />
      {#if kind === 'proof'}
        <Typed label="Picks agreed" value={wanted} placeholder="any" wide={50} problem={wrong} onchange={(text) => (wanted = text.trim())} />
        <TextInput labelText="Stamp over the pictures" value={stamp} maxlength={60} on:input={(event) => (stamp = String(event.detail ?? ''))} />
      {/if}
      {/if}
    </div>
  {/if}
</Modal>

<style>
  .form { display: grid; gap: 12px; }
  .row { display: grid; grid-template-columns: 84px 240px; gap: 12px; align-items: center; font-size: 13px; }
</style>
