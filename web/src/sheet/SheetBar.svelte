<script lang="ts">
  import { Checkbox, Search } from 'carbon-components-svelte';
  import type { Recipe } from '../api/client';
  import { leaveField } from '../shell/escape';
  import { trying } from '../shell/notices.svelte';
  import Panel from '../ui/Panel.svelte';
  import Pick from '../ui/Pick.svelte';
  import { COLUMNS, type Word } from './columns';
  import Replace from './Replace.svelte';
  import type { SheetState } from './sheet.svelte';
  import TakeTable from './TakeTable.svelte';

  /** Which rows and columns of the sheet are shown, and what is done with all of them. */
  let { sheet, recipes }: { sheet: SheetState; recipes: Recipe[] } = $props();

  let taking = $state(false);
  let replacing = $state(false);
  const MISSING: readonly [Word, string][] = [['title', 'No title'], ['alt', 'No alt text']];

  function show(missing: string): void {
    sheet.missing = missing;
    void trying(() => sheet.load());
  }

  let timer: ReturnType<typeof setTimeout> | undefined;
  function search(name: string): void {
    clearTimeout(timer);
    timer = setTimeout(() => {
      sheet.name = name;
      void trying(() => sheet.load());
    }, 200);
  }

  function choose(word: Word, on: boolean): void {
    const words = new Set(sheet.words);
    if (on) words.add(word);
    else words.delete(word);
    if (words.size) sheet.words = COLUMNS.map((column) => column.word).filter((each) => words.has(each));
    sheet.stand({ row: sheet.focus.row, column: 0 });
  }

  function nameBy(recipe: string): void {
    sheet.recipe = recipe ? Number(recipe) : undefined;
    void trying(() => sheet.load());
  }
</script>

<div class="bar picks">
  <div class="filters" role="group" aria-label="Show">
    <button class="pill" class:chosen={sheet.missing === ''} aria-pressed={sheet.missing === ''} onclick={() => show('')}>All {(sheet.order?.total ?? 0).toLocaleString('en-US')}</button>
    {#each MISSING as [word, name] (word)}
      {@const number = sheet.order?.missing[word] ?? 0}
      {#if number || sheet.missing === word}
        <button class="pill eye" class:chosen={sheet.missing === word} aria-pressed={sheet.missing === word} onclick={() => show(word)}>{name} {number.toLocaleString('en-US')}</button>
      {/if}
    {/each}
  </div>
  <span class="dim legend"><i class="ring" aria-hidden="true"></i>read from the file</span>
  <div class="search" role="presentation" onkeydowncapture={leaveField}><Search size="sm" placeholder="Find a name" labelText="Find a name" value={sheet.name} on:input={(event) => search((event.target as HTMLInputElement).value)} on:clear={() => search('')} /></div>
  <Pick label="Names of" value={sheet.recipe && recipes.some((each) => each.id === sheet.recipe) ? String(sheet.recipe) : ''} options={[['', 'no file names'], ...recipes.map((recipe): [string, string] => [String(recipe.id), `as ${recipe.title} names it`])]} onchange={nameBy} />
  <Panel label="Columns" kind="dim" wide={200}>
    {#snippet children()}
      {#each COLUMNS as column (column.word)}
        <div class="row"><Checkbox labelText={column.name} checked={sheet.words.includes(column.word)} on:check={(event) => choose(column.word, event.detail)} /></div>
      {/each}
    {/snippet}
  </Panel>
  <button class="plain" onclick={() => (replacing = true)}>Find and replace</button>
  <button class="plain" onclick={() => (taking = true)}>Paste or open a list…</button>
  <a class="plain" href="/api/trays/{sheet.tray}/words.csv" download>Save as CSV</a>
</div>
{#if taking}<TakeTable {sheet} onclose={() => (taking = false)} />{/if}
{#if replacing}<Replace {sheet} onclose={() => (replacing = false)} />{/if}

<style>
  .bar { display: flex; align-items: center; gap: 12px; height: 38px; padding: 0 16px; flex: none; white-space: nowrap; }
  @media (max-width: 900px) { .bar { height: auto; flex-wrap: wrap; padding: 4px 16px; } }
  .filters { display: flex; gap: 2px; align-items: center; margin-right: auto; min-width: 0; overflow: hidden; }
  .pill { padding: 3px 9px; color: var(--dim); }
  .pill.chosen { background: var(--sheet); color: var(--ink); font-weight: 600; }
  .pill.eye { color: var(--eye); }
  .pill.eye.chosen { background: var(--eye-soft); }
  .search { width: 132px; }
  .row { padding: 3px 8px; }
  .ring { display: inline-block; width: 6px; height: 6px; border: 1.2px solid var(--dim); border-radius: 50%; margin: 0 6px 1px 0; }
  a.plain { text-decoration: none; }
</style>
