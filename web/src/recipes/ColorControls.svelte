<script lang="ts">
  import { Checkbox, FileUploaderButton } from 'carbon-components-svelte';
  import { api, sent, taken, type Schemas } from '../api/client';
  import { showing, trying } from '../shell/notices.svelte';
  import Pick from '../ui/Pick.svelte';
  import Choice from './Choice.svelte';
  import { station, typedColor, withStation } from './draft';
  import type { LineState } from './line.svelte';
  import Typed from './Typed.svelte';

  let { line }: { line: LineState } = $props();

  const here = $derived(station(line.content, 'color'));
  const space = $derived(here ? String(here['profile'] ?? 'srgb') : 'own');
  const format = $derived(String(station(line.content, 'file')?.['format']));
  const deep = $derived(format === 'png' || format === 'tiff');
  const clear = $derived(!['png', 'webp', 'avif', 'tiff', 'gif'].includes(format));
  /** Between the spaces that have names of their own, every intent gives the same colors. */
  const intents = $derived(space === 'icc' || (here?.['intent'] ?? 'relative') !== 'relative');
  const INTENTS: Record<string, string> = {
    relative: 'Colors that the profile holds stay exact; others become the nearest.',
    perceptual: 'All colors move together, so that gradations in vivid areas stay.',
    saturation: 'Vivid colors stay vivid. For charts rather than photographs.',
    absolute: 'Keeps the paper’s own white. For proofs.',
  };
  let files = $state.raw<Schemas['ProfileOut'][]>([]);

  $effect(() => void showing(async () => void (files = await taken(api.GET('/api/profiles')))));

  function set(changes: Record<string, unknown>): void {
    const next = { profile: 'own', ...here, ...changes };
    line.change(withStation(line.content, 'color', Object.fromEntries(Object.entries(next).filter(([, value]) => value !== undefined))));
  }

  function choose(profile: string): void {
    if (profile === 'icc') set({ profile, icc: files[0]?.name });
    else set({ profile, icc: undefined });
  }

  async function add(file: File | undefined): Promise<void> {
    if (!file) return;
    const got = await sent<Schemas['ProfileOut']>('/api/profiles', file);
    files = await taken(api.GET('/api/profiles'));
    set({ profile: 'icc', icc: got.name });
  }
</script>

<Choice
  label="Color space"
  value={space}
  options={[['srgb', 'sRGB'], ['display-p3', 'Display P3'], ['adobe-rgb', 'Adobe-RGB-compatible'], ['grey', 'grey'], ['icc', 'a profile file'], ['own', 'the photo’s own']]}
  onchange={choose}
/>
{#if space === 'icc'}
  <div class="row under">
    {#if files.length}<Pick label="Profile file" labeled value={String(here?.['icc'] ?? '')} options={files.map((each): [string, string] => [each.name, `${each.name} (${each.title}, ${each.space})`])} onchange={(icc) => set({ icc })} />{/if}
    <FileUploaderButton labelText="Add a profile file…" kind="tertiary" size="small" accept={['.icc', '.icm']} disableLabelChanges on:change={(event) => void trying(() => add(event.detail[0]))} />
  </div>
{/if}
{#if line.problems['color.icc']}<p class="bad under" role="alert">{line.problems['color.icc']}</p>{/if}
{#if space !== 'own' && intents}
  <Choice label="Intent" value={String(here?.['intent'] ?? 'relative')} options={[['relative', 'relative'], ['perceptual', 'perceptual'], ['saturation', 'saturation'], ['absolute', 'absolute']]} onchange={(intent) => set({ intent: intent === 'relative' ? undefined : intent })} />
  <p class="dim under">{INTENTS[String(here?.['intent'] ?? 'relative')]}</p>
{/if}
{#if deep}
  <Choice label="Bits" value={String(here?.['bits'] ?? 8)} options={[['8', '8 a channel'], ['16', '16 a channel']]} onchange={(bits) => set({ bits: bits === '16' ? 16 : undefined })} />
{/if}
{#if line.problems['color.bits']}<p class="bad under" role="alert">{line.problems['color.bits']} <button class="plain" onclick={() => line.giveWay('bits')}>Use 8 bits</button></p>{/if}
<div class="checks">
  {#if space !== 'own'}<Checkbox labelText="Black-point compensation" checked={here?.['black_point'] !== false} on:check={(event) => set({ black_point: event.detail ? undefined : false })} />{/if}
  <Checkbox labelText="Embed the profile" checked={here?.['embed'] !== false} on:check={(event) => set({ embed: event.detail ? undefined : false })} />
  <Checkbox labelText="Dither when reduced to 8 bits" checked={here?.['dither'] !== false} on:check={(event) => set({ dither: event.detail ? undefined : false })} />
</div>
{#if clear}
  <Typed label="Matte" value={String(here?.['matte'] ?? '#ffffff')} wide={60} unit="behind transparent parts" problem={line.problems['color.matte']} onchange={(text) => set({ matte: typedColor(text) })} />
{/if}
<p class="dim">
  {space === 'srgb' ? 'What every browser shows right.' : space === 'own' ? 'Not converted; CMYK photos become sRGB all the same.' : space === 'grey' ? 'Lightness alone, with the curve of sRGB.' : space === 'icc' ? 'For presses and devices; relative intent with black-point compensation suits photographs.' : 'Wider than sRGB: for screens and programs that read profiles.'}
  A photo without a profile is taken as sRGB, and its receipt says so.
</p>

<style>
  .row { display: flex; gap: 6px 14px; flex-wrap: wrap; align-items: end; font-size: 12px; }
  .under, .checks { padding-left: 96px; }
  .checks { display: flex; gap: 4px 18px; flex-wrap: wrap; }
  .bad { color: var(--bad); }
  p { font-size: 12px; line-height: 16px; }
</style>
