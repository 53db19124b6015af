<script lang="ts">
  import { TextInput } from 'carbon-components-svelte';
  import Choice from './Choice.svelte';
  import { station, withStation, type StationName } from './draft';
  import FrameControls from './FrameControls.svelte';
  import type { LineState } from './line.svelte';
  import Quantity from './Quantity.svelte';
  import SizeControls from './SizeControls.svelte';

  /** The controls of one station. */
  let { line, name }: { line: LineState; name: StationName } = $props();

  const here = $derived(station(line.content, name) ?? {});

  function set(changes: Record<string, unknown>): void {
    line.change(withStation(line.content, name, { ...here, ...changes }));
  }

  const FIELDS = ['stem', 'recipe', 'shelf', 'n:03', 'panel', 'width', 'height', 'ratio', 'date:%Y-%m-%d', 'tray', 'folder'];
  const target = $derived(name === 'name' ? 'pattern' : 'subfolder');

  function insert(field: string): void {
    set({ [target]: `${String(here[target] ?? '')}{${field}}` });
  }
</script>

{#if name === 'frame'}
  <FrameControls {line} />
{:else if name === 'size'}
  <SizeControls {line} />
{:else if name === 'sharpen'}
  <Quantity label="Strength" unit="%" min={0} max={200} value={here['strength'] ?? 0} problem={line.problems['sharpen.strength']} onchange={(strength) => line.change(withStation(line.content, 'sharpen', strength === 0 ? undefined : { strength }))} />
  <p class="dim">An unsharp mask, its radius by the size. 100 % suits most pictures; 0 % changes nothing.</p>
{:else if name === 'color'}
  <Choice
    label="Color space"
    value={line.content['color'] ? 'srgb' : 'own'}
    options={[['srgb', 'sRGB'], ['own', 'the photo’s own']]}
    onchange={(value) => line.change(withStation(line.content, 'color', value === 'srgb' ? { profile: 'srgb' } : undefined))}
  />
  <p class="dim">The profile is always put into the file. A photo without one is taken as sRGB, and its receipt says so.</p>
{:else if name === 'file'}
  <Choice
    label="Format"
    value={String(here['format'])}
    options={[['jpeg', 'JPEG'], ['png', 'PNG']]}
    onchange={(format) => line.change(withStation(line.content, 'file', format === 'jpeg' ? { format, quality: 84 } : { format }))}
  />
  {#if here['format'] === 'jpeg'}
    <Quantity label="Quality" min={1} max={100} value={here['quality']} problem={line.problems['file.quality']} onchange={(quality) => set({ quality })} />
    <p class="dim">Transparent parts lie on white. Place, camera and other metadata are left out.</p>
  {:else}
    <p class="dim">Lossless, 8 bits; transparency is kept. Place, camera and other metadata are left out.</p>
  {/if}
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
      <span class="dim">add</span>
      {#each FIELDS as field (field)}<button class="pill ring" onclick={() => insert(field)}>{`{${field.split(':')[0]}}`}</button>{/each}
    </div>
  {/if}
  {#if name === 'place' && here['to'] !== 'download'}
    <Choice label="If it is taken" value={String(here['taken'])} options={[['new-name', 'give a new name'], ['replace', 'replace the file'], ['keep', 'keep the old file']]} onchange={(taken) => set({ taken })} />
  {/if}
  <div class="examples">
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
</style>
