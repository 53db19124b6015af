<script lang="ts">
  import { FileUploaderDropContainer, Modal, RadioButton, RadioButtonGroup } from 'carbon-components-svelte';
  import { Problem, sent, type Schemas } from '../api/client';
  import { say } from '../shell/notices.svelte';
  import { studio } from '../shell/studio.svelte';
  import { count } from '../words/numbers';

  let { onclose }: { onclose: () => void } = $props();

  let file = $state.raw<File>();
  let seen = $state.raw<Schemas['LookedIntoOut']>();
  let choices = $state.raw<Record<string, string>>({});
  let problems = $state.raw<string[]>([]);
  let busy = $state(false);

  const fresh = $derived(seen?.recipes.filter((each) => each.state === 'new') ?? []);
  const different = $derived(seen?.recipes.filter((each) => each.state === 'differs') ?? []);
  const same = $derived(seen?.recipes.filter((each) => each.state === 'same') ?? []);
  const taken = $derived(fresh.length + different.filter((each) => (choices[each.title] ?? 'mine') !== 'mine').length);

  async function opened(files: readonly File[]): Promise<void> {
    [file] = files;
    seen = undefined;
    choices = {};
    const chosen = file;
    if (!chosen) return;
    await trying(async () => {
      const found = await sent<Schemas['LookedIntoOut']>('/api/shelves/look-into', chosen);
      if (file === chosen) seen = found; // and not another that was chosen meanwhile
    });
  }

  async function take(): Promise<void> {
    const chosen = file;
    if (busy || !taken || !chosen) return;
    await trying(async () => {
      const done = await sent<{ taken: string[] }>('/api/shelves/take-in', chosen, { choices: JSON.stringify(choices) });
      await studio.loadRecipes();
      say(`Took in ${count(done.taken.length, 'recipe')}`);
      onclose();
    });
  }

  async function trying(work: () => Promise<void>): Promise<void> {
    busy = true;
    problems = [];
    try {
      await work();
    } catch (error) {
      const fields = error instanceof Problem ? error.fields : [];
      problems = fields.length ? fields.map((each) => `${each.field}: expected ${each.expected}, found ${each.found}. ${each.remedy}`) : [(error as Error).message];
    } finally {
      busy = false;
    }
  }
</script>

<Modal open modalHeading="Take in recipes" primaryButtonText={busy ? 'One moment…' : taken ? `Take in ${count(taken, 'recipe')}` : 'Take in'} primaryButtonDisabled={busy || !taken} secondaryButtonText="Cancel" on:click:button--secondary={onclose} on:close={onclose} on:submit={() => void take()}>
  <FileUploaderDropContainer labelText={file ? file.name : 'Drop a recipe file here, or choose one'} accept={['.json', '.zip']} on:change={(event) => void opened(event.detail)} />
  {#if problems.length}
    <div class="bad" role="alert">
      <p class="strong">Nothing was taken in.</p>
      {#each problems.slice(0, 10) as problem (problem)}<p>{problem}</p>{/each}
    </div>
  {/if}
  {#if seen}
    {#each different as recipe (recipe.title)}
      <section>
        <p><b>{recipe.title}</b> is here already, and differs: {recipe.changed.join('; ')}.</p>
        <RadioButtonGroup legendText="Which of the two" hideLegend selected={choices[recipe.title] ?? 'mine'} on:change={(event) => (choices = { ...choices, [recipe.title]: String(event.detail) })}>
          <RadioButton value="mine" labelText="keep mine" />
          <RadioButton value="theirs" labelText="take theirs as a new version" />
          <RadioButton value="both" labelText="have both" />
        </RadioButtonGroup>
      </section>
    {/each}
    {#each fresh as recipe (recipe.title)}<section><p><b>{recipe.title}</b> is new. {recipe.sentence}</p></section>{/each}
    {#if same.length}<p class="dim">{same.map((each) => each.title).join(', ')}: here already, and the same.</p>{/if}
    {#if seen.profiles.length}<p class="dim">With {count(seen.profiles.length, 'color profile')}: {seen.profiles.join(', ')}.</p>{/if}
  {/if}
</Modal>

<style>
  section { margin-top: 12px; display: grid; gap: 6px; }
  p { font-size: 13px; }
  .dim { margin-top: 12px; }
  .bad { color: var(--bad); margin-top: 12px; }
</style>
