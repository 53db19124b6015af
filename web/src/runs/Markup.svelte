<script lang="ts">
  import { Checkbox, Modal, TextInput } from 'carbon-components-svelte';
  import type { RunDetail } from '../api/client';
  import { say } from '../shell/notices.svelte';

  let { run, onclose }: { run: RunDetail; onclose: () => void } = $props();

  const made = $derived(run.recipes.filter((recipe) => recipe.made > 0));
  // svelte-ignore state_referenced_locally
  let chosen = $state.raw<number[]>(run.recipes.filter((recipe) => recipe.made > 0).map((recipe) => recipe.recipe));
  let sizes = $state('(max-width: 700px) 100vw, 50vw');

  const query = $derived(new URLSearchParams([['sizes', sizes], ...chosen.map((recipe): [string, string] => ['recipes', String(recipe)])]));
  const address = (kind: string) => `/api/runs/${run.id}/markup?kind=${kind}&${query.toString()}`;

  function choose(recipe: number, on: boolean): void {
    chosen = made.map((each) => each.recipe).filter((each) => (each === recipe ? on : chosen.includes(each)));
  }

  async function copy(): Promise<void> {
    try {
      const answer = await fetch(address('html'));
      if (!answer.ok) throw new Error();
      await navigator.clipboard.writeText(await answer.text());
      say('Copied the markup');
    } catch {
      say('The markup could not be copied. Download it instead.', { bad: true });
    }
  }
</script>

<Modal open size="sm" modalHeading="Markup of these pictures" primaryButtonText="Copy" primaryButtonDisabled={!chosen.length} secondaryButtonText="Close" on:click:button--secondary={onclose} on:close={onclose} on:submit={() => void copy()}>
  <p>Picture elements with the lightest formats first, all widths, and the photos’ alt texts. Choose the recipes that make one picture for one place in a page.</p>
  <fieldset>
    <legend class="strong">Recipes of the set</legend>
    {#each made as recipe (recipe.recipe)}<Checkbox labelText={recipe.title} checked={chosen.includes(recipe.recipe)} on:check={(event) => choose(recipe.recipe, event.detail)} />{/each}
  </fieldset>
  <TextInput labelText="sizes: how wide the picture is in the page" bind:value={sizes} maxlength={500} />
  {#if chosen.length}
    <p class="links">
      <a class="plain" href={address('html')} download>Download HTML</a>
      <a class="plain" href={address('json')} download>Download JSON</a>
    </p>
  {/if}
</Modal>

<style>
  p { font-size: 13px; margin-bottom: 12px; }
  fieldset { border: 0; padding: 0; margin: 0 0 14px; }
  .links { display: flex; gap: 18px; margin: 12px 0 0; }
</style>
