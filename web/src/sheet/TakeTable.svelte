<script lang="ts">
  import { FileUploaderButton, Modal, TextArea } from 'carbon-components-svelte';
  import { Problem } from '../api/client';
  import { say } from '../shell/notices.svelte';
  import { count } from '../words/numbers';
  import type { SheetState } from './sheet.svelte';

  let { sheet, onclose }: { sheet: SheetState; onclose: () => void } = $props();

  let text = $state('');
  let file = $state('');
  let problems = $state.raw<string[]>([]);
  let busy = $state(false);

  async function opened(files: readonly File[]): Promise<void> {
    const [first] = files;
    if (!first) return;
    problems = [];
    try {
      const data = await first.arrayBuffer();
      const start = new Uint8Array(data.slice(0, 2));
      const wide = (start[0] === 0xff && start[1] === 0xfe) || (start[0] === 0xfe && start[1] === 0xff);
      text = new TextDecoder(wide ? (start[0] === 0xff ? 'utf-16le' : 'utf-16be') : 'utf-8', { fatal: true }).decode(data);
      file = first.name;
    } catch {
      problems = [`${first.name}: expected UTF-8 text, found other bytes. Save the table as CSV in UTF-8.`];
    }
  }

  async function take(): Promise<void> {
    if (busy || !text.trim()) return;
    busy = true;
    problems = [];
    try {
      const changed = await sheet.takeTable(text);
      say(changed ? `Took words of ${count(changed, 'photo')}` : 'Nothing is different from what is there.');
      onclose();
    } catch (error) {
      problems = error instanceof Problem && error.fields.length ? error.fields.map((each) => each.found) : [String((error as Error).message)];
    } finally {
      busy = false;
    }
  }
</script>

<Modal open modalHeading="Paste or open a list" primaryButtonText={busy ? 'Taking…' : 'Take these words'} primaryButtonDisabled={busy || !text.trim()} secondaryButtonText="Cancel" on:click:button--secondary={onclose} on:close={onclose} on:submit={() => void take()} selectorPrimaryFocus="textarea" hasForm>
  <p>The first line names the columns: <b>photo</b> (its name, or its path), then any of <b>title, alt, description, keywords, creator, credit, rights, usage, contact, place, people</b>. Cells are separated by tabs, commas or semicolons.</p>
  <TextArea labelText={file ? `From ${file}` : 'The list'} rows={9} bind:value={text} placeholder={'photo\ttitle\talt\nclock.jpg\tThe long-case clock\tA tall clock beside a door'} />
  <FileUploaderButton labelText="Open a CSV file" kind="tertiary" size="small" accept={['.csv', '.tsv', '.txt', 'text/csv']} disableLabelChanges on:change={(event) => void opened(event.detail)} />
  {#if problems.length}
    <div class="bad" role="alert">
      <p class="strong">Nothing was taken.</p>
      {#each problems.slice(0, 12) as problem (problem)}<p>{problem}</p>{/each}
      {#if problems.length > 12}<p>And {problems.length - 12} more.</p>{/if}
    </div>
  {/if}
</Modal>

<style>
  p { margin-bottom: 10px; font-size: 13px; }
  .bad { color: var(--bad); margin-top: 12px; max-height: 180px; overflow: auto; }
  .bad p { margin-bottom: 3px; }
</style>
