<script lang="ts">
  import { Checkbox, Modal, TextInput } from 'carbon-components-svelte';
  import { say } from '../shell/notices.svelte';
  import { count } from '../words/numbers';
  import { COLUMNS, type Word } from './columns';
  import type { SheetState } from './sheet.svelte';

  let { sheet, onclose }: { sheet: SheetState; onclose: () => void } = $props();

  let find = $state('');
  let put = $state('');
  let regex = $state(false);
  let exact = $state(false);
  // svelte-ignore state_referenced_locally
  let words = $state.raw<Word[]>(sheet.columns.map((column) => column.word));
  let problem = $state('');
  let busy = $state(false);

  function choose(word: Word, on: boolean): void {
    words = COLUMNS.map((column) => column.word).filter((each) => (each === word ? on : words.includes(each)));
  }

  async function replace(): Promise<void> {
    if (busy || !find || !words.length) return;
    busy = true;
    problem = '';
    try {
      const changed = await sheet.replace({ find, put, regex, case: exact, words });
      say(changed ? `Replaced in ${count(changed, 'photo')}` : `“${find}” was not found.`);
      if (changed) onclose();
    } catch (error) {
      problem = (error as Error).message;
    } finally {
      busy = false;
    }
  }
</script>

<Modal open size="sm" modalHeading="Find and replace" primaryButtonText={busy ? 'Replacing…' : 'Replace in all rows shown'} primaryButtonDisabled={busy || !find || !words.length} secondaryButtonText="Cancel" on:click:button--secondary={onclose} on:close={onclose} on:submit={() => void replace()} selectorPrimaryFocus="input" hasForm>
  <div class="fields">
    <TextInput labelText="Find" bind:value={find} maxlength={200} invalid={problem !== ''} invalidText={problem} />
    <TextInput labelText="Replace with" bind:value={put} maxlength={1000} />
    <div><Checkbox labelText="Same letter case" bind:checked={exact} /><Checkbox labelText="Find by a regular expression; groups are \1, \2, …" bind:checked={regex} /></div>
  </div>
  <fieldset>
    <legend class="strong">In {count(sheet.photos.length, 'photo')}, in these words</legend>
    <div class="words">{#each sheet.columns as column (column.word)}<Checkbox labelText={column.name} checked={words.includes(column.word)} on:check={(event) => choose(column.word, event.detail)} />{/each}</div>
  </fieldset>
</Modal>

<style>
  .fields { display: grid; gap: 14px; }
  fieldset { border: 0; padding: 0; margin: 16px 0 0; }
  .words { display: grid; grid-template-columns: 1fr 1fr; gap: 4px 0; margin-top: 4px; }
</style>
