<script lang="ts">
  import { Modal } from 'carbon-components-svelte';
  import type { Rendition } from '../api/client';
  import { bytes, pixels } from '../words/numbers';

  interface Props {
    rows: Rendition[];
    at: number;
    onmove: (to: number) => void;
    onclose: () => void;
  }
  /** A finished file beside its original, both at their own pixels: drag to look elsewhere, arrows to step. */
  let { rows, at, onmove, onclose }: Props = $props();

  const SHOWN = ['JPEG', 'PNG', 'WebP', 'AVIF', 'GIF'];
  const page = Math.random().toString(36).slice(2);
  let turn = 0;

  const row = $derived(rows[at]);
  const read = $derived(row?.receipt as unknown as { width: number; height: number; bytes: number; format: string; profile: string | null; score?: number | null } | undefined);
  const shows = $derived(read ? SHOWN.includes(read.format) : false);
  let room = $state({ width: 0, height: 0 });
  /** The middle of what is looked at, in the rendition's pixels; undefined for its own middle. */
  let middle = $state.raw<{ x: number; y: number }>();
  let dragged = $state.raw<{ x: number; y: number }>();
  let drag = $state.raw({ x: 0, y: 0 });
  let failed = $state('');
  /** What the browser draws one of the picture's pixels with. */
  const ratio = window.devicePixelRatio || 1;

  const seen = $derived({ width: Math.round(room.width * ratio), height: Math.round(room.height * ratio) });
  const looked = $derived(read ? (middle ?? { x: read.width / 2, y: read.height / 2 }) : { x: 0, y: 0 });
  /** The picture's left top corner in the pane: moved inside where it is larger, in the middle where it is smaller. */
  const corner = $derived.by(() => {
    if (!read) return { x: 0, y: 0 };
    const place = (size: number, view: number, to: number) => (size <= view ? (view - size) / 2 : Math.min(0, Math.max(view - size, view / 2 - to)));
    return { x: place(read.width, seen.width, looked.x), y: place(read.height, seen.height, looked.y) };
  });
  const original = $derived.by(() => {
    if (!row || !seen.width) return '';
    const { x, y } = { x: seen.width / 2 - corner.x, y: seen.height / 2 - corner.y };
    turn += 1;
    const query = new URLSearchParams({ x: x.toFixed(1), y: y.toFixed(1), width: String(Math.min(2000, seen.width)), height: String(Math.min(2000, seen.height)), page, turn: String(turn) });
    return `/api/renditions/${row.id}/original?${query.toString()}`;
  });

  $effect(() => {
    void row?.id;
    middle = undefined;
    failed = '';
  });

  function step(by: number): void {
    const to = at + by;
    if (to >= 0 && to < rows.length) onmove(to);
  }

  function pressed(event: KeyboardEvent): void {
    const by = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
    if (by === undefined || (event.target as HTMLElement).closest('input, select')) return;
    event.preventDefault();
    step(by);
  }

  function down(event: PointerEvent): void {
    if (!read || event.button !== 0) return;
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
    dragged = { x: event.clientX, y: event.clientY };
  }
  function moved(event: PointerEvent): void {
    if (dragged) drag = { x: event.clientX - dragged.x, y: event.clientY - dragged.y };
  }
  function up(): void {
    if (dragged && read && (drag.x || drag.y)) {
      const keep = (to: number, size: number) => Math.min(size, Math.max(0, to));
      middle = { x: keep(seen.width / 2 - corner.x - drag.x * ratio, read.width), y: keep(seen.height / 2 - corner.y - drag.y * ratio, read.height) };
    }
    dragged = undefined;
    drag = { x: 0, y: 0 };
  }
</script>

<svelte:window onkeydown={pressed} />
<Modal open passiveModal modalHeading={row ? row.name : ''} class="side-by-side" on:close={onclose}>
  {#if row && read}
    <div class="bar">
      <span class="dim">{row.recipe_title} · {pixels(read.width, read.height)} · {bytes(read.bytes)} · {read.format} · {read.profile ?? 'no profile'}{read.score ? ` · score ${read.score}` : ''}</span>
      <span class="steps">
        <button class="plain" disabled={at === 0} onclick={() => step(-1)}>‹ Before</button>
        <span class="dim">{at + 1} of {rows.length}</span>
        <button class="plain" disabled={at === rows.length - 1} onclick={() => step(1)}>Next ›</button>
      </span>
    </div>
    <div class="panes">
      <!-- svelte-ignore a11y_no_static_element_interactions -->
      <figure class:grabbing={dragged} bind:clientWidth={room.width} bind:clientHeight={room.height} onpointerdown={down} onpointermove={moved} onpointerup={up} onpointercancel={up}>
        {#if failed}<p>{failed}</p>{:else if original}<img class="whole" src={original} alt="The original at its own pixels" draggable="false" style:translate="{drag.x}px {drag.y}px" onerror={() => (failed = 'The original cannot be shown. Is it still there?')} />{/if}
        <figcaption>the original at 100 %</figcaption>
      </figure>
      <!-- svelte-ignore a11y_no_static_element_interactions -->
      <figure class:grabbing={dragged} onpointerdown={down} onpointermove={moved} onpointerup={up} onpointercancel={up}>
        {#if shows}
          <img src="/api/renditions/{row.id}/file" alt="The rendition at its own pixels" draggable="false" style:width="{read.width / ratio}px" style:left="{corner.x / ratio + drag.x}px" style:top="{corner.y / ratio + drag.y}px" />
        {:else}<p>Browsers show no {read.format}. Download it instead.</p>{/if}
        <figcaption>{row.name} at 100 %</figcaption>
      </figure>
    </div>
  {/if}
</Modal>

<style>
  .bar { display: flex; gap: 20px; align-items: center; padding-bottom: 8px; font-size: 13px; }
  .steps { margin-left: auto; display: flex; gap: 14px; align-items: center; white-space: nowrap; }
  .steps :disabled { color: var(--dim); }
  .panes { display: grid; grid-template-columns: 1fr 1fr; gap: 6px; height: calc(100% - 34px); }
  figure { margin: 0; position: relative; overflow: hidden; background: var(--stage); cursor: grab; touch-action: none; }
  figure.grabbing { cursor: grabbing; }
  figure p { position: absolute; inset: 0; display: grid; place-items: center; font-size: 13px; padding: 20px; text-align: center; }
  img { position: absolute; max-width: none; display: block; user-select: none; }
  .whole { inset: 0; margin: auto; max-width: 100%; max-height: 100%; }
  figcaption { position: absolute; left: 8px; bottom: 8px; max-width: calc(100% - 16px); overflow: hidden; text-overflow: ellipsis; background: rgb(30 30 29 / 0.82); color: #f1f1ef; border-radius: 10px; padding: 2px 10px; line-height: 17px; font-size: 11px; white-space: nowrap; }
  :global(.side-by-side .bx--modal-container) { width: calc(100vw - 48px); max-width: none; height: calc(100vh - 48px); max-height: none; }
  :global(.side-by-side .bx--modal-content) { height: 100%; padding: 0 16px 16px; margin: 0; overflow: hidden; mask: none; }
</style>
