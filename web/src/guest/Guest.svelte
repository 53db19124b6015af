<script lang="ts">
  import Pickup from './Pickup.svelte';
  import Proof from './Proof.svelte';
  import { Link, Refused } from './room.svelte';

  const link = new Link(location);
  let asking = $state(false);
  let wantsPassphrase = $state(false);
  let failed = $state('');
  let over = $state(false);
  let name = $state('');
  let passphrase = $state('');
  let busy = $state(false);

  async function begin(): Promise<void> {
    failed = '';
    try {
      if (await link.back()) return;
      // A room of proofs asks who comes; files to pick up are for whoever has the address.
      if (link.kind === 'proof') asking = true;
      else await open();
    } catch (error) {
      tell(error);
    }
  }

  function tell(error: unknown): void {
    over = error instanceof Refused && error.status === 410;
    failed = error instanceof Error ? error.message : String(error);
  }

  async function open(event?: Event): Promise<void> {
    event?.preventDefault();
    if (busy) return;
    busy = true;
    failed = '';
    try {
      await link.open(name, passphrase);
      asking = false;
    } catch (error) {
      if (error instanceof Refused && error.status === 401) {
        asking = wantsPassphrase = true;
        if (passphrase) failed = error.message;
      } else tell(error);
    } finally {
      busy = false;
    }
  }

  $effect(() => void begin());
</script>

<svelte:head><title>{link.room ? `${link.room.name} · ${link.room.studio}` : 'Pictures for you'}</title></svelte:head>
{#if link.room?.kind === 'pickup'}
  <Pickup {link} room={link.room} />
{:else if link.room}
  <Proof {link} room={link.room} />
{:else}
  <main>
    {#if over}
      <h1>This link has ended</h1>
      <p>Ask whoever sent it to you for a new one.</p>
    {:else if asking}
      <h1>{link.kind === 'proof' ? 'Pictures to choose from' : 'Pictures for you'}</h1>
      <form onsubmit={(event) => void open(event)}>
        {#if link.kind === 'proof'}<label class="field">Your name <input bind:value={name} maxlength="60" autocomplete="name" required /></label>{/if}
        {#if wantsPassphrase}<label class="field">Passphrase <input type="password" bind:value={passphrase} maxlength="200" autocomplete="off" required /></label>{/if}
        {#if failed}<p class="bad" role="alert">{failed}</p>{/if}
        <button class="press" disabled={busy}>Look at the pictures</button>
      </form>
    {:else if failed}
      <p role="alert">{failed}</p>
      <button class="press" onclick={() => void begin()}>Try again</button>
    {:else}
      <p class="dim" aria-busy="true">One moment…</p>
    {/if}
  </main>
{/if}

<style>
  main { min-height: 100vh; display: grid; gap: 16px; align-content: center; justify-items: center; padding: 24px; text-align: center; }
  h1 { font-size: 22px; font-weight: 600; }
  form { display: grid; gap: 16px; width: min(360px, 100%); text-align: left; }
</style>
