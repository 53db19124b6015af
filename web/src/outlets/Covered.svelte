<script lang="ts">
  import { TextInput } from 'carbon-components-svelte';
  import type { Area } from '../ui/CoveredParts.svelte';
  import { dragging } from '../bench/dragging';

  interface Props {
    areas: readonly Area[];
    /** Width by height of the picture. */
    ratio: number;
    problem: string | undefined;
    onchange: (areas: Area[]) => void;
  }
  /** The parts of a picture that the outlet's page covers: drawn by hand, moved and sized by mouse or by arrow keys. */
  let { areas, ratio, problem, onchange }: Props = $props();

  const LARGEST = 190;
  const size = $derived(ratio > 1 ? { width: LARGEST, height: LARGEST / ratio } : { width: LARGEST * ratio, height: LARGEST });
  const round = (value: number) => Math.round(value * 1000) / 1000;

  function put(i: number, area: Area): void {
    const width = round(Math.min(1, Math.max(0.02, area.width)));
    const height = round(Math.min(1, Math.max(0.02, area.height)));
    const x = round(Math.min(1 - width, Math.max(0, area.x)));
    const y = round(Math.min(1 - height, Math.max(0, area.y)));
    onchange(areas.map((each, at) => (at === i ? { ...area, x, y, width, height } : each)));
  }

  function drag(event: PointerEvent, i: number, edge: boolean): void {
    const from = areas[i];
    if (!from) return;
    event.stopPropagation();
    (event.currentTarget as HTMLElement).focus();
    dragging(event, (by) => {
      const [dx, dy] = [by.x / size.width, by.y / size.height];
      put(i, edge ? { ...from, width: from.width + dx, height: from.height + dy } : { ...from, x: from.x + dx, y: from.y + dy });
    });
  }

  function nudge(event: KeyboardEvent, i: number): void {
    const area = areas[i];
    const by = ({ ArrowLeft: [-0.01, 0], ArrowRight: [0.01, 0], ArrowUp: [0, -0.01], ArrowDown: [0, 0.01] } as Record<string, [number, number]>)[event.key];
    if (!area || !by) return;
    event.preventDefault();
    put(i, event.shiftKey ? { ...area, width: area.width + by[0], height: area.height + by[1] } : { ...area, x: area.x + by[0], y: area.y + by[1] });
  }

  const add = () => onchange([...areas, { by: 'title', x: 0, y: 0.8, width: 1, height: 0.2 }]);
</script>

<div class="covered">
  <div class="picture" style:width="{size.width}px" style:height="{size.height}px">
    {#each areas as area, i (i)}
      <button class="area" aria-label="{area.by}: arrows move it, with Shift they size it" style:left="{area.x * 100}%" style:top="{area.y * 100}%" style:width="{area.width * 100}%" style:height="{area.height * 100}%" onpointerdown={(event) => drag(event, i, false)} onkeydown={(event) => nudge(event, i)}>
        <!-- The button does the same by keys. -->
        <span class="edge" onpointerdown={(event) => drag(event, i, true)} role="presentation"></span>
      </button>
    {/each}
  </div>
  <div class="list">
    {#each areas as area, i (i)}
      <div class="row">
        <TextInput labelText="What covers it" hideLabel value={area.by} maxlength={60} on:input={(event) => put(i, { ...area, by: String(event.detail ?? '') })} />
        <span class="dim">{Math.round(area.width * 100)} × {Math.round(area.height * 100)} %</span>
        <button class="plain" aria-label="Remove {area.by}" onclick={() => onchange(areas.filter((_, at) => at !== i))}>Remove</button>
      </div>
    {/each}
    <button class="plain" onclick={add}>Add a covered part</button>
    {#if problem}<p class="problem">{problem}</p>{/if}
  </div>
</div>

<style>
  .covered { display: flex; gap: 16px; flex-wrap: wrap; }
  .picture { position: relative; flex: none; background: linear-gradient(160deg, #9a9a97, #74746f); border-radius: 2px; overflow: hidden; }
  .area { position: absolute; background: repeating-linear-gradient(45deg, rgb(20 20 19 / 0.55) 0 4px, rgb(20 20 19 / 0.3) 4px 8px); cursor: move; touch-action: none; outline-offset: -2px; }
  .edge { position: absolute; right: 0; bottom: 0; width: 12px; height: 12px; cursor: nwse-resize; background: linear-gradient(135deg, transparent 50%, #fff 50%); }
  .list { flex: 1; min-width: 220px; display: grid; gap: 4px; align-content: start; justify-items: start; }
  .row { display: grid; grid-template-columns: 1fr auto auto; gap: 10px; align-items: center; width: 100%; }
  .problem { color: var(--bad); font-size: 12px; }
</style>
