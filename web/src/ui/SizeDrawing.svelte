<script lang="ts">
  import type { Drawing } from '../api/client';

  /** A recipe as a small drawing: its shape, or which edge is given, or the box that holds it. */
  let { drawing }: { drawing: Drawing } = $props();

  const by = $derived(drawing.by);
  const frame = $derived.by(() => {
    const ratio = drawing.ratio ?? 1.5;
    const height = Math.max(4, Math.min(23, 27 / ratio));
    const width = Math.max(4, Math.min(27, height * ratio));
    return { x: 16 - width / 2, y: 13 - height / 2, width, height };
  });
  const shaped = $derived(drawing.ratio !== null || drawing.columns * drawing.rows > 1);
</script>

<svg width="28" height="23" viewBox="0 0 32 26" aria-hidden="true">
  {#if shaped}
    <rect {...frame} class="picture" class:stretch={drawing.way === 'stretch'} />
    {#if drawing.way === 'pad'}
      <rect x={frame.x + frame.width * 0.12} y={13 - Math.min(frame.height, frame.width / 1.5) * 0.38} width={frame.width * 0.76} height={Math.min(frame.height, frame.width / 1.5) * 0.76} class="inside" />
    {/if}
    {#each { length: drawing.columns - 1 }, i (i)}
      <path d="M{frame.x + (frame.width * (i + 1)) / drawing.columns} {frame.y}v{frame.height}" class="edge" />
    {/each}
    {#each { length: drawing.rows - 1 }, i (i)}
      <path d="M{frame.x} {frame.y + (frame.height * (i + 1)) / drawing.rows}h{frame.width}" class="edge" />
    {/each}
  {:else if drawing.way === 'bounds'}
    <rect x="10.5" y="1.5" width="11" height="23" class="edge" stroke-dasharray="2 2" />
    <rect x="3.5" y="6.5" width="25" height="13" class="picture" />
  {:else if by === 'box'}
    <rect x="3.5" y="1.5" width="25" height="23" class="edge" stroke-dasharray="2 2" />
    <rect x="3.5" y="5.5" width="25" height="15" class="picture" />
  {:else if by === 'width'}
    <path d="M3 4v18M29 4v18M3 13h26M7 10l-4 3 4 3M25 10l4 3-4 3" class="edge strong" />
  {:else if by === 'height'}
    <path d="M8 2h16M8 24h16M16 2v22M13 6l3-4 3 4M13 20l3 4 3-4" class="edge strong" />
  {:else if by === 'widths'}
    <path d="M3 5h26M3 11h19M3 17h13M3 23h8" class="edge strong" />
  {:else if by === 'long-edge'}
    <rect x="3.5" y="8.5" width="25" height="16" class="picture" />
    <path d="M3.5 4h25M3.5 2v4M28.5 2v4" class="edge strong" />
  {:else if by === 'short-edge'}
    <rect x="8.5" y="4.5" width="21" height="17" class="picture" />
    <path d="M4 4.5v17M2 4.5h4M2 21.5h4" class="edge strong" />
  {:else}
    <rect x="4.5" y="4.5" width="23" height="17" class="picture" />
  {/if}
</svg>

<style>
  svg { flex: none; }
  .edge { fill: none; stroke: var(--accent); stroke-width: 1; }
  .strong { stroke-width: 1.5; }
  .picture { fill: var(--accent-soft); stroke: var(--accent); stroke-width: 1.3; }
  .stretch { stroke-dasharray: 4 2; }
  .inside { fill: var(--bench); stroke: var(--accent); stroke-width: 1; }
</style>
