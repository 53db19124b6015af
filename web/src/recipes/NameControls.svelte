<script lang="ts">
  import { Checkbox, TextInput } from 'carbon-components-svelte';
  import Choice from './Choice.svelte';
  import { station, typedNumber, withStation } from './draft';
  import FieldPills from './FieldPills.svelte';
  import type { LineState } from './line.svelte';
  import Typed from './Typed.svelte';

  interface Replacement {
    find: string;
    put?: string;
    regex?: boolean;
  }
  let { line }: { line: LineState } = $props();

  const here = $derived(station(line.content, 'name') ?? {});
  const pattern = $derived(String(here['pattern'] ?? ''));
  const counts = $derived(pattern.includes('{n'));
  const replace = $derived((here['replace'] as Replacement[] | undefined) ?? []);
  const problem = (field: string) => line.problems[`name.${field}`];

  /** Names that more than one sample gets. */
  const clash = $derived.by(() => {
    const names = (line.answer?.plans ?? []).map((plan) => `${plan.folder}/${plan.name}`.toLowerCase());
    return new Set(names).size < names.length;
  });

  function set(changes: Record<string, unknown>): void {
    const next = Object.fromEntries(Object.entries({ ...here, ...changes }).filter(([, value]) => value !== undefined));
    line.change(withStation(line.content, 'name', next));
  }

  /** A setting that is as usual is not written. */
  const unless = (usual: string) => (value: string) => (value === usual ? undefined : value);

  function number(text: string, usual?: number): number | string | undefined {
    if (text.trim() === '') return undefined;
    const value = typedNumber(text);
    return value === usual ? undefined : value;
  }

  function change(at: number, part: Partial<Replacement>): void {
    set({ replace: replace.map((each, i) => (i === at ? { ...each, ...part } : each)) });
  }

  function remove(at: number): void {
    const rest = replace.filter((_, i) => i !== at);
    set({ replace: rest.length ? rest : undefined });
  }
</script>

<TextInput labelText="Pattern" value={pattern} invalid={problem('pattern') !== undefined} invalidText={problem('pattern') ?? ''} on:input={(event) => set({ pattern: event.detail ?? '' })} />
<FieldPills words onadd={(field) => set({ pattern: `${pattern}{${field}}` })} />
<div class="two">
  <Choice label="Letters" value={String(here['letters'] ?? 'unicode')} options={[['unicode', 'as they are'], ['ascii', 'plain ASCII']]} onchange={(value) => set({ letters: unless('unicode')(value) })} />
  <Choice label="Case" value={String(here['case'] ?? 'as-is')} options={[['as-is', 'as it is'], ['lower', 'lower'], ['upper', 'UPPER']]} onchange={(value) => set({ case: unless('as-is')(value) })} />
  <Choice label="Words" value={String(here['spaces'] ?? 'as-is')} options={[['as-is', 'with spaces'], ['-', 'joined by -'], ['_', 'joined by _']]} onchange={(value) => set({ spaces: unless('as-is')(value) })} />
  <Typed label="Longest" value={String(here['longest'] ?? '')} placeholder="190" wide={44} unit="bytes with the extension" problem={problem('longest')} onchange={(text) => set({ longest: number(text) })} />
</div>
{#if counts}
  <div class="two">
    <Choice label={'{n} counts'} value={String(here['count'] ?? 'run')} options={[['run', 'the tray'], ['folder', 'each folder'], ['shape', 'each shape'], ['recipe', 'what can be made']]} onchange={(value) => set({ count: unless('run')(value) })} />
    <span class="pair">
      <Typed label="From" value={String(here['start'] ?? 1)} wide={44} problem={problem('start')} onchange={(text) => set({ start: number(text, 1) })} />
      <Typed label="" name="Step" value={String(here['step'] ?? 1)} wide={30} unit="step" problem={problem('step')} onchange={(text) => set({ step: number(text, 1) })} />
    </span>
  </div>
{/if}
{#each replace as each, at (at)}
  <div class="replace">
    <Typed label="Find" value={each.find} wide={120} onchange={(find) => change(at, { find })} />
    <Typed label="" name="Replace with" value={each.put ?? ''} placeholder="nothing" wide={120} onchange={(put) => change(at, { put })} />
    <Checkbox labelText="regular expression" checked={each.regex === true} on:check={(event) => change(at, { regex: event.detail ? true : false })} />
    <button class="plain" onclick={() => remove(at)}>Remove</button>
  </div>
{/each}
{#if problem('replace')}<p class="bad" role="alert">{problem('replace')}</p>{/if}
<div><button class="plain" disabled={replace.length >= 12} onclick={() => set({ replace: [...replace, { find: 'IMG_', put: '' }] })}>Find and replace in the name</button></div>
<div class="examples">
  {#if clash}<p class="clash" role="status">Several photos get the same name; the later ones are numbered. Add {'{n}'} or {'{stem}'} to tell them apart.</p>{/if}
  {#each line.answer?.plans ?? [] as plan (plan.photo)}
    <p><span class="dim">{line.samples.find((each) => each.id === plan.photo)?.name}</span> → {plan.folder ? `${plan.folder}/` : ''}{plan.name}</p>
  {/each}
</div>

<style>
  .two { display: grid; grid-template-columns: repeat(auto-fit, minmax(300px, 1fr)); gap: 8px 24px; align-items: center; }
  .pair { display: flex; gap: 14px; align-items: center; }
  .replace { display: flex; gap: 6px 12px; align-items: center; flex-wrap: wrap; }
  .replace :global(.bx--form-item) { flex: none; }
  .examples { display: grid; gap: 4px; overflow-wrap: anywhere; margin-top: 2px; }
  p { font-size: 12px; line-height: 16px; }
  .clash { background: var(--eye-soft); color: var(--eye); border-radius: var(--radius); padding: 5px 10px; }
  .bad { color: var(--bad); }
</style>
