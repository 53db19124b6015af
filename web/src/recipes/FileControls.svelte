<script lang="ts">
  import { Checkbox } from 'carbon-components-svelte';
  import { bytes } from '../words/numbers';
  import Choice from './Choice.svelte';
  import { station, typedNumber, withStation } from './draft';
  import type { LineState } from './line.svelte';
  import MetadataControls from './MetadataControls.svelte';
  import Quantity from './Quantity.svelte';
  import Typed from './Typed.svelte';

  interface Props {
    line: LineState;
    /** Where the weight of the sample is judged. */
    look?: string | undefined;
  }
  let { line, look }: Props = $props();

  const here = $derived(station(line.content, 'file') ?? {});
  const format = $derived(String(here['format']));
  const lossy = $derived(['jpeg', 'pdf', 'avif'].includes(format) || (format === 'webp' && here['lossless'] !== true));
  const way = $derived(here['under_kb'] !== undefined ? 'limit' : here['looks'] !== undefined ? 'looks' : 'quality');
  const usual = $derived(format === 'avif' ? 65 : 84);
  const plan = $derived(line.plan);
  const about = $derived(plan ? `${plan.rough ? 'roughly' : 'about'} ${bytes(plan.about)}` : '');
  const ABOUT: Record<string, string> = {
    jpeg: 'Read everywhere. Transparent parts are laid on the matte of the color station.',
    png: 'Lossless; keeps transparency. For drawings and screenshots; photographs get heavy.',
    webp: 'A quarter lighter than JPEG at the same look; read by all browsers of today.',
    avif: 'The lightest for photographs; takes longer to make.',
    tiff: 'Lossless, for presses and archives.',
    pdf: 'One page, as large as the picture at the resolution tag of the size station, or at 300 ppi.',
    gif: 'At most 256 colors; no color profile and no metadata. For small drawings.',
    same: 'The photo’s own file, byte by byte, under another name. Nothing is resized, sharpened or converted.',
  };

  function set(changes: Record<string, unknown>): void {
    const next = Object.fromEntries(Object.entries({ ...here, ...changes }).filter(([, value]) => value !== undefined));
    line.change(withStation(line.content, 'file', next));
  }

  function number(text: string): number | string | undefined {
    return text.trim() === '' ? undefined : typedNumber(text);
  }
</script>

<Choice
  label="Format"
  value={format}
  options={[['jpeg', 'JPEG'], ['webp', 'WebP'], ['avif', 'AVIF'], ['png', 'PNG'], ['tiff', 'TIFF'], ['pdf', 'PDF'], ['gif', 'GIF'], ['same', 'as it is']]}
  onchange={(to) => line.saveAs(to)}
/>
{#if line.problems['color.bits']}
  <p class="clash" role="alert">{format.toUpperCase()} holds 8 bits a channel, and the color station asks for 16. <button class="plain" onclick={() => line.giveWay('bits')}>Use 8 bits</button></p>
{/if}
{#if line.problems['color.icc']}
  <p class="clash" role="alert">{line.problems['color.icc']} <button class="plain" onclick={() => line.giveWay('profile')}>Convert to sRGB instead</button></p>
{/if}
{#if format === 'webp'}
  <Choice label="Kind" value={here['lossless'] === true ? 'lossless' : 'lossy'} options={[['lossy', 'lossy'], ['lossless', 'lossless']]} onchange={(kind) => set(kind === 'lossless' ? { lossless: true, under_kb: undefined, looks: undefined, lowest: undefined } : { lossless: undefined })} />
{/if}
{#if lossy}
  <Choice label="Weight" value={way} options={[['quality', 'by quality'], ['limit', 'best under a limit'], ['looks', 'lightest that looks the same']]} onchange={(to) => line.weigh(to)} />
  {#if way === 'quality'}
    <Quantity label="Quality" min={1} max={100} value={here['quality'] ?? usual} problem={line.problems['file.quality']} onchange={(quality) => set({ quality })} />
  {:else if way === 'limit'}
    <div class="row">
      <Typed label="Limit" value={String(here['under_kb'] ?? '')} wide={50} unit="kB at most" problem={line.problems['file.under_kb']} onchange={(text) => set({ under_kb: typedNumber(text) })} />
      <Typed label="" name="Lowest quality" value={String(here['lowest'] ?? '')} placeholder="20" wide={34} unit="lowest quality" problem={line.problems['file.lowest']} onchange={(text) => set({ lowest: number(text) })} />
    </div>
    <p class="dim">A photo that does not fit fails, and says by how much.</p>
  {:else}
    <Quantity label="Score" min={30} max={99} value={here['looks']} problem={line.problems['file.looks']} onchange={(looks) => set({ looks })} />
    <p class="dim">How much the file looks like the picture: 100 is no difference at all; at 88 nobody sees one side by side; at 70 those who look for it do.</p>
    {#if format === 'webp' && Number(here['looks']) > 84}<p class="eye" role="note">WebP keeps color at half the resolution. On fine colored detail it may not reach {here['looks']}; the receipt says so then. AVIF and JPEG can.</p>{/if}
  {/if}
{/if}
{#if about}
  <p class="about"><span class="label">This photo</span><b data-about>{about}</b>{#if look}<a class="plain" href={look}>Judge weight and look</a>{/if}</p>
{/if}
{#if format === 'jpeg'}
  <div class="row">
    <Choice label="Encoder" value={String(here['coder'] ?? 'quick')} options={[['quick', 'quick'], ['thorough', 'thorough']]} onchange={(coder) => set({ coder: coder === 'quick' ? undefined : coder })} />
    <span class="dim">thorough: ten times slower, 9 to 15 % lighter</span>
  </div>
  <div class="row">
    <Choice label="Appears" value={here['progressive'] === true ? 'progressive' : 'baseline'} options={[['baseline', 'from top to bottom'], ['progressive', 'coarse, then fine']]} onchange={(scans) => set({ progressive: scans === 'progressive' ? true : undefined })} />
    <span class="dim">while it loads</span>
  </div>
  <Choice label="Color detail" value={String(here['chroma'] ?? 'auto')} options={[['auto', 'by quality'], ['444', 'full (4:4:4)'], ['422', 'half (4:2:2)'], ['420', 'a quarter (4:2:0)']]} onchange={(chroma) => set({ chroma: chroma === 'auto' ? undefined : chroma })} />
  {#if line.problems['file.chroma']}<p class="bad" role="alert">{line.problems['file.chroma']}</p>{/if}
{:else if format === 'webp' && here['lossless'] !== true}
  <Choice label="Color edges" value={here['sharp'] === true ? 'sharp' : here['sharp'] === false ? 'plain' : 'auto'} options={[['auto', 'as needed'], ['sharp', 'sharp'], ['plain', 'plain']]} onchange={(color) => set({ sharp: color === 'auto' ? undefined : color === 'sharp' })} />
  <p class="dim">Sharp takes four times as long. As needed: sharp where the file is to look the same.</p>
{:else if format === 'avif'}
  <Choice label="Color detail" value={String(here['chroma'] ?? 'auto')} options={[['auto', 'by quality'], ['444', 'full (4:4:4)'], ['422', 'half (4:2:2)'], ['420', 'a quarter (4:2:0)']]} onchange={(chroma) => set({ chroma: chroma === 'auto' ? undefined : chroma })} />
{:else if format === 'png'}
  <Typed label="Palette" value={String(here['colors'] ?? '')} placeholder="none" wide={44} unit="colors, 2 to 256; empty for all" problem={line.problems['file.colors']} onchange={(text) => set({ colors: number(text) })} />
{:else if format === 'gif'}
  <Typed label="Palette" value={String(here['colors'] ?? 256)} wide={44} unit="colors, 2 to 256" problem={line.problems['file.colors']} onchange={(text) => set({ colors: number(text) })} />
  <div class="under"><Checkbox labelText="Dither, so that skies show fewer steps" checked={here['dither'] !== false} on:check={(event) => set({ dither: event.detail ? undefined : false })} /></div>
{:else if format === 'tiff'}
  <Choice label="Compression" value={String(here['compression'] ?? 'deflate')} options={[['deflate', 'deflate'], ['lzw', 'LZW'], ['none', 'none']]} onchange={(compression) => set({ compression: compression === 'deflate' ? undefined : compression })} />
{/if}
{#if format === 'webp' || format === 'avif' || format === 'png'}
  <Quantity label="Effort" min={0} max={format === 'webp' ? 6 : 9} value={here['effort'] ?? { webp: 2, avif: 1, png: 6 }[format]} problem={line.problems['file.effort']} onchange={(effort) => set({ effort })} />
{/if}
{#if format !== 'gif'}<MetadataControls {line} />{/if}
<p class="dim">{ABOUT[format]}</p>

<style>
  .row { display: flex; gap: 6px 14px; flex-wrap: wrap; align-items: center; }
  .about { display: grid; grid-template-columns: 84px max-content max-content; gap: 4px 12px; font-size: 13px; align-items: baseline; }
  .about .label { font-size: 13px; }
  .clash { background: var(--eye-soft); color: var(--eye); padding: 6px 10px; border-radius: var(--radius); }
  .under { padding-left: 96px; }
  .bad { color: var(--bad); }
  .eye { color: var(--eye); }
  p, .dim { font-size: 12px; line-height: 16px; }
</style>
