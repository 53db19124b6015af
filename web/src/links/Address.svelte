<script lang="ts">
  import { TextInput } from 'carbon-components-svelte';
  import type { Schemas } from '../api/client';
  import { say } from '../shell/notices.svelte';

  let { link, narrow = false }: { link: Schemas['LinkOut']; narrow?: boolean } = $props();

  /** A link's address to copy, and as a code to photograph. */
  const address = $derived(`${location.origin}${link.address}`);

  async function copy(): Promise<void> {
    try {
      await navigator.clipboard.writeText(address);
      say('The address is copied.');
    } catch {
      say('The browser did not let it be copied. Select the address and copy it by hand.', { bad: true });
    }
  }
</script>

{#if link.address}
  <div class="address" class:narrow>
    <img src="/api/links/{link.id}/code" alt="The address as a code for a phone’s camera" width="180" height="180" />
    <div>
      <TextInput labelText="Address" readonly value={address} on:focus={(event) => (event.target as HTMLInputElement).select()} />
      <p><button class="press small" onclick={() => void copy()}>Copy the address</button></p>
      <p class="dim">Whoever has it can open it, until {new Date(link.expires).toLocaleDateString('en-US', { day: 'numeric', month: 'long', year: 'numeric' })}.{link.passphrase ? ' It asks for its passphrase, which you tell them yourself.' : ''}</p>
    </div>
  </div>
{:else}<p>Its address can no longer be shown, since the server’s key has changed. Make a new link.</p>{/if}

<style>
  .address { display: grid; grid-template-columns: auto 1fr; gap: 18px; align-items: start; }
  .narrow { grid-template-columns: 1fr; }
  .address > div { display: grid; gap: 10px; }
  .address :global(svg) { display: none; }
  img { background: #fff; border-radius: 4px; }
</style>
