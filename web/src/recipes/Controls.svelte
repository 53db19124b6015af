<script lang="ts">
  import { TextInput } from 'carbon-components-svelte';
  import Choice from './Choice.svelte';
  import { station, withStation, type StationName } from './draft';
  import FrameControls from './FrameControls.svelte';
  import type { LineState } from './line.svelte';
  import ColorControls from './ColorControls.svelte';
  import FileControls from './FileControls.svelte';
  import PrepControls from './PrepControls.svelte';
  import SharpenControls from './SharpenControls.svelte';
  import SizeControls from './SizeControls.svelte';

  /** The controls of one station. */
  interface Props {
    line: LineState;
    name: StationName;
    /** Where the sample is looked at closely. */
    look?: string | undefined;
  }
  let { line, name, look }: Props = $props();

  const here = $derived(station(line.content, name) ?? {});

  function set(changes: Record<string, unknown>): void {
    line.change(withStation(line.content, name, { ...here, ...changes }));
  }

  const FIELDS = ['stem', 'recipe', 'shelf', 'n:03', 'panel', 'width', 'height', 'ratio', 'date:%Y-%m-%d', 'tray', 'folder'];
  const target = $derived(name === 'name' ? 'pattern' : 'subfolder');

  /** Names that more than one sample gets. */
  const clash = $derived.by(() => {
    const names = (line.answer?.plans ?? []).map((plan) => `${plan.folder}/${plan.name}`.toLowerCase());
    return name === 'name' && new Set(names).size < names.length;
  });

  function insert(field: string): void {
    set({ [target]: `${String(here[target] ?? '')}{${field}}` });
  }
</script>

{#if name === 'frame'}
  <FrameControls {line} />
{:else if name === 'size'}
  <SizeControls {line} />
{:else if name === 'prep'}
  <PrepControls {line} />
{:else if name === 'sharpen'}
  <SharpenControls {line} />
{:else if name === 'color'}
  <ColorControls {line} />
{:else if name === 'file'}
  <FileControls {line} {look} />
{:else}
  {#if name === 'place'}
    <Choice label="To" value={String(here['to'] ?? 'output')} options={[['output', 'the output folder'], ['download', 'download only']]} onchange={(to) => set({ to, subfolder: to === 'download' ? '' : here['subfolder'] })} />
  {/if}
  {#if name === 'name' || here['to'] !== 'download'}
    <TextInput
      labelText={name === 'name' ? 'Pattern' : 'Subfolder (empty for none; / for levels)'}
      value={String(here[target] ?? '')}
      invalid={line.problems[`${name}.${target}`] !== undefined}
      invalidText={line.problems[`${name}.${target}`] ?? ''}
      on:input={(event) => set({ [target]: event.detail ?? '' })}
    />
    <div class="fields">
      <span class="dim">Add</span>
      {#each FIELDS as field (field)}<button class="pill ring" onclick={() => insert(field)}>{`{${field.split(':')[0]}}`}</button>{/each}
    </div>
  {/if}
  {#if name === 'place' && here['to'] !== 'download'}
    <Choice label="If it is taken" value={String(here['taken'])} options={[['new-name', 'give a new name'], ['replace', 'replace the file'], ['keep', 'keep the old file']]} onchange={(taken) => set({ taken })} />
  {/if}
  <div class="examples">
    {#if clash}<p class="clash" role="status">Several photos get the same name; the later ones are numbered. Add {'{n}'} or {'{stem}'} to tell them apart.</p>{/if}
    {#each line.answer?.plans ?? [] as plan (plan.photo)}
      <p><span class="dim">{line.samples.find((each) => each.id === plan.photo)?.name}</span> → {plan.folder ? `${plan.folder}/` : ''}{plan.name}</p>
    {/each}
  </div>
{/if}

<style>
  .fields { display: flex; gap: 4px; flex-wrap: wrap; align-items: center; }
  .fields .pill { padding: 1px 8px; font-size: 11px; }
  .examples { display: grid; gap: 4px; overflow-wrap: anywhere; margin-top: 6px; }
  p { font-size: 12px; line-height: 16px; }
  .clash { background: var(--eye-soft); color: var(--eye); border-radius: var(--radius); padding: 5px 10px; }
</style>
