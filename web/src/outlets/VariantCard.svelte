<script lang="ts">
  import type { Area } from '../ui/CoveredParts.svelte';
  import { bytes } from '../words/numbers';
  import type { Tried, Variants } from './rehearsal.svelte';
  import SeenOn from './SeenOn.svelte';

  interface Props {
    tried: Tried;
    about: Variants;
    view: string;
    page: string;
    covered: readonly Area[];
    /** Where the middle of the window lies, in shares of the picture. */
    middle: { x: number; y: number };
    rank: number | undefined;
    chosen: boolean;
    busy: boolean;
    onchoose: () => void;
    onuse: () => void;
    onremove: () => void;
    onagain: () => void;
    onpan: (event: PointerEvent, room: { width: number; height: number }) => void;
  }
  /** One variant: what people will see of it, its score, its bytes. */
  let { tried, about, view, page, covered, middle, rank, chosen, busy, onchoose, onuse, onremove, onagain, onpan }: Props = $props();

  let room = $state({ width: 300, height: 320 });
  const made = $derived(tried.made);
  // One pixel of the outlet's page is one of this screen.
  const wide = $derived(about.seen_width / devicePixelRatio);
  const high = $derived(about.seen_height / devicePixelRatio);
  const shift = (at: number, length: number, space: number) => (length <= space ? (space - length) / 2 : Math.min(0, Math.max(space - length, space / 2 - at * length)));
  const name = $derived(made ? made.what : `${String(tried.variant['format']).toUpperCase()} ${['png', 'tiff', 'gif'].includes(String(tried.variant['format'])) ? '' : String(tried.variant['quality'])}`);
</script>

<article class:chosen aria-label={name}>
  <div class="room" bind:clientWidth={room.width} bind:clientHeight={room.height} onpointerdown={(event) => view === 'pixels' && onpan(event, room)} class:pans={view === 'pixels'} role="presentation">
    {#if tried.failed}<p class="message">{tried.failed} <button class="plain" onclick={onagain}>Try again</button></p>
    {:else if view === 'pixels'}
      {#if tried.src}<img src={tried.src} alt="{name} as people will see it" draggable="false" style:width="{wide}px" style:height="{high}px" style:transform="translate({Math.round(shift(middle.x, wide, room.width))}px, {Math.round(shift(middle.y, high, room.height))}px)" />
      {:else}<p class="message" aria-busy="true">At the outlet…</p>{/if}
    {:else}<SeenOn src={tried.src} alt="{name} on its page" {page} ratio={about.seen_width / about.seen_height} {covered} phone={view === 'phone'} />{/if}
  </div>
  <div class="facts">
    <p class="what"><button class="strong" aria-pressed={chosen} onclick={onchoose}>{name}</button> {#if made}<span class="dim">{made.how}</span>{/if}<button class="dim remove" aria-label="Remove {name}" onclick={onremove}>×</button></p>
    {#if made}
      <p><span class="score">{made.score.toFixed(1)}</span> of 100 like the ideal {#if rank}<span class="dim">· {rank === 1 ? 'best' : `no. ${rank}`}</span>{/if}</p>
      <p class="dim">sent {bytes(made.sent)} · shown {bytes(made.shown)}{made.untouched ? ', as it was sent' : ''}</p>
      <p><button class="plain" disabled={busy} onclick={onuse}>Use this in the recipe</button></p>
    {:else if !tried.failed}<p class="dim">on its way</p>{/if}
  </div>
</article>

<style>
  article { display: flex; flex-direction: column; background: var(--bench); border-radius: var(--radius); overflow: hidden; min-width: 0; border: 2px solid transparent; scroll-snap-align: start; }
  .chosen { border-color: var(--accent); }
  .room { flex: 1; min-height: 120px; position: relative; overflow: hidden; background: var(--stage); display: grid; }
  .pans { cursor: grab; touch-action: none; }
  .pans img { position: absolute; left: 0; top: 0; max-width: none; image-rendering: auto; }
  .message { margin: auto; padding: 0 16px; text-align: center; }
  .facts { padding: 8px 10px 8px; display: grid; gap: 1px; font-size: 12px; min-height: 98px; align-content: start; }
  .facts p { white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
  .what { display: flex; gap: 6px; }
  .what .dim { overflow: hidden; text-overflow: ellipsis; }
  .remove { margin-left: auto; padding: 0 6px; flex: none; }
  .score { font-size: 20px; line-height: 26px; font-weight: 600; font-variant-numeric: tabular-nums; }
</style>
