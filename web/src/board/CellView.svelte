<script lang="ts">
  import type { Cell, Photo } from '../api/client';
  import { bytes, halves, pixels } from '../words/numbers';
  import { cellPicture } from './board.svelte';
  import StateMark from './StateMark.svelte';

  interface Props {
    photo: Photo;
    cell: Cell;
    focused: boolean;
    selected: boolean;
    onpress: (event: MouseEvent) => void;
    onopen: () => void;
  }
  let { photo, cell, focused, selected, onpress, onopen }: Props = $props();

  const BOX = { width: 138, height: 76 };
  const scale = $derived(Math.min(BOX.width / cell.width, BOX.height / cell.height));
  const shown = $derived({ width: Math.max(2, cell.width * scale), height: Math.max(2, cell.height * scale) });
  const [head, tail] = $derived(halves(cell.name));
  const warning = $derived(cell.warnings[0]);
  const place = $derived(cell.folder ? `${cell.folder}/${cell.name}` : cell.name);
</script>

<div
  class="cell"
  class:selected
  class:out={cell.state === 'excluded'}
  class:failed={cell.state === 'failed'}
  class:focused
  role="gridcell"
  aria-selected={selected}
  tabindex={focused ? 0 : -1}
  data-cell="{photo.id}:{cell.recipe}"
  data-state={cell.state}
  onmousedown={(event) => event.shiftKey && event.preventDefault()}
  onclick={onpress}
  onkeydown={() => undefined}
  ondblclick={onopen}
>
  {#if cell.state === 'failed'}<span class="alert" title={cell.error}>failed</span>{/if}
  <div class="picture">
    <img
      class:checker={photo.alpha}
      src={cellPicture(photo, cell.version, 280)}
      alt=""
      fetchpriority="low"
      decoding="async"
      width={Math.round(shown.width)}
      height={Math.round(shown.height)}
      style:width="{shown.width}px"
      style:height="{shown.height}px"
      draggable="false"
    />
  </div>
  <div class="name" title={place}><span>{head}</span><span>{tail}</span></div>
  <div class="numbers">
    <StateMark state={cell.state} />
    <span>{pixels(cell.width, cell.height)}</span>
    <span class="weight" title={cell.warnings.map((each) => each.text).join('\n')}>
      {cell.bytes ? bytes(cell.bytes) : cell.state === 'excluded' ? 'left out' : (warning?.label ?? '')}
    </span>
  </div>
</div>

<style>
  .cell {
    position: relative; background: var(--bench); border-radius: var(--radius); padding: 8px 8px 6px; height: 100%;
    display: flex; flex-direction: column; min-width: 0; cursor: default; user-select: none;
  }
  .cell:hover { background: #e2e2e0; }
  .cell.selected { background: var(--accent-soft); }
  .cell.focused { outline: 1.5px solid var(--accent); outline-offset: -1.5px; }
  .cell:focus:not(.focused) { outline: none; }
  .cell.failed { background: var(--bad-soft); }
  .picture { flex: 1; display: grid; place-items: center; min-height: 0; }
  img { display: block; object-fit: fill; background-color: #c6c6c3; }
  .out .picture { opacity: 0.28; }
  .out .name, .out .numbers { color: #6b6b67; }
  .name { display: flex; min-width: 0; margin-top: 5px; color: var(--dim); font-size: 11px; line-height: 14px; }
  .name span:first-child { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
  .name span:last-child { flex: none; white-space: pre; }
  .numbers { display: flex; align-items: center; gap: 6px; line-height: 16px; white-space: nowrap; }
  .weight { margin-left: auto; color: var(--dim); min-width: 0; overflow: hidden; text-overflow: ellipsis; }
  .alert {
    position: absolute; top: 6px; left: 6px; font-size: 11px; line-height: 16px; padding: 0 6px; border-radius: 8px; z-index: 1;
    background: var(--bad); color: #fff; font-weight: 600;
  }
</style>
