<script lang="ts">
  import { Checkbox, Modal, TextArea, TextInput } from 'carbon-components-svelte';
  import { api, fieldsOf, taken, type Schemas } from '../api/client';
  import Choice from '../recipes/Choice.svelte';
  import { trying } from '../shell/notices.svelte';
  import { studio } from '../shell/studio.svelte';
  import Pick from '../ui/Pick.svelte';

  type Inlet = Schemas['InletOut'];
  type Root = Schemas['RootOut'];

  let { inlet, roots, onclose, onkept }: { inlet: Inlet | undefined; roots: Root[]; onclose: () => void; onkept: () => void } = $props();

  // The form belongs to one inlet: it is made anew for another.
  // svelte-ignore state_referenced_locally
  let name = $state(inlet?.name ?? '');
  // svelte-ignore state_referenced_locally
  let root = $state(String(inlet?.root ?? roots.find((each) => each.id)?.id ?? ''));
  // svelte-ignore state_referenced_locally
  let path = $state(inlet?.path ?? '');
  // svelte-ignore state_referenced_locally
  let choose = $state(inlet?.choose ?? 'fixed');
  // svelte-ignore state_referenced_locally
  let recipes = $state.raw<readonly number[]>(inlet?.recipes ?? []);
  // svelte-ignore state_referenced_locally
  let settle = $state(String(inlet?.settle ?? 3));
  // svelte-ignore state_referenced_locally
  let ignore = $state(inlet?.ignore ?? '.*\n*.tmp\n*.part\n*.crdownload');
  // svelte-ignore state_referenced_locally
  let after = $state(inlet?.after ?? 'stay');
  let problems = $state<Record<string, string>>({});
  let busy = $state(false);

  const known = $derived(studio.recipes.filter((each) => !each.archived));
  const wrong = $derived(/^\d{1,4}$/.test(settle) && Number(settle) <= 3600 ? undefined : 'Expected whole seconds, 0 to 3600.');

  function pick(recipe: number, on: boolean): void {
    if (on !== recipes.includes(recipe)) recipes = on ? [...recipes, recipe] : recipes.filter((each) => each !== recipe);
  }

  function keep(): void {
    if (busy || wrong) return;
    busy = true;
    problems = {};
    const body = { name, root: Number(root), path, choose: choose as 'fixed' | 'folder' | 'ask', recipes: [...recipes], settle: Number(settle), ignore, after: after as 'stay' | 'done' | 'remove', version: inlet?.version ?? null };
    void trying(async () => {
      try {
        if (inlet) await taken(api.PUT('/api/inlets/{number}', { params: { path: { number: inlet.id } }, body }));
        else await taken(api.POST('/api/inlets', { body }));
      } catch (error) {
        problems = fieldsOf(error);
        return;
      }
      onkept();
    }).finally(() => (busy = false));
  }
</script>

<Modal open size="sm" modalHeading={inlet ? `Inlet ${inlet.name}` : 'New inlet'} primaryButtonText="Save the inlet" primaryButtonDisabled={busy || wrong !== undefined || !root} secondaryButtonText="Cancel" selectorPrimaryFocus="input" on:close={onclose} on:click:button--secondary={onclose} on:submit={keep}>
  <div class="form">
    <TextInput labelText="Name" value={name} maxlength={80} invalid={'name' in problems} invalidText={problems['name'] ?? ''} on:input={(event) => (name = String(event.detail ?? ''))} />
    <div class="row"><Pick label="Root" labeled value={root} options={roots.map((each): [string, string] => [String(each.id), each.name])} onchange={(value) => (root = value)} />
    <TextInput labelText="Folder in it" value={path} placeholder="incoming" invalid={'path' in problems} invalidText={problems['path'] ?? ''} on:input={(event) => (path = String(event.detail ?? ''))} /></div>
    <Choice label="Recipes" value={choose} options={[['fixed', 'these'], ['folder', 'by subfolder'], ['ask', 'ask me']]} onchange={(value) => (choose = value)} />
    {#if choose === 'fixed'}
      <div class="recipes" role="group" aria-label="Recipes">{#each known as recipe (recipe.id)}<Checkbox labelText={recipe.title} checked={recipes.includes(recipe.id)} on:check={(event) => pick(recipe.id, event.detail)} />{/each}</div>
      {#if problems['recipes']}<p class="bad">{problems['recipes']}</p>{/if}
    {:else}<p class="dim">{choose === 'folder' ? 'The first subfolder names a recipe, or a shelf whose recipes all make it.' : 'What arrives waits on this page until you choose recipes for it.'}</p>{/if}
    <Choice label="Afterwards" value={after} options={[['stay', 'files stay'], ['done', 'go into “done”'], ['remove', 'are removed']]} onchange={(value) => (after = value)} />
    {#if after === 'remove'}<p class="dim">Only for copies: a file goes once every receipt of it is good.</p>{/if}
    {#if problems['after']}<p class="bad">{problems['after']}</p>{/if}
    <div class="row"><TextInput labelText="Seconds that it stays the same" value={settle} invalid={wrong !== undefined} invalidText={wrong ?? ''} on:input={(event) => (settle = String(event.detail ?? ''))} />
    <TextArea labelText="Ignored names, a pattern a line" rows={2} value={ignore} on:input={(event) => (ignore = (event.target as HTMLTextAreaElement).value)} /></div>
  </div>
</Modal>

<style>
  .form { display: grid; gap: 12px; }
  .row { display: grid; grid-template-columns: 1fr 1fr; gap: 12px; }
  .recipes { display: grid; grid-template-columns: 1fr 1fr; gap: 2px 12px; }
  .recipes :global(.bx--form-item) { margin: 0; }
  .bad { color: var(--bad); }
</style>
