<script lang="ts">
  import { Checkbox, TextInput } from 'carbon-components-svelte';
  import { count } from '../words/numbers';
  import type { ToneState } from './tone.svelte';

  /** The photo's own tone, and others that some recipes follow instead. */
  let { tone }: { tone: ToneState } = $props();

  const titles = $derived(new Map(tone.found?.recipes.map((recipe) => [recipe.id, recipe.title])));
  const followers = (recipes: number[]) => recipes.map((each) => titles.get(each)).filter(Boolean).join(', ') || (recipes.length ? count(recipes.length, 'other recipe') : 'no recipe yet');
  /** Empty and doubled titles are not kept: what is typed stands here meanwhile. */
  let typed = $state<string>();
  const wrong = $derived(typed !== undefined && (!typed.trim() || tone.looks.some((look, at) => at !== tone.at && look.title.toLowerCase() === typed?.trim().toLowerCase())));

  function rename(text: string): void {
    typed = text;
    if (!wrong && text.trim() !== tone.look.title) tone.change({ title: text.trim() }, 'title');
  }

  function see(at: number): void {
    typed = undefined;
    tone.at = at;
  }
</script>

<section aria-label="Looks">
  <h2>Looks</h2>
  <ul>
    {#each tone.looks as look, at (at)}
      <li>
        <button class="look" class:on={at === tone.at} aria-current={at === tone.at ? 'true' : undefined} onclick={() => see(at)}>
          <span class="title" title={look.title}>{at ? look.title : 'The photo’s own'}</span>
          <span class="dim" title={at ? followers(look.recipes) : undefined}>{at ? followers(look.recipes) : tone.looks.length > 1 ? 'all other recipes' : 'all recipes'}</span>
        </button>
      </li>
    {/each}
  </ul>
  {#if tone.at}
    <div class="edit">
      <TextInput size="sm" labelText="Title of the look" maxlength={60} value={typed ?? tone.look.title} invalid={wrong} invalidText="A title that no other look has" on:input={(event) => rename(String(event.detail ?? ''))} on:blur={() => (typed = undefined)} />
      {#each tone.found?.recipes ?? [] as recipe (recipe.id)}
        <Checkbox labelText={recipe.title} checked={tone.look.recipes.includes(recipe.id)} on:check={(event) => { if (event.detail !== tone.look.recipes.includes(recipe.id)) tone.tie(recipe.id, event.detail); }} />
      {/each}
      <button class="plain" onclick={() => tone.remove()}>Remove this look</button>
    </div>
  {/if}
  {#if tone.looks.length <= 16}<button class="plain add" onclick={() => tone.add()}>Another look for some recipes</button>{/if}
</section>

<style>
  section { display: flex; flex-direction: column; gap: 6px; min-height: 0; overflow-y: auto; }
  h2 { font-size: 13px; font-weight: 600; }
  ul { list-style: none; display: grid; gap: 2px; }
  .look { display: flex; width: 100%; gap: 8px; justify-content: space-between; align-items: baseline; padding: 4px 8px; border-radius: var(--radius); border: 1px solid transparent; background: none; text-align: left; font-size: 13px; }
  .look:hover { border-color: var(--edge); }
  .look.on { background: var(--sheet); border-color: var(--edge); box-shadow: inset 3px 0 0 var(--accent); }
  .look span { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
  .look .title { flex: none; max-width: 60%; }
  .look .dim { min-width: 0; font-size: 12px; }
  .edit { display: grid; gap: 4px; padding: 6px 8px 8px; background: var(--sheet); border-radius: var(--radius); }
  .edit :global(.bx--label) { font-size: 12px; margin-bottom: 2px; }
  .edit :global(.bx--checkbox-wrapper) { margin: 0; }
  .edit .plain, .add { justify-self: start; align-self: start; font-size: 12px; }
</style>
