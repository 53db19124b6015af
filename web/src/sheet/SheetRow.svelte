<script lang="ts">
  import { trying } from '../shell/notices.svelte';
  import { photoPicture } from '../ui/pictures';
  import { sourceOf } from './columns';
  import type { SheetState } from './sheet.svelte';

  interface Props {
    sheet: SheetState;
    photo: number;
    index: number;
    /** Whether a recipe's names are shown. */
    named: boolean;
    height: number;
    /** Keep what is typed, and go on. */
    onkept: (then: () => void) => void;
    onlost: () => void;
  }
  /** One photo's words. */
  let { sheet, photo, index, named, height, onkept, onlost }: Props = $props();

  const row = $derived(sheet.rows.get(photo));
  const scale = $derived(row ? Math.min(84 / Math.max(1, row.width), (height - 14) / Math.max(1, row.height)) : 1);
  let element = $state<HTMLElement>();
  let over = $state(false);

  $effect(() => sheet.want(photo));
  $effect.pre(() => () => {
    if (element?.contains(document.activeElement)) onlost();
  });

  function down(event: MouseEvent, column: number): void {
    if (event.button !== 0) return;
    const here = sheet.focus.row === index && sheet.focus.column === column;
    if (sheet.draft !== undefined && here) return; // into the text that is being typed
    if (!event.shiftKey && event.detail < 2) (event.currentTarget as HTMLElement).focus({ preventScroll: true });
    onkept(() => sheet.stand({ row: index, column }, event.shiftKey));
  }

  function enter(event: MouseEvent, column: number): void {
    if (event.buttons === 1 && sheet.draft === undefined) sheet.stand({ row: index, column }, true);
  }

  /** Keys while somebody types. */
  function typed(event: KeyboardEvent): void {
    if (event.isComposing) return;
    if (event.key === 'Enter' && !event.shiftKey) onkept(() => sheet.stand({ row: index + 1, column: sheet.from.column }));
    else if (event.key === 'Tab') onkept(() => sheet.next(event.shiftKey ? -1 : 1));
    else if (event.key === 'Escape') {
      sheet.draft = undefined;
      onkept(() => undefined);
    } else return;
    event.preventDefault();
    event.stopPropagation();
  }

  function open(field: HTMLTextAreaElement): void {
    field.focus({ preventScroll: true });
    field.setSelectionRange(field.value.length, field.value.length);
  }
</script>

<div class="row" role="row" aria-rowindex={index + 2} aria-label={row?.name} bind:this={element} style:height="{height}px">
  {#if row}
    <!-- Alt and the arrow keys do the same. -->
    <div
      class="picture"
      class:over
      role="presentation"
      draggable="true"
      title="Drag to put the photo elsewhere in the tray (Alt with the arrow keys)"
      ondragstart={(event) => { if (!sheet.isChosen(index, sheet.focus.column)) sheet.stand({ row: index, column: sheet.focus.column }); event.dataTransfer?.setData('text/x-upper-tray-row', String(index)); }}
      ondragover={(event) => { if (event.dataTransfer?.types.includes('text/x-upper-tray-row')) { event.preventDefault(); over = true; } }}
      ondragleave={() => (over = false)}
      ondrop={(event) => { over = false; event.preventDefault(); event.stopPropagation(); void trying(() => sheet.move(index > sheet.chosen.top ? index + 1 : index)); }}
    >
      {#if row.state === 'ready'}
        <img src={photoPicture({ id: row.photo, digest: row.digest }, 200)} alt="" style:width="{row.width * scale}px" style:height="{row.height * scale}px" draggable="false" />
      {:else}
        <span class="dim">{row.state === 'waiting' ? '…' : '✕'}</span>
      {/if}
    </div>
    <div class="name dim" role="rowheader" aria-colindex="1" title={row.name}>{row.name}{#if row.unread.length}{' '}<span class="eye" title={row.unread.join(' ')}>· words unread</span>{/if}</div>
    {#each sheet.columns as column, at (column.word)}
      {@const here = sheet.focus.row === index && sheet.focus.column === at}
      {@const waits = sheet.pending.has(`${photo}:${column.word}`)}
      {@const text = sheet.text({ row: index, column: at })}
      {@const source = sourceOf(row, column.word)}
      <!-- Keys are the page's: they go from cell to cell. -->
      <!-- svelte-ignore a11y_click_events_have_key_events -->
      <div
        class="cell"
        class:here
        class:chosen={sheet.isChosen(index, at)}
        class:title={column.word === 'title'}
        role="gridcell"
        aria-colindex={at + 2}
        aria-selected={sheet.isChosen(index, at)}
        tabindex={here ? 0 : -1}
        data-spot="{index}:{at}"
        title={[text.length > 60 ? text : '', source].filter(Boolean).join(' · ') || undefined}
        onmousedown={(event) => down(event, at)}
        onmouseenter={(event) => enter(event, at)}
        ondblclick={() => { if (sheet.draft === undefined) sheet.draft = sheet.text({ row: index, column: at }); }}
      >
        {#if here && sheet.draft !== undefined}
          <textarea aria-label="{column.name} of {row.name}" bind:value={sheet.draft} onkeydown={typed} onblur={() => { if (sheet.draft !== undefined) onkept(() => undefined); }} use:open></textarea>
        {:else if text}
          <span class="text" class:waits>{#if source !== 'typed' && !waits}<i class="ring" aria-hidden="true"></i>{/if}{text}</span>
          <span class="visually-hidden">{waits ? 'not kept yet' : source}</span>
        {:else}
          <span class="dim" class:waits>{column.word === 'title' ? 'no title' : '—'}</span>
        {/if}
      </div>
    {/each}
    {#if named}
      <div class="file" role="gridcell" aria-colindex={sheet.columns.length + 2} title={row.named ? `${row.named.folder ? `${row.named.folder}/` : ''}${row.named.name}` : undefined}>
        {#if row.named?.missing.length}
          <span class="eye"><b>no {row.named.missing.join(', no ')} yet</b> · {row.named.name}</span>
        {:else if row.named}
          {row.named.name}{#if row.named.numbered}{' '}<span class="dim">· numbered</span>{/if}
        {:else}
          <span class="dim">—</span>
        {/if}
      </div>
    {/if}
  {:else}
    <div class="none" role="gridcell" aria-busy="true"></div>
  {/if}
</div>

<style>
  .row { display: grid; grid-template-columns: var(--columns); gap: 0 10px; min-width: var(--width); padding: 0 10px 4px; margin-right: 16px; align-items: center; position: relative; }
  .row::before { content: ''; position: absolute; inset: 0 0 4px; background: var(--bench); z-index: -1; border-radius: 3px; }
  .picture { display: grid; place-items: center; cursor: grab; height: 100%; }
  .picture.over { box-shadow: 0 -3px 0 var(--accent); }
  img { display: block; }
  .name, .file { display: -webkit-box; -webkit-line-clamp: 3; line-clamp: 3; -webkit-box-orient: vertical; overflow: hidden; overflow-wrap: anywhere; line-height: 16px; }
  .file { padding-left: 8px; }
  .cell { align-self: stretch; display: grid; align-items: center; min-width: 0; padding: 2px 8px; line-height: 16px; cursor: default; border-radius: 3px; outline: 2px solid transparent; outline-offset: -2px; }
  .cell:hover { background: var(--sheet); }
  .cell.chosen { background: var(--accent-soft); }
  .cell.here { outline-color: var(--accent); background: var(--sheet); }
  .cell.title .text { font-weight: 600; font-size: 13px; }
  .text { display: -webkit-box; -webkit-line-clamp: 3; line-clamp: 3; -webkit-box-orient: vertical; overflow: hidden; overflow-wrap: anywhere; }
  .ring { display: inline-block; width: 6px; height: 6px; border: 1.2px solid var(--dim); border-radius: 50%; margin: 0 6px 2px 0; vertical-align: middle; }
  .waits { color: var(--eye); font-style: italic; }
  .eye { color: var(--eye); }
  textarea { font: inherit; color: inherit; width: calc(100% + 12px); height: calc(100% - 4px); margin: 0 -6px; padding: 4px 5px; border: 0; resize: none; background: var(--field); outline: none; border-radius: 2px; line-height: 16px; }
  .none { grid-column: 1 / -1; }
</style>
