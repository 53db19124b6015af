<script lang="ts">
  import { TextInput } from 'carbon-components-svelte';
  import Choice from './Choice.svelte';
  import { station, withStation } from './draft';
  import FieldPills from './FieldPills.svelte';
  import type { LineState } from './line.svelte';

  let { line }: { line: LineState } = $props();

  const here = $derived(station(line.content, 'place') ?? {});
  const subfolder = $derived(String(here['subfolder'] ?? ''));
  const problem = $derived(line.problems['place.subfolder']);

  function set(changes: Record<string, unknown>): void {
    line.change(withStation(line.content, 'place', { ...here, ...changes }));
  }
</script>

<Choice label="To" value={String(here['to'] ?? 'output')} options={[['output', 'the output folder'], ['download', 'download only']]} onchange={(to) => set({ to, subfolder: to === 'download' ? '' : subfolder })} />
{#if here['to'] !== 'download'}
  <TextInput labelText="Subfolder (empty for none; / for levels)" value={subfolder} invalid={problem !== undefined} invalidText={problem ?? ''} on:input={(event) => set({ subfolder: event.detail ?? '' })} />
  <FieldPills onadd={(field) => set({ subfolder: `${subfolder}{${field}}` })} />
  <Choice label="If it is taken" value={String(here['taken'])} options={[['new-name', 'give a new name'], ['replace', 'replace the file'], ['keep', 'keep the old file'], ['ask', 'ask me']]} onchange={(taken) => set({ taken })} />
  {#if here['taken'] === 'ask'}<p class="dim">Runs ask on the list of questions, and go on with the rest meanwhile.</p>{/if}
{/if}
<div class="examples">
  {#each line.answer?.plans ?? [] as plan (plan.photo)}
    <p><span class="dim">{line.samples.find((each) => each.id === plan.photo)?.name}</span> → {plan.folder ? `${plan.folder}/` : ''}{plan.name}</p>
  {/each}
</div>

<style>
  .examples { display: grid; gap: 4px; overflow-wrap: anywhere; margin-top: 6px; }
  p { font-size: 12px; line-height: 16px; }
</style>
