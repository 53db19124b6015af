<script lang="ts">
  import Choice from '../recipes/Choice.svelte';
  import Quantity from '../recipes/Quantity.svelte';
  import Pick from '../ui/Pick.svelte';
  import { FORMATS, type Json } from './fields';

  let { formats, native, onadd }: { formats: readonly string[]; native: number; onadd: (variant: Json) => void } = $props();

  /** A variant of one's own, beside those that the page proposes. */
  let scale = $state('1');
  // svelte-ignore state_referenced_locally
  let format = $state(formats[0] ?? 'jpeg');
  let quality = $state<number | string>(85);
  let chroma = $state('auto');
  let strength = $state('');
  let profile = $state('');
  const SIZES: [string, number][] = [['1', 1], ['1.5', 1.5], ['2', 2], ['3', 3]];
  const lossy = $derived(!['png', 'tiff', 'gif'].includes(format));
  const ready = $derived(!lossy || (typeof quality === 'number' && quality >= 1 && quality <= 100));

  function add(): void {
    onadd({
      scale: Number(scale),
      format,
      quality: typeof quality === 'number' ? quality : 85,
      chroma: format === 'jpeg' || format === 'avif' ? chroma : 'auto',
      strength: strength === '' ? null : Number(strength),
      profile: profile || null,
    });
  }
</script>

<div class="form">
  <Choice label="Size" value={scale} options={SIZES.map(([text, by]): [string, string] => [text, `${Math.round(native * by)} wide`])} onchange={(value) => (scale = value)} />
  <Choice label="Format" value={format} options={FORMATS.filter(([each]) => formats.includes(each))} onchange={(value) => (format = value)} />
  {#if lossy}<Quantity label="Quality" value={quality} min={1} max={100} problem={ready ? undefined : 'Expected a whole number.'} onchange={(value) => (quality = value)} />{/if}
  {#if format === 'jpeg' || format === 'avif'}<Choice label="Fine color" value={chroma} options={[['auto', 'by quality'], ['420', 'half'], ['444', 'all of it']]} onchange={(value) => (chroma = value)} />{/if}
  <div class="row"><span>Sharpening</span><Pick label="Sharpening" value={strength} options={[['', 'as the recipe says'], ['0', 'none'], ['60', '60 %'], ['100', '100 %'], ['160', '160 %']]} onchange={(value) => (strength = value)} /></div>
  <div class="row"><span>Colors</span><Pick label="Colors" value={profile} options={[['', 'as the recipe says'], ['srgb', 'sRGB'], ['display-p3', 'Display P3']]} onchange={(value) => (profile = value)} /></div>
  <button class="press small" disabled={!ready} onclick={add}>Send it through</button>
</div>

<style>
  .form { display: grid; gap: 8px; padding: 6px; justify-items: start; }
  .row { display: grid; grid-template-columns: 84px 1fr; gap: 12px; align-items: center; font-size: 13px; }
</style>
