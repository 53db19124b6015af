<script lang="ts">
  import { dragging } from './dragging';
  import type { OutlineState } from './outline.svelte';
  import { drawn, nearest, nodeAt, type Place } from './outlines';

  interface Props {
    state: OutlineState;
    /** The picture's size on the screen at zoom 1, and the room around it. */
    size: { width: number; height: number };
    room: { width: number; height: number };
    src: string;
    name: string;
    /** The photo's width in pixels. */
    pixels: number;
  }
  /** The photo with its outline over it, at any zoom: points are moved, added and taken away here. */
  let { state: here, size, room, src, name, pixels }: Props = $props();

  const CLOSEST = 16;
  /** More points than these hide the edge that they are on. */
  const MOST = 260;
  let zoom = $state(1);
  /** What of the photo lies in the middle of the room, in shares. */
  let middle = $state.raw<Place>([0.5, 0.5]);

  const wide = $derived(size.width * zoom);
  const high = $derived(size.height * zoom);
  const left = $derived(room.width / 2 - middle[0] * wide);
  const top = $derived(room.height / 2 - middle[1] * high);
  const placed = (at: Place): Place => [left + at[0] * wide, top + at[1] * high];
  const path = $derived(drawn(here.shape.paths, placed));
  const chosen = $derived(nodeAt(here.shape.paths, here.spot));
  /** The points that are in view; far away they would only cover the edge. */
  const points = $derived.by(() => {
    const seen = here.shape.paths.flatMap((each, p) => each.map((node, n) => ({ path: p, node: n, at: placed(node.at), corner: node.corner })));
    const near = seen.filter(({ at }) => at[0] > -8 && at[1] > -8 && at[0] < room.width + 8 && at[1] < room.height + 8);
    return near.length > MOST ? near.filter((each) => each.path === here.spot?.path && each.node === here.spot.node) : near;
  });

  let stage = $state<HTMLElement>();

  function spotOf(event: MouseEvent): Place {
    const box = stage?.getBoundingClientRect();
    return [(event.clientX - (box?.left ?? 0) - left) / wide, (event.clientY - (box?.top ?? 0) - top) / high];
  }

  function look(at: Place, to: number): void {
    const next = Math.min(CLOSEST, Math.max(1, to));
    // What lies under the pointer stays there.
    const [x, y] = [left + at[0] * wide - room.width / 2, top + at[1] * high - room.height / 2];
    zoom = next;
    middle = next === 1 ? [0.5, 0.5] : [at[0] - x / (size.width * next), at[1] - y / (size.height * next)];
  }

  /** To the chosen point, closely enough to see its pixels. */
  export function closer(by: number): void {
    look(chosen?.at ?? middle, zoom * by);
    if (chosen && by > 1) middle = chosen.at;
  }

  export function whole(): void {
    zoom = 1;
    middle = [0.5, 0.5];
  }

  function wheel(event: WheelEvent): void {
    event.preventDefault();
    look(spotOf(event), zoom * (event.deltaY < 0 ? 1.25 : 0.8));
  }

  function pan(event: PointerEvent): void {
    here.spot = undefined;
    const start = middle;
    dragging(event, (by) => (middle = [start[0] - by.x / wide, start[1] - by.y / high]));
  }

  function drag(event: PointerEvent, path: number, node: number): void {
    here.spot = { path, node };
    stage?.focus();
    let before = { x: 0, y: 0 };
    dragging(event, (by) => {
      here.move({ path, node }, [(by.x - before.x) / wide, (by.y - before.y) / high]);
      before = by;
    });
  }

  function bend(event: PointerEvent, which: 'before' | 'behind'): void {
    const spot = here.spot;
    const start = chosen?.[which];
    if (!spot || !start) return;
    dragging(event, (by) => here.bend(spot, which, [start[0] + by.x / wide, start[1] + by.y / high]));
  }

  function add(event: MouseEvent): void {
    const found = nearest(here.shape.paths, spotOf(event), here.ratio);
    if (found && found.far * high < 14) here.add(found, found.t);
  }

  /** While the view follows the keys: a point that goes out of it takes it along. */
  $effect(() => {
    if (!chosen || zoom === 1) return;
    const [x, y] = placed(chosen.at);
    if (x < 20 || y < 20 || x > room.width - 20 || y > room.height - 20) middle = chosen.at;
  });
</script>

<!-- Points are chosen and moved by keys, too: the page takes them, and says them in its list of keys. -->
<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div class="stage" bind:this={stage} role="application" tabindex="0" aria-label="The outline of {name}, {here.points} points. N and P go through them, arrows move the chosen one." aria-describedby="chosen-point" onwheel={wheel} onpointerdown={pan} ondblclick={add}>
  {#if src}<img {src} alt="" draggable="false" style:width="{wide}px" style:height="{high}px" style:left="{left}px" style:top="{top}px" />{/if}
  <svg width={room.width} height={room.height} aria-hidden="true">
    <path class="beside" d="M0 0H{room.width}V{room.height}H0Z {path}" fill-rule="evenodd" />
    <path class="halo" d={path} /><path class="edge" d={path} />
    {#each points as each (`${each.path} ${each.node}`)}
      {@const on = here.spot?.path === each.path && here.spot.node === each.node}
      <!-- svelte-ignore a11y_no_static_element_interactions -->
      <g class="point" class:on transform="translate({each.at[0].toFixed(1)} {each.at[1].toFixed(1)})" data-point="{each.path}:{each.node}" onpointerdown={(event) => drag(event, each.path, each.node)} ondblclick={(event) => event.stopPropagation()}>
        <circle r="9" class="reach" />
        {#if each.corner}<rect x="-3.5" y="-3.5" width="7" height="7" />{:else}<circle r="3.8" />{/if}
      </g>
    {/each}
    {#if chosen}
      {#each ['before', 'behind'] as const as which (which)}
        {@const handle = chosen[which]}
        {#if handle}
          {@const [x, y] = placed(handle)}
          {@const [fromX, fromY] = placed(chosen.at)}
          <line class="arm" x1={fromX} y1={fromY} x2={x} y2={y} />
          <!-- svelte-ignore a11y_no_static_element_interactions -->
          <circle class="handle" cx={x} cy={y} r="5" onpointerdown={(event) => bend(event, which)} />
        {/if}
      {/each}
    {/if}
  </svg>
  <p id="chosen-point" class="visually-hidden" aria-live="polite">{chosen ? `Point ${(here.spot?.node ?? 0) + 1} of path ${(here.spot?.path ?? 0) + 1}, ${chosen.corner ? 'a corner' : 'smooth'}` : ''}</p>
  <span class="zoom">{Math.round((100 * wide) / pixels)} %{#if points.length < 2 && here.points > MOST} · closer for its points{/if}</span>
</div>

<style>
  .stage { position: absolute; inset: 0; overflow: hidden; cursor: grab; touch-action: none; outline-offset: -2px; }
  img { position: absolute; max-width: none; }
  svg { position: absolute; inset: 0; pointer-events: none; }
  .beside { fill: rgb(120 120 118 / 0.62); }
  .edge, .halo { fill: none; stroke: var(--accent); stroke-width: 1.5; }
  .halo { stroke: #fff; stroke-width: 3.5; opacity: 0.75; }
  .point { pointer-events: all; cursor: move; }
  .point circle, .point rect { fill: #fff; stroke: var(--accent-deep); stroke-width: 1.4; }
  .point .reach { fill: transparent; stroke: none; }
  .point.on circle:not(.reach), .point.on rect { fill: var(--accent); stroke: #fff; }
  .arm { stroke: var(--accent-deep); stroke-width: 1; }
  .handle { fill: #fff; stroke: var(--accent-deep); stroke-width: 1.4; pointer-events: all; cursor: move; }
  .zoom { position: absolute; right: 12px; bottom: 10px; background: rgb(30 30 29 / 0.82); color: #f1f1ef; border-radius: 10px; padding: 2px 10px; line-height: 17px; font-size: 11px; font-variant-numeric: tabular-nums; pointer-events: none; }
</style>
