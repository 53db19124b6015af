<script lang="ts">
  import { dragging } from './dragging';
  import type { Points } from './looks';

  interface Props {
    points: Points;
    onchange: (points: Points) => void;
  }
  /** The tone curve by points, over the hill: a double click adds one or takes one away; they are dragged, or moved by arrows. */
  let { points, onchange }: Props = $props();

  const MOST = 16;
  const APART = 0.01;
  let room = $state<HTMLElement>();
  const line = $derived([[0, 0], ...points, [1, 1]].map(([x, y]) => `${x},${1 - (y ?? 0)}`).join(' '));
  const round = (value: number) => Math.round(value * 1000) / 1000;

  /** A point moved, kept between its neighbors: the curve never falls. */
  function moved(at: number, x: number, y: number): Points {
    const [left, low] = points[at - 1] ?? [0, 0];
    const [right, high] = points[at + 1] ?? [1, 1];
    const next: [number, number] = [round(Math.min(right - APART, Math.max(left + APART, x))), round(Math.min(high, Math.max(low, y)))];
    return points.map((each, i) => (i === at ? next : each));
  }

  function spot(event: MouseEvent): [number, number] {
    const box = room?.getBoundingClientRect() ?? { left: 0, top: 0, width: 1, height: 1 };
    return [(event.clientX - box.left) / box.width, 1 - (event.clientY - box.top) / box.height];
  }

  function add(event: MouseEvent): void {
    const [x] = spot(event);
    const at = points.findIndex(([each]) => each > x);
    const place = at < 0 ? points.length : at;
    const [left, low] = points[place - 1] ?? [0, 0];
    const [right, high] = points[place] ?? [1, 1];
    if (points.length >= MOST || right - left < 3 * APART) return;
    // On the curve as it is: a point changes nothing until it is moved.
    const y = low + ((x - left) / (right - left)) * (high - low);
    onchange([...points.slice(0, place), [round(x), round(y)], ...points.slice(place)]);
  }

  function pressed(event: KeyboardEvent, at: number): void {
    const [x, y] = points[at] ?? [0, 0];
    const by = ({ ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] } as Record<string, [number, number]>)[event.key];
    const step = event.shiftKey ? 0.05 : 0.01;
    if (by) onchange(moved(at, x + by[0] * step, y + by[1] * step));
    else if (event.key === 'Delete' || event.key === 'Backspace') onchange(points.filter((_, i) => i !== at));
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  /** From the keyboard a point comes into the middle of the widest gap. */
  function addByKey(): void {
    const whole: Points = [[0, 0], ...points, [1, 1]];
    const gaps = whole.slice(1).map(([x], i) => x - (whole[i]?.[0] ?? 0));
    const at = gaps.indexOf(Math.max(...gaps));
    const [[x0, y0] = [0, 0], [x1, y1] = [1, 1]] = [whole[at], whole[at + 1]];
    if (points.length < MOST) onchange([...points.slice(0, at), [round((x0 + x1) / 2), round((y0 + y1) / 2)], ...points.slice(at)]);
  }
</script>

<div class="curve" bind:this={room} role="group" aria-label="Tone curve" ondblclick={add}>
  <svg viewBox="0 0 1 1" preserveAspectRatio="none" aria-hidden="true"><polyline points={line} /></svg>
  {#each points as [x, y], at (at)}
    <button
      style:left="{100 * x}%"
      style:top="{100 * (1 - y)}%"
      aria-label="Point {at + 1} of the curve: {Math.round(100 * x)} % becomes {Math.round(100 * y)} %"
      title="Drag, or arrow keys; double click or Delete takes it away"
      onpointerdown={(event) => {
        (event.currentTarget as HTMLElement).focus();
        dragging(event, (_, now) => onchange(moved(at, ...spot(now))));
      }}
      ondblclick={(event) => {
        event.stopPropagation();
        onchange(points.filter((_, i) => i !== at));
      }}
      onkeydown={(event) => pressed(event, at)}
    ></button>
  {/each}
  <button class="add" title="Add a point of the curve" onclick={addByKey}>+ point</button>
</div>

<style>
  .curve { position: absolute; inset: 0; }
  svg { position: absolute; inset: 0; width: 100%; height: 100%; overflow: visible; }
  polyline { fill: none; stroke: var(--accent); stroke-width: 1.5px; vector-effect: non-scaling-stroke; opacity: 0.8; }
  button { position: absolute; width: 14px; height: 14px; margin: -7px 0 0 -7px; border-radius: 50%; background: var(--accent); border: 2px solid #fff; cursor: move; touch-action: none; }
  button:focus-visible { outline: 2px solid var(--accent); outline-offset: 2px; }
  .add { width: auto; height: auto; margin: 0; right: 2px; bottom: 2px; border: 0; border-radius: 8px; background: color-mix(in srgb, var(--sheet) 85%, transparent); padding: 0 7px; font-size: 11px; line-height: 17px; cursor: pointer; color: var(--ink); }
</style>
