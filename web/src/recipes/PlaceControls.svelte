<script lang="ts">
  import { Checkbox, TextInput } from 'carbon-components-svelte';
  import { api, taken } from '../api/client';
  import { showing } from '../shell/notices.svelte';
  import Pick from '../ui/Pick.svelte';
  import Choice from './Choice.svelte';
  import { station, typedNumber, withStation } from './draft';
  import FieldPills from './FieldPills.svelte';
  import type { LineState } from './line.svelte';
  import Typed from './Typed.svelte';

  let { line }: { line: LineState } = $props();

  interface Step {
    do: string;
    sizes?: string;
    [more: string]: unknown;
  }
  const here = $derived(station(line.content, 'place') ?? {});
  const to = $derived(String(here['to'] ?? 'output'));
  const subfolder = $derived(String(here['subfolder'] ?? ''));
  const sidecars = $derived((here['sidecars'] as string[] | undefined) ?? []);
  const steps = $derived((here['afterwards'] as Step[] | undefined) ?? []);
  const problem = $derived(line.problems['place.subfolder']);
  const sheets = $derived(steps.find((step) => step.do === 'sheets'));
  const at = $derived(steps.findIndex((step) => step.do === 'sheets'));
  const wrong = (field: string) => line.problems[`place.afterwards.${at}.${field}`];
  const pages = $derived(steps.find((step) => step.do === 'markup'));
  const SIDECARS = [['json', '.json, for programs of your own'], ['xmp', '.xmp, for programs that read metadata']] as const;
  const STEPS = [['zip', 'put all files into a zip', true], ['markup', 'write a page beside the files', false], ['sheets', 'lay them out on contact sheets', false], ['path', 'show the folder’s path', false], ['deliver', 'send all files to an account', true]] as const;
  let accounts = $state.raw<string[]>([]);
  $effect(() => void showing(async () => {
    accounts = (await taken(api.GET('/api/accounts'))).map((each) => each.name);
  }));
  const target = $derived(String(steps.find((each) => each.do === 'deliver')?.['to'] ?? ''));

  function set(changes: Record<string, unknown>): void {
    const next: Record<string, unknown> = { ...here, ...changes };
    for (const list of ['sidecars', 'afterwards']) if (!(next[list] as unknown[] | undefined)?.length) delete next[list];
    line.change(withStation(line.content, 'place', next));
  }

  function go(to: string): void {
    if (to === 'download') set({ to, subfolder: '', afterwards: steps.filter((step) => step.do === 'zip' || step.do === 'deliver') });
    else set({ to, subfolder: to === 'beside' ? subfolder || 'web' : subfolder });
  }

  function sidecar(kind: string, on: boolean): void {
    if (on !== sidecars.includes(kind)) set({ sidecars: SIDECARS.map(([each]) => each).filter((each) => (each === kind ? on : sidecars.includes(each))) });
  }

  function step(what: string, on: boolean): void {
    if (on !== steps.some((each) => each.do === what)) set({ afterwards: on ? [...steps, { do: what, ...(what === 'deliver' ? { to: accounts[0] ?? 'account' } : {}) }] : steps.filter((each) => each.do !== what) });
  }

  function lay(changes: Record<string, unknown>): void {
    set({ afterwards: steps.map((each) => (each.do === 'sheets' ? { ...each, ...changes } : each)) });
  }

  function sendTo(account: string): void {
    set({ afterwards: steps.map((each) => (each.do === 'deliver' ? { ...each, to: account } : each)) });
  }

  function type(sizes: string): void {
    set({ afterwards: steps.map((each) => (each.do === 'markup' ? { do: 'markup', ...(sizes ? { sizes } : {}) } : each)) });
  }
</script>

<Choice label="To" value={to} options={[['output', 'the output folder'], ['beside', 'beside the original'], ['download', 'download only']]} onchange={go} />
{#if to !== 'download'}
  <TextInput labelText={to === 'beside' ? 'Subfolder of the photo’s own folder (/ for levels)' : 'Subfolder (empty for none; / for levels)'} value={subfolder} invalid={problem !== undefined} invalidText={problem ?? ''} on:input={(event) => set({ subfolder: event.detail ?? '' })} />
  <FieldPills onadd={(field) => set({ subfolder: `${subfolder}{${field}}` })} />
  <Choice label="If it is taken" value={String(here['taken'])} options={[['new-name', 'give a new name'], ['replace', 'replace the file'], ['keep', 'keep the old file'], ['ask', 'ask me']]} onchange={(taken) => set({ taken })} />
  {#if here['taken'] === 'ask'}<p class="dim">Runs ask on the list of questions, and go on with the rest meanwhile.</p>{/if}
  {#if to === 'beside'}<p class="dim">Only in folders that are marked as writable. A file that Upper Tray did not make is never replaced there.</p>{/if}
  <fieldset>
    <legend>Beside it</legend>
    {#each SIDECARS as [kind, name] (kind)}<Checkbox labelText={name} checked={sidecars.includes(kind)} on:check={(event) => sidecar(kind, event.detail)} />{/each}
  </fieldset>
{/if}
<fieldset>
  <legend>Afterwards</legend>
  {#each STEPS as [what, name, always] (what)}
    {#if always || to !== 'download'}<Checkbox labelText={name} checked={steps.some((each) => each.do === what)} on:check={(event) => step(what, event.detail)} />{/if}
  {/each}
</fieldset>
{#if target}<Pick label="Account that they are sent to" labeled value={target} options={[...new Set([...accounts, target])].map((each): [string, string] => [each, accounts.includes(each) ? each : `${each} (not there)`])} onchange={sendTo} />{/if}
{#if pages}<TextInput labelText="sizes: how wide the picture is in the page (may be empty)" value={pages.sizes ?? ''} maxlength={500} on:input={(event) => type(String(event.detail ?? ''))} />{/if}
{#if sheets}
  <div class="sheets" role="group" aria-label="Contact sheets">
    <Typed label="Page" value={String(sheets['page'] ?? 'A4')} wide={110} unit="A4, letter, or 1080x1350" problem={wrong('page')} onchange={(page) => lay({ page: page.trim() })} />
    <Choice label="File" value={String(sheets['format'] ?? 'pdf')} options={[['pdf', 'one PDF'], ['jpeg', 'a JPEG each']]} onchange={(format) => lay({ format })} />
    <div class="row">
      <Typed label="Pictures" name="Columns" value={String(sheets['columns'] ?? 4)} wide={26} unit="across" problem={wrong('columns')} onchange={(text) => lay({ columns: typedNumber(text) })} />
      <Typed label="" name="Rows" value={String(sheets['rows'] ?? 5)} wide={26} unit="down" problem={wrong('rows')} onchange={(text) => lay({ rows: typedNumber(text) })} />
      <Typed label="" name="Margin" value={String(sheets['margin'] ?? 4)} wide={26} unit="% margin" problem={wrong('margin')} onchange={(text) => lay({ margin: typedNumber(text) })} />
      <Typed label="" name="Gap" value={String(sheets['gap'] ?? 2)} wide={26} unit="% gap" problem={wrong('gap')} onchange={(text) => lay({ gap: typedNumber(text) })} />
    </div>
    <Choice label="Below it" value={String(sheets['caption'] ?? 'name')} options={[['name', 'its name'], ['title', 'its title'], ['both', 'both'], ['none', 'nothing']]} onchange={(caption) => lay({ caption })} />
  </div>
{/if}
<div class="examples">
  {#each line.answer?.plans ?? [] as plan (plan.photo)}
    <p><span class="dim">{line.samples.find((each) => each.id === plan.photo)?.name}</span> → {plan.folder ? `${plan.folder}/` : ''}{plan.name}</p>
  {/each}
</div>

<style>
  .examples { display: grid; gap: 4px; overflow-wrap: anywhere; margin-top: 6px; }
  p { font-size: 12px; line-height: 16px; }
  fieldset { border: 0; padding: 0; margin: 0; display: grid; grid-template-columns: 84px 1fr; gap: 2px 12px; font-size: 13px; align-items: center; }
  .sheets { display: grid; gap: 6px; }
  .row { display: flex; gap: 6px 12px; flex-wrap: wrap; }
  legend { float: left; padding: 0; }
  fieldset :global(.bx--form-item) { grid-column: 2; }
</style>
