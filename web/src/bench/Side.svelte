<script lang="ts">
  import { Checkbox } from 'carbon-components-svelte';
  import type { Framing } from '../api/client';
  import Rename from '../ui/Rename.svelte';
  import Thumb from '../ui/Thumb.svelte';
  import { say, trying } from '../shell/notices.svelte';
  import Steady from '../recipes/Steady.svelte';
  import { count, pixels } from '../words/numbers';
  import type { BenchState } from './bench.svelte';

  /** What belongs to this photo, beside the picture. */
  let { state: bench }: { state: BenchState } = $props();

  const found = $derived(bench.bench);
  const numbers = $derived(bench.numbers);
  const panels = $derived(numbers ? numbers.columns * numbers.rows : 1);
  /** By its place in the list: what is shown may come anew meanwhile. */
  let renaming = $state<number>();
  let panel = $state(0);
  const swipe = $derived.by(() => {
    if (!numbers || panels < 2) return undefined;
    const at = Math.min(panel, panels - 1);
    const column = at % numbers.columns;
    const row = Math.floor(at / numbers.columns);
    const width = Math.min(178, 178 * (numbers.panel.width / numbers.panel.height));
    const height = (width * numbers.panel.height) / numbers.panel.width;
    return { at, width, height, wide: width * numbers.columns, high: height * numbers.rows, left: -column * width, top: -row * height };
  });

  function rename(framing: Framing, name: string): void {
    void trying(() => bench.rename(framing, name));
  }

  function drawn(ratio: number): { width: number; height: number } {
    const height = Math.max(4, Math.min(18, 22 / ratio));
    return { width: Math.max(4, Math.min(22, height * ratio)), height };
  }
</script>

<aside>
  {#if found && numbers}
    <h2>Framings of this photo</h2>
    <ul>
      {#each found.framings as each, i (i)}
        {@const size = drawn(each.ratio)}
        <li class:used={each.used && bench.editing !== undefined} data-framing={each.framing.name}>
          <span class="shape"><span style:width="{size.width}px" style:height="{size.height}px"></span></span>
          {#if renaming === i}
            <Rename name={each.framing.name} label="Name of the framing" most={80} onrename={(name) => rename(each.framing, name)} onclose={() => (renaming = undefined)} />
          {:else}
            <button class="name" aria-pressed={each.used} title={each.used ? 'Followed now' : 'Use this framing'} onclick={() => !(each.used && !bench.changed) && void trying(() => bench.choose(each.framing))} ondblclick={() => (renaming = i)}>{each.framing.name}</button>
          {/if}
          <span class="dim">{each.shape}</span>
          {#if each.framing.recipe !== null}<span class="only" title="Only {found.title} follows it">only {each.framing.recipe === found.recipe ? found.title : 'another recipe'}</span>{/if}
          <button class="gone" aria-label="Rename {each.framing.name}" title="Rename" onclick={() => (renaming = i)}>✎</button>
          <button class="gone" aria-label="Delete {each.framing.name}" title="Delete" onclick={() => void trying(() => bench.remove(each.framing))}>×</button>
        </li>
      {:else}
        <li class="dim none">No crop chosen yet. What you see is a proposal: keep it, or draw your own.</li>
      {/each}
    </ul>
    <div class="row">
      <Checkbox labelText="only for {found.title}" checked={bench.tied} disabled={found.ratio === null} on:check={(event) => { if (event.detail !== bench.tied) { bench.tied = event.detail; bench.noteDraft(); } }} />
      {#if bench.editing}<button class="plain" onclick={() => bench.begin()}>New framing</button>{/if}
    </div>

    {#if swipe}
      <h2>Swiped through</h2>
      <div class="swipe">
        <button aria-label="Previous panel" disabled={swipe.at === 0} onclick={() => (panel = swipe.at - 1)}>‹</button>
        <div class="window" style:width="{swipe.width}px" style:height="{swipe.height}px">
          <div class="strip" style:left="{swipe.left}px" style:top="{swipe.top}px">
            <Steady src={bench.picture(960)} alt="panel {swipe.at + 1}" width={swipe.wide} height={swipe.high} />
          </div>
        </div>
        <button aria-label="Next panel" disabled={swipe.at === panels - 1} onclick={() => (panel = swipe.at + 1)}>›</button>
        <span class="dim">{swipe.at + 1} of {panels}</span>
      </div>
    {/if}

    <h2>In the grid</h2>
    <div class="grid" aria-label="Neighbors as a square grid shows them">
      {#each found.neighbors as neighbor (neighbor.id)}
        {#if neighbor.id === found.photo.id}
          <span class="here"><img src={bench.picture(200)} alt={neighbor.name} title={neighbor.name} /></span>
        {:else}
          <span><Thumb photo={neighbor.id} version={found.version} picture={neighbor.key} edge={200} alt={neighbor.name} title={neighbor.name} /></span>
        {/if}
      {/each}
    </div>

    <h2>Numbers</h2>
    <dl>
      <dt>rendition</dt>
      <dd>{panels > 1 ? `${panels} × ` : ''}{pixels(numbers.panel.width, numbers.panel.height)}</dd>
      <dt>of the photo</dt>
      <dd>{Math.round(100 * numbers.share)} %</dd>
      <dt>enlarged</dt>
      <dd class:eye={numbers.scale > 1.0001}>{numbers.scale > 1.0001 ? `yes, to ${Math.round(100 * numbers.scale)} %` : `no, ${Math.round(100 * numbers.scale)} %`}</dd>
      <dt>angle</dt>
      <dd>{(bench.framing?.angle ?? 0).toFixed(1)}°{bench.framing?.turn ? `, turned ${bench.framing.turn}°` : ''}</dd>
    </dl>
    {#each numbers.warnings.filter((each) => ['enlarged', 'smaller', 'minimum', 'outlet'].includes(each.code)) as warning (warning.text)}
      <p class="warning" role="status">{warning.text}</p>
    {/each}
    {#if found.similar.length && !bench.changed && !found.proposed}
      <button class="quiet similar" onclick={() => void trying(async () => say(await bench.framings.carry(found.photo.id, found.framing, { photos: found.similar })))}>
        Use for {count(found.similar.length, 'similar photo')}
      </button>
    {/if}
  {/if}
</aside>

<style>
  aside { width: min(312px, 45%); flex: none; padding: 14px 16px; overflow: auto; background: var(--bench); display: flex; flex-direction: column; }
  h2 { font-weight: 600; font-size: 13px; margin: 14px 0 6px; }
  h2:first-child { margin-top: 0; }
  ul { list-style: none; display: grid; gap: 2px; }
  li { display: flex; gap: 8px; align-items: center; padding: 5px 8px; border-radius: var(--radius); min-height: 32px; }
  li.used { background: var(--sheet); box-shadow: inset 0 0 0 1.5px var(--accent); }
  li.none { padding: 2px 0; line-height: 17px; }
  .shape { width: 24px; display: grid; place-items: center; }
  .shape span { background: var(--accent-soft); border: 1.3px solid var(--accent); }
  .name { flex: 1; min-width: 0; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
  li :global(.bx--form-item) { flex: 1; min-width: 0; }
  .gone { color: var(--dim); padding: 0 3px; min-width: 20px; }
  .gone:hover { color: var(--ink); }
  .only { font-size: 11px; color: var(--accent-deep); white-space: nowrap; overflow: hidden; text-overflow: ellipsis; max-width: 84px; flex: none; }
  .row { display: flex; justify-content: space-between; padding: 6px 0 0; }
  .swipe { display: flex; gap: 8px; align-items: center; }
  .swipe button { font-size: 20px; padding: 4px 6px; }
  .swipe button:disabled { color: #9a9a96; }
  .window { position: relative; overflow: hidden; }
  .strip { position: absolute; transition: left 0.22s, top 0.22s; }
  .strip :global(.holder) { max-width: none; }
  .grid { display: grid; grid-template-columns: repeat(3, 1fr); gap: 3px; }
  .grid span { position: relative; display: block; aspect-ratio: 1; overflow: hidden; }
  .grid span :global(img) { width: 100%; height: 100%; object-fit: cover; display: block; }
  .grid .here::after { content: ''; position: absolute; inset: 0; border: 2px solid var(--accent); }
  dl { display: grid; grid-template-columns: 1fr auto; gap: 3px 12px; }
  dt { color: var(--dim); }
  dd { font-weight: 600; text-align: right; }
  .eye { color: var(--eye); }
  .warning { background: var(--eye-soft); color: var(--eye); border-radius: var(--radius); padding: 6px 10px; margin-top: 8px; line-height: 17px; }
  .similar { margin-top: 14px; height: 36px; justify-content: center; flex: none; }
</style>
