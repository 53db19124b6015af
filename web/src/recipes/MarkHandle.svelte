<script lang="ts">
  import type { Schemas } from '../api/client';
  import { station, withStation } from './draft';
  import { list, markName, rounded, spotOf } from './finish';
  import type { LineState } from './line.svelte';

  /** The handles of a rendition's marks: each is put elsewhere by dragging it, or by arrow keys. */
  let { line, plan }: { line: LineState; plan: Schemas['DraftPlanOut'] } = $props();

  const here = $derived(station(line.content, 'finish'));
  const marks = $derived(list(here, 'marks'));
  let room = $state<HTMLElement>();
  let dragged = $state<number>();

  /** The area that a mark's place is a share of: the picture inside its borders, or all. */
  function area(at: number): { x: number; y: number; width: number; height: number } {
    return marks[at]?.['over'] === 'all' ? { x: 0, y: 0, width: 1, height: 1 } : plan.within;
  }

  function put(at: number, x: number, y: number): void {
    const next = marks.map((each, i) => (i === at ? { ...each, at: [rounded(x), rounded(y)] } : each));
    line.change(withStation(line.content, 'finish', { ...here, marks: next }));
  }

  function down(event: PointerEvent, at: number): void {
    line.mark = at;
    dragged = at;
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
  }

  function move(event: PointerEvent, at: number): void {
    if (dragged !== at || !room) return;
    const box = room.getBoundingClientRect();
    const { x, y, width, height } = area(at);
    put(at, ((event.clientX - box.left) / box.width - x) / width, ((event.clientY - box.top) / box.height - y) / height);
  }

  const MOVES: Record<string, [number, number]> = { ArrowUp: [0, -1], ArrowDown: [0, 1], ArrowLeft: [-1, 0], ArrowRight: [1, 0] };

  function pressed(event: KeyboardEvent, at: number): void {
    const by = MOVES[event.key];
    const mark = marks[at];
    if (!by || !mark) return;
    event.preventDefault();
    event.stopPropagation(); // these keys go from station to station elsewhere
    const [x, y] = spotOf(mark);
    const step = event.shiftKey ? 0.05 : 0.01;
    put(at, x + by[0] * step, y + by[1] * step);
  }
</script>

<div class="room" bind:this={room}>
  {#each marks as mark, at (at)}
    {#if !mark['tiled']}
      {@const inside = area(at)}
      {@const [x, y] = spotOf(mark)}
      <button
        class="handle"
        class:on={line.mark === at}
        style:left="{100 * (inside.x + x * inside.width)}%"
        style:top="{100 * (inside.y + y * inside.height)}%"
        aria-label="Move {markName(mark)}"
        title="Drag “{markName(mark)}” to where it goes; arrow keys move it, with Shift further"
        onpointerdown={(event) => down(event, at)}
        onpointermove={(event) => move(event, at)}
        onpointerup={() => (dragged = undefined)}
        onlostpointercapture={() => (dragged = undefined)}
        onfocus={() => (line.mark = at)}
        onkeydown={(event) => pressed(event, at)}
      ></button>
    {/if}
  {/each}
</div>

<style>
  .room { position: absolute; inset: 0; }
  .handle { position: absolute; width: 24px; height: 24px; margin: -12px 0 0 -12px; border-radius: 50%; border: 1.5px dashed #fff; outline: 1px solid rgb(30 30 29 / 0.55); background: transparent; cursor: move; touch-action: none; opacity: 0.6; }
  .handle.on { border-style: solid; }
  .handle.on, .handle:hover { opacity: 1; }
  .handle:focus-visible { outline: 2px solid var(--accent); outline-offset: 2px; }
</style>
