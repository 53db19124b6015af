<script lang="ts">
  import type { Framing } from '../api/client';
  import { photoPicture } from '../ui/pictures';
  import CoveredParts, { coveredOf } from '../ui/CoveredParts.svelte';
  import Steady from '../recipes/Steady.svelte';
  import type { BenchState } from './bench.svelte';
  import { dragging } from './dragging';
  import { moved, onStage, pulled, zoomed, type Vector, type View } from './geometry';

  interface Props {
    state: BenchState;
    guides: string;
  }
  /** The photo with the wanted shape over it. */
  let { state: bench, guides }: Props = $props();

  let room = $state({ width: 900, height: 600 });
  let drawing = $state(false);

  const photo = $derived(bench.bench?.photo);
  const framing = $derived(bench.framing);
  const view = $derived.by((): View => {
    const size = photo ?? { width: 3, height: 2 };
    const turned = framing && framing.turn % 180 !== 0;
    const [width, height] = turned ? [size.height, size.width] : [size.width, size.height];
    // Some air around the photo: a framing may reach beyond it.
    const scale = Math.min((room.width * 0.86) / width, (room.height * 0.84) / height);
    return { middle: { x: room.width / 2, y: room.height / 2 }, scale };
  });
  const rect = $derived(photo && framing ? onStage(framing, photo, view) : undefined);
  const box = $derived(rect && { left: rect.middle.x - rect.width / 2, top: rect.middle.y - rect.height / 2, width: rect.width, height: rect.height });
  const numbers = $derived(bench.numbers);
  /** Padding is shown as it will be: the rendition itself lies in the frame once the hand rests. */
  const padded = $derived(numbers?.padded === true && !drawing);
  const CORNERS: Vector[] = [{ x: -1, y: -1 }, { x: 1, y: -1 }, { x: -1, y: 1 }, { x: 1, y: 1 }];

  function drag(event: PointerEvent, change: (from: Framing, by: Vector) => Framing): void {
    if (event.button !== 0 || !framing) return;
    const from = framing;
    drawing = true;
    dragging(event, (by) => bench.draw(change(from, by)), () => (drawing = false));
  }

  function wheel(event: WheelEvent): void {
    if (!framing || !photo) return;
    event.preventDefault();
    bench.draw(zoomed(framing, Math.exp(event.deltaY * 0.0012), photo));
  }
</script>

<div class="stage" bind:clientWidth={room.width} bind:clientHeight={room.height} onwheel={wheel} role="group" aria-label="The photo with its frame">
  {#if photo && framing && box && rect}
    <img
      class="photo"
      class:checker={photo.alpha}
      src={photoPicture(photo)}
      alt={photo.name}
      draggable="false"
      style:width="{photo.width * view.scale}px"
      style:height="{photo.height * view.scale}px"
      style:left="{view.middle.x - (photo.width * view.scale) / 2}px"
      style:top="{view.middle.y - (photo.height * view.scale) / 2}px"
      style:transform="rotate({framing.turn - framing.angle}deg)"
    />
    <div
      class="frame"
      data-frame
      role="presentation"
      style:left="{box.left}px"
      style:top="{box.top}px"
      style:width="{box.width}px"
      style:height="{box.height}px"
      onpointerdown={(event) => drag(event, (from, by) => moved(from, by, photo, view))}
    >
      {#if padded}<Steady src={bench.picture(Math.round(Math.min(960, Math.max(box.width, box.height))))} alt="as it will be" width={box.width} height={box.height} />{/if}
      {#if guides === 'covered'}<CoveredParts areas={coveredOf(bench.bench?.content)} />{/if}
      <svg viewBox="0 0 100 100" preserveAspectRatio="none" aria-hidden="true">
        {#if guides === 'thirds'}
          <path d="M33.333 0V100M66.667 0V100M0 33.333H100M0 66.667H100" />
        {:else if guides === 'diagonals'}
          <path d="M0 0L100 100M100 0L0 100" />
        {:else if guides === 'center'}
          <path d="M50 0V100M0 50H100" />
        {/if}
        {#if numbers && numbers.columns * numbers.rows > 1}
          {#each { length: numbers.columns - 1 }, i (i)}<path class="cut" d="M{(100 * (i + 1)) / numbers.columns} 0V100" />{/each}
          {#each { length: numbers.rows - 1 }, i (i)}<path class="cut" d="M0 {(100 * (i + 1)) / numbers.rows}H100" />{/each}
        {/if}
      </svg>
      {#if numbers && numbers.columns * numbers.rows > 1}
        {#each { length: numbers.columns * numbers.rows }, i (i)}
          <span class="number" style:left="{(100 * (i % numbers.columns)) / numbers.columns}%" style:top="{(100 * Math.floor(i / numbers.columns)) / numbers.rows}%">{i + 1}</span>
        {/each}
      {/if}
      {#each CORNERS as corner (`${corner.x} ${corner.y}`)}
        <span
          class="corner"
          role="presentation"
          style:left="{50 + 50 * corner.x}%"
          style:top="{50 + 50 * corner.y}%"
          style:cursor={corner.x === corner.y ? 'nwse-resize' : 'nesw-resize'}
          onpointerdown={(event) => drag(event, (from, by) => pulled(from, corner, by, photo, view, bench.bench?.ratio ?? null))}
        ></span>
      {/each}
    </div>
    {#if numbers}
      <p class="said" role="status">
        source {Math.round(numbers.rect.width)} × {Math.round(numbers.rect.height)} at {Math.round(numbers.rect.left)}, {Math.round(numbers.rect.top)} · made at {Math.round(100 * numbers.scale)} %
      </p>
    {/if}
  {/if}
</div>

<style>
  .stage { position: relative; flex: 1; min-width: 0; min-height: 0; overflow: hidden; background: var(--stage); touch-action: none; user-select: none; }
  .photo { position: absolute; display: block; }
  .frame { position: absolute; cursor: move; box-shadow: 0 0 0 4000px rgb(188 188 186 / 0.6); outline: 2px solid #fff; outline-offset: 0; }
  .frame :global(.holder) { position: absolute; inset: 0; max-width: none; background: none; }
  svg { position: absolute; inset: 0; width: 100%; height: 100%; }
  path { stroke: rgb(255 255 255 / 0.75); stroke-width: 1px; vector-effect: non-scaling-stroke; fill: none; }
  .cut { stroke: #fff; stroke-width: 2px; }
  .number { position: absolute; margin: 5px; padding: 0 6px; border-radius: 8px; background: rgb(30 30 29 / 0.8); color: #f1f1ef; font-size: 11px; line-height: 16px; }
  .corner { position: absolute; width: 16px; height: 16px; margin: -8px 0 0 -8px; border-radius: 50%; background: #fff; border: 2px solid var(--accent); }
  .said { position: absolute; left: 14px; bottom: 12px; background: rgb(30 30 29 / 0.82); color: #f1f1ef; border-radius: 12px; padding: 3px 12px; line-height: 18px; }
</style>
