<script lang="ts">
  import type { Cell, Photo } from '../api/client';
  import { bytes, pixels } from '../words/numbers';
  import CoveredParts, { type Area } from '../ui/CoveredParts.svelte';
  import CutName from '../ui/CutName.svelte';
  import StateMark from '../ui/StateMark.svelte';
  import Thumb from '../ui/Thumb.svelte';

  interface Props {
    photo: Photo;
    cell: Cell;
    /** Of the recipe; and the cell's place in the row, from 1. */
    recipe?: string;
    covered?: readonly Area[];
    column?: number;
    focused: boolean;
    selected: boolean;
    height?: number;
    onpress: (event: MouseEvent) => void;
    onopen: () => void;
    ondown?: (event: MouseEvent) => void;
    onenter?: (event: MouseEvent) => void;
  }
  let { photo, cell, recipe = '', covered = [], column, focused, selected, height = 134, onpress, onopen, ondown, onenter }: Props = $props();

  const WIDTH = 138;
  const box = $derived({ width: WIDTH, height: Math.max(24, height - (height < 110 ? 42 : 58)) });
  const canvas = $derived(cell.canvas);
  const scale = $derived(Math.min(box.width / canvas.width, box.height / canvas.height));
  const shown = $derived({ width: Math.max(2, canvas.width * scale), height: Math.max(2, canvas.height * scale) });
  const edge = $derived(height > 180 ? 440 : 280);
  const place = $derived(cell.folder ? `${cell.folder}/${cell.name}` : cell.name);
  const alarms = ['eye', 'no-word', 'cuts', 'minimum', 'enlarged', 'smaller', 'same-name', 'ends-early', 'looks', 'limit', 'lost', 'outlet'];
  const warning = $derived(cell.state === 'excluded' ? undefined : cell.warnings.find((each) => alarms.includes(each.code)));
  const told = $derived(cell.warnings.map((each) => each.text).join('\n'));
  /** Read besides what is seen: the name whole, the recipe, and what is odd. */
  const heard = $derived([recipe && `${recipe}.`, ...cell.warnings.map((each) => each.text)].filter(Boolean).join(' '));
  const eye = $derived(['eye', 'outline', 'word', 'asking'].includes(cell.state));
</script>

<div
  class="cell"
  class:selected
  class:eye
  class:out={cell.state === 'excluded'}
  class:failed={cell.state === 'failed'}
  class:focused
  role="gridcell"
  aria-colindex={column}
  aria-selected={selected}
  tabindex={focused ? 0 : -1}
  data-cell="{photo.id}:{cell.recipe}"
  data-state={cell.state}
  onmousedown={(event) => {
    if (event.shiftKey) event.preventDefault();
    ondown?.(event);
  }}
  onmouseenter={onenter}
  onclick={onpress}
  onkeydown={() => undefined}
  ondblclick={onopen}
>
  {#if cell.state === 'failed'}<span class="alert bad" title={cell.error}>failed</span>
  {:else if cell.state === 'asking'}<span class="alert" title="The run waits for your answer">name taken</span>
  {:else if warning && !['done', 'making', 'waiting'].includes(cell.state)}<span class="alert" title={told}>{warning.label}</span>{/if}
  {#if cell.strength !== null && cell.state !== 'excluded'}
    <span class="own" title="This photo is sharpened by {cell.strength} % here, whatever the recipe says.">sharp {cell.strength} %</span>
  {/if}
  <div class="picture">
    <div class="rendition" style:width="{shown.width}px" style:height="{shown.height}px">
      <Thumb photo={photo.id} version={cell.version} picture={cell.key} {edge} checker={photo.alpha} {...shown} />
      {#if covered.length}<CoveredParts areas={covered} />{/if}
      {#if cell.columns * cell.rows > 1}
        <svg viewBox="0 0 {cell.columns} {cell.rows}" preserveAspectRatio="none" aria-hidden="true">
          {#each { length: cell.columns - 1 }, i (i)}<path d="M{i + 1} 0V{cell.rows}" />{/each}
          {#each { length: cell.rows - 1 }, i (i)}<path d="M0 {i + 1}H{cell.columns}" />{/each}
        </svg>
      {/if}
    </div>
  </div>
  <span class="visually-hidden">{cell.name || photo.name}. {heard}</span>
  {#if height >= 110}<div class="name" title={place} aria-hidden="true"><CutName name={cell.name} /></div>{/if}
  <div class="numbers">
    <StateMark state={cell.state} />
    <span class="size">{cell.narrowest < cell.width ? `${cell.narrowest}–${cell.width} wide` : cell.parts > 1 ? `${cell.parts} of ${cell.width}×${cell.height}` : pixels(cell.width, cell.height)}</span>
    <span class="weight" title={told}>
      {#if cell.state === 'excluded'}left out{:else if cell.about}<span class="about" title="about; not made yet">≈</span>{bytes(cell.bytes)}{:else}{bytes(cell.bytes)}{/if}
    </span>
  </div>
</div>

<style>
  .cell {
    position: relative; background: var(--bench); border-radius: var(--radius); padding: 8px 8px 6px; height: 100%;
    display: flex; flex-direction: column; min-width: 0; cursor: default; user-select: none;
  }
  .cell:hover { background: var(--hover); }
  .cell.eye { background: var(--eye-cell); }
  .cell.selected { background: var(--accent-soft); }
  .cell.focused { outline: 1.5px solid var(--accent); outline-offset: -1.5px; }
  .cell:focus:not(.focused) { outline: none; }
  .cell.failed { background: var(--bad-soft); }
  .picture { flex: 1; display: grid; place-items: center; min-height: 0; }
  .rendition { position: relative; }
  svg { position: absolute; inset: 0; width: 100%; height: 100%; overflow: visible; }
  path { stroke: var(--bench); stroke-width: 3px; vector-effect: non-scaling-stroke; fill: none; }
  .selected path { stroke: var(--accent-soft); }
  .eye path { stroke: var(--eye-cell); }
  .out .picture { opacity: 0.28; }
  .out .name, .out .numbers { color: #6b6b67; }
  .name { min-width: 0; margin-top: 5px; color: var(--dim); font-size: 11px; line-height: 14px; min-height: 14px; }
  .numbers { display: flex; align-items: center; gap: 5px; line-height: 16px; white-space: nowrap; font-size: 11.5px; }
  .size { overflow: hidden; text-overflow: ellipsis; min-width: 0; }
  .weight { margin-left: auto; color: var(--dim); flex: none; }
  .about { margin-right: 1px; }
  .alert, .own {
    position: absolute; top: 6px; left: 6px; font-size: 11px; line-height: 16px; padding: 0 6px; border-radius: 8px; z-index: 1;
    background: var(--eye-soft); color: var(--eye);
  }
  .own { left: auto; right: 6px; background: var(--bench); color: var(--dim); }
  .alert.bad { background: var(--bad); color: #fff; font-weight: 600; }
</style>
