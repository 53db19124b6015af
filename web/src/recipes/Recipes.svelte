<script lang="ts">
  import { api, taken, type Recipe, type Tray } from '../api/client';
  import SizeDrawing from '../ui/SizeDrawing.svelte';
  import { trying } from '../shell/notices.svelte';
  import { router } from '../shell/router.svelte';
  import { studio } from '../shell/studio.svelte';
  import { undo, type Call } from '../shell/undo.svelte';
  import type { Content } from './draft';
  import { shelved } from './shelves';
  import Starters from './Starters.svelte';
  import TakeIn from './TakeIn.svelte';
  import Things from './Things.svelte';

  let { tray }: { tray: Tray | undefined } = $props();

  const shown = $derived(studio.recipes.filter((recipe) => !recipe.archived));
  const shelves = $derived(shelved(shown));
  let starting = $state(false);
  let taking = $state(false);
  let busy = $state(false);
  const away = $derived(studio.recipes.filter((recipe) => recipe.archived));

  const archiving = (recipe: Recipe, archived: boolean): Call => ({ method: 'POST', path: `/api/recipes/${recipe.id}/archived`, body: { archived } });
  const ordering = (recipes: number[]): Call => ({ method: 'PUT', path: '/api/recipes/order', body: { recipes } });

  function did(recipe: Recipe, what: string, undoing: Call, redoing: Call): void {
    undo.push({ what, at: '/recipes', place: recipe.title, undo: [undoing], redo: [redoing] });
  }

  /** A new recipe goes onto the board that one comes from, so that it is seen at once. */
  function create(content: Content): void {
    if (busy) return; // a second press makes no second recipe
    busy = true;
    void trying(() => made(content)).finally(() => (busy = false));
  }

  async function made(content: Content): Promise<void> {
    const recipe = await taken(api.POST('/api/recipes', { body: { content } }));
    if (tray) {
      const path = { number: tray.id };
      const board = await taken(api.GET('/api/trays/{number}/board', { params: { path } }));
      const recipes = [...board.recipes.map((each) => each.id), recipe.id];
      await taken(api.PUT('/api/trays/{number}/recipes', { params: { path }, body: { recipes } }));
    }
    await studio.loadRecipes();
    did(recipe, `made ${recipe.title}`, archiving(recipe, true), archiving(recipe, false));
    router.go(`/recipes/${recipe.id}`);
  }

  /** One place up or down among its shelf's recipes. */
  function move(recipe: Recipe, by: -1 | 1): void {
    const [, fellows] = shelves.find(([shelf]) => shelf === recipe.shelf) ?? ['', []];
    const other = fellows[fellows.indexOf(recipe) + by];
    if (!other) return;
    const before = studio.recipes.map((each) => each.id);
    const order = before.map((id) => (id === recipe.id ? other.id : id === other.id ? recipe.id : id));
    void trying(async () => {
      await setOrder(order);
      did(recipe, `moved ${recipe.title}`, ordering(before), ordering(order));
    });
  }

  async function setOrder(recipes: number[]): Promise<void> {
    studio.recipes = await taken(api.PUT('/api/recipes/order', { body: { recipes } }));
  }

  async function setArchived(recipe: Recipe, archived: boolean): Promise<void> {
    const path = { number: recipe.id };
    await taken(api.POST('/api/recipes/{number}/archived', { params: { path }, body: { archived } }));
    await studio.loadRecipes();
  }

  function archive(recipe: Recipe, archived: boolean): void {
    void trying(async () => {
      await setArchived(recipe, archived);
      did(recipe, `${archived ? 'archived' : 'restored'} ${recipe.title}`, archiving(recipe, !archived), archiving(recipe, archived));
    });
  }
</script>

<div class="page">
  <div class="head">
    <h1>Recipes</h1>
    <span class="give">
      <a class="plain" href="/marks">Marks</a>
      <button class="plain" onclick={() => (taking = true)}>Take in recipes…</button>
      {#if shown.length}<a class="plain" href="/api/shelves/given" download>Give away all</a>{/if}
    </span>
    <button class="press small" aria-expanded={starting} onclick={() => (starting = !starting)}>New recipe</button>
  </div>
  {#if starting || shown.length === 0}<Starters {busy} oncreate={create} />{/if}
  {#each shelves as [shelf, recipes] (shelf)}
  <h2>{shelf || 'No shelf'} <a class="plain" href="/api/shelves/given?shelf={encodeURIComponent(shelf)}" download aria-label="Give away: {shelf || 'No shelf'}">Give away</a></h2>
  <div class="cards">
    {#each recipes as recipe, place (recipe.id)}
      <article data-drop-by={recipe.id}>
        <a class="open" href="/recipes/{recipe.id}">
          <SizeDrawing drawing={recipe.drawing} />
          <span>
            <span class="title">{recipe.title}</span>
            <span class="dim">{recipe.size_line} · {recipe.file_line}</span>
            {#if recipe.note}<span class="note">{recipe.note}</span>{/if}
            <span class="sentence">{recipe.sentence.map((phrase) => phrase.text).join('')}</span>
          </span>
        </a>
        <div class="do">
          <span class="dim">version {recipe.version}</span>
          {#if place > 0}<button class="plain" aria-label="Move {recipe.title} up" onclick={() => move(recipe, -1)}>↑</button>{/if}
          {#if place < recipes.length - 1}<button class="plain" aria-label="Move {recipe.title} down" onclick={() => move(recipe, 1)}>↓</button>{/if}
          <a class="plain" href="/api/recipes/{recipe.id}/file" download aria-label="Save as a file: {recipe.title}">Save as a file</a>
          <button class="plain" disabled={busy} aria-label="Duplicate {recipe.title}" onclick={() => create({ ...recipe.content, title: `${recipe.title} copy`.slice(0, 80) })}>Duplicate</button>
          <button class="plain" aria-label="Archive {recipe.title}" onclick={() => archive(recipe, true)}>Archive</button>
        </div>
      </article>
    {/each}
  </div>
  {:else}
    <p>No recipes yet. A recipe says once what an outlet wants. Make one and see it on the board.</p>
  {/each}
  <Things />
  {#if away.length}
    <h2>Archived recipes</h2>
    {#each away as recipe (recipe.id)}
      <p class="away">{recipe.title} <button class="plain" aria-label="Restore {recipe.title}" onclick={() => archive(recipe, false)}>Restore</button></p>
    {/each}
  {/if}
</div>

{#if taking}<TakeIn onclose={() => (taking = false)} />{/if}

<style>
  .give { margin-left: auto; display: flex; gap: 16px; }
  .give a, h2 a { text-decoration: none; }
  h2 a { margin-left: 10px; font-size: 12px; }
  .page { padding: 16px; overflow: auto; }
  .head { display: flex; align-items: center; gap: 16px; margin-bottom: 12px; }
  h1 { font-size: 20px; font-weight: 600; }
  h2 { font-weight: 600; margin: 18px 0 6px; }
  .note { margin-top: 4px; line-height: 17px; }
  .cards { display: grid; grid-template-columns: repeat(auto-fill, minmax(380px, 1fr)); gap: var(--gap); }
  article { background: var(--bench); border-radius: var(--radius); display: flex; flex-direction: column; }
  article:hover { background: var(--sheet); }
  .open { display: flex; gap: 12px; padding: 14px 14px 8px; text-decoration: none; flex: 1; }
  .open > span { display: grid; gap: 2px; align-content: start; }
  .title { font-weight: 600; font-size: 14px; }
  .sentence { margin-top: 6px; font-size: 13px; line-height: 19px; overflow-wrap: anywhere; }
  .do a { text-decoration: none; }
  .do { display: flex; gap: 14px; padding: 4px 14px 12px 58px; }
  .do .dim { margin-right: auto; }
  .away { display: flex; gap: 12px; padding: 3px 0; }
</style>
