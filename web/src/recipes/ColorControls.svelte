<script lang="ts">
  import { api, csrf, problemOf, taken, type Schemas } from '../api/client';
  import { trying } from '../shell/notices.svelte';
  import Choice from './Choice.svelte';
  import { station, withStation } from './draft';
  import type { LineState } from './line.svelte';
  import Typed from './Typed.svelte';

  let { line }: { line: LineState } = $props();

  const here = $derived(station(line.content, 'color'));
  const space = $derived(here ? String(here['profile'] ?? 'srgb') : 'own');
  const format = $derived(String(station(line.content, 'file')?.['format']));
  const deep = $derived(format === 'png' || format === 'tiff');
  const clear = $derived(!['png', 'webp', 'avif', 'tiff', 'gif'].includes(format));
  let files = $state.raw<Schemas['ProfileOut'][]>([]);

  $effect(() => void trying(async () => void (files = await taken(api.GET('/api/profiles')))));

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
    const body = new FormData();
    body.append('file', file);
    const answer = await fetch('/api/profiles', { method: 'POST', body, headers: { 'X-CSRFToken': csrf() } });
    const got: unknown = await answer.json();
    if (!answer.ok) throw problemOf(answer.status, got);
    files = await taken(api.GET('/api/profiles'));
    set({ profile: 'icc', icc: (got as Schemas['ProfileOut']).name });
  }
</script>

<Choice
  label="Color space"
  value={space}
  options={[['srgb', 'sRGB'], ['display-p3', 'Display P3'], ['adobe-rgb', 'Adobe-RGB-compatible'], ['grey', 'grey'], ['icc', 'a profile file'], ['own', 'the photo’s own']]}
  onchange={choose}
/>
{#if space === 'icc'}
  <div class="row">
    <label>Profile file
      <select value={String(here?.['icc'] ?? '')} onchange={(event) => set({ icc: event.currentTarget.value })}>
        {#each files as each (each.name)}<option value={each.name}>{each.title} ({each.space})</option>{/each}
      </select>
    </label>
    <label class="quiet small add">Add a file… <input type="file" accept=".icc,.icm" class="visually-hidden" onchange={(event) => void trying(() => add(event.currentTarget.files?.[0]))} /></label>
  </div>
{/if}
{#if line.problems['color.icc']}<p class="bad" role="alert">{line.problems['color.icc']}</p>{/if}
{#if space !== 'own'}
  <div class="row">
    <Choice label="Intent" value={String(here?.['intent'] ?? 'relative')} options={[['relative', 'relative'], ['perceptual', 'perceptual'], ['saturation', 'saturation'], ['absolute', 'absolute']]} onchange={(intent) => set({ intent: intent === 'relative' ? undefined : intent })} />
    <label class="check"><input type="checkbox" checked={here?.['black_point'] !== false} onchange={(event) => set({ black_point: event.currentTarget.checked ? undefined : false })} /> black-point compensation</label>
  </div>
{/if}
<div class="row">
  <label class="check"><input type="checkbox" checked={here?.['embed'] !== false} onchange={(event) => set({ embed: event.currentTarget.checked ? undefined : false })} /> profile in the file</label>
  {#if deep}<Choice label="Bits" value={String(here?.['bits'] ?? 8)} options={[['8', '8'], ['16', '16']]} onchange={(bits) => set({ bits: bits === '16' ? 16 : undefined })} />{/if}
  {#if line.problems['color.bits']}<span class="bad" role="alert">{line.problems['color.bits']} <button class="plain" onclick={() => set({ bits: undefined })}>8 bits</button></span>{/if}
  <label class="check"><input type="checkbox" checked={here?.['dither'] !== false} onchange={(event) => set({ dither: event.currentTarget.checked ? undefined : false })} /> dither when reduced to 8 bits</label>
  {#if clear}
    <Typed label="" name="Matte" value={String(here?.['matte'] ?? '#ffffff')} wide={60} unit="behind transparent parts" problem={line.problems['color.matte']} onchange={(text) => set({ matte: text.trim().toLowerCase() })} />
  {/if}
</div>
<p class="dim">
  {space === 'srgb' ? 'What every browser shows rightly.' : space === 'own' ? 'Not converted; CMYK photos become sRGB all the same.' : space === 'grey' ? 'Lightness alone, with the curve of sRGB.' : space === 'icc' ? 'For presses and devices; relative intent with black-point compensation suits photographs.' : 'Wider than sRGB: for screens and programs that read profiles.'}
  A photo without a profile is taken as sRGB, and its receipt says so.
</p>

<style>
  .row { display: flex; gap: 6px 14px; flex-wrap: wrap; align-items: center; font-size: 12px; }
  .check { display: flex; gap: 6px; align-items: center; }
  .check input { accent-color: var(--accent); }
  select { font: inherit; border: 1px solid #93938f; border-radius: 4px; background: #f1f1ef; padding: 3px 6px; margin-left: 8px; max-width: 300px; }
  .add { cursor: pointer; position: relative; }
  .bad { color: var(--bad); }
  p { font-size: 12px; line-height: 16px; }
</style>
