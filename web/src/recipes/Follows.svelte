<script lang="ts">
  import { TextInput } from 'carbon-components-svelte';
  import { api, taken, type Schemas } from '../api/client';
  import { trying } from '../shell/notices.svelte';
  import Panel from '../ui/Panel.svelte';
  import { studio } from '../shell/studio.svelte';
  import { detached, follows, following, station, type StationName } from './draft';
  import type { LineState } from './line.svelte';

  /** Whether a station follows a part that several recipes share: save one, follow one, detach. */
  let { line, name }: { line: LineState; name: StationName } = $props();

  let parts = $state.raw<Schemas['SavedPartOut'][]>([]);
  let title = $state('');
  const here = $derived(follows(line.content, name));
  const part = $derived(parts.find((each) => each.station === name && each.name === here));
  const others = $derived(part?.used.filter((each) => each.id !== line.id) ?? []);
  const choices = $derived(parts.filter((each) => each.station === name && each.name !== here));

  // Recipes that follow a part get new versions when it changes: the list of recipes comes anew then.
  $effect(() => {
    void studio.recipes;
    void trying(async () => void (parts = await taken(api.GET('/api/parts'))));
  });

  async function save(close: () => void): Promise<void> {
    await line.leave();
    const body = { recipe: line.id, station: name, name: title };
    await taken(api.POST('/api/parts', { body }));
    line.change(following(line.content, name, title, station(line.content, name) ?? {}));
    title = '';
    close();
  }
</script>

{#if here}
  <p class="follows">
    follows the part <b>{here}</b>
    {#if others.length}<span class="dim">— a change here changes {others.map((each) => each.title).join(', ')} too</span>{:else}<span class="dim">— no other recipe does yet</span>{/if}
    <button class="plain" onclick={() => line.change(detached(line.content, name))}>Detach</button>
  </p>
{:else if choices.length || station(line.content, name)}
  <Panel label="Shared part…" kind="dim" wide={270}>
    {#snippet children(close)}
      {#each choices as each (each.id)}
        <button class="item" onclick={() => { close(); line.change(following(line.content, name, each.name, each.setting)); }}>Follow {each.name} <span class="dim">{each.used.length ? `used in ${each.used.length}` : 'not used'}</span></button>
      {/each}
      {#if station(line.content, name)}
        <form onsubmit={(event) => { event.preventDefault(); void trying(() => save(close)); }}>
          <TextInput labelText="Name of the part" hideLabel bind:value={title} maxlength={60} placeholder="Save this setting as…" />
          <button class="quiet small" disabled={!title.trim()}>Save</button>
        </form>
      {/if}
    {/snippet}
  </Panel>
{/if}

<style>
  .follows { font-size: 12px; background: var(--accent-soft); border-radius: 12px; padding: 3px 12px; display: flex; gap: 8px; align-items: center; }
  form { display: flex; gap: 6px; padding: 6px 8px; }
</style>
