<script lang="ts">
  import { Checkbox, Modal, TextInput } from 'carbon-components-svelte';
  import { answered, api, taken, type RunDetail, type Schemas } from '../api/client';
  import { say, trying } from '../shell/notices.svelte';
  import Pick from '../ui/Pick.svelte';

  let { run, onclose }: { run: RunDetail; onclose: () => void } = $props();

  type PictureSet = Schemas['SetOut'];
  const SIZES = '(max-width: 700px) 100vw, 50vw';
  const SCREENS = [['', 'all screens'], ['(max-width: 600px)', 'up to 600 px'], ['(max-width: 900px)', 'up to 900 px'], ['(min-width: 1400px)', 'from 1400 px']] as const;

  const made = $derived(run.recipes.filter((recipe) => recipe.made > 0));
  let sets = $state.raw<PictureSet[]>([]);
  /** The kept set that was taken last; nothing once it was changed. */
  let kept = $state<number>();
  // svelte-ignore state_referenced_locally
  let media = $state.raw<ReadonlyMap<number, string>>(new Map(run.recipes.filter((recipe) => recipe.made > 0).map((recipe) => [recipe.recipe, ''])));
  let sizes = $state(SIZES);
  let name = $state('');

  const members = $derived(made.filter((recipe) => media.has(recipe.recipe)).map((recipe) => ({ recipe: recipe.recipe, media: media.get(recipe.recipe) ?? '' })));
  const problem = $derived(members.length && members.every((member) => member.media) ? 'One of them has to be for all screens.' : '');
  /** Kept sets that this run has a file for. */
  const fitting = $derived(sets.filter((each) => each.members.some((member) => made.some((recipe) => recipe.recipe === member.recipe))));
  const query = $derived.by(() => {
    if (kept !== undefined) return `set=${kept}`;
    return new URLSearchParams([['sizes', sizes], ...members.map((member): [string, string] => ['recipes', String(member.recipe)])]).toString();
  });
  const address = (kind: string) => `/api/runs/${run.id}/markup?kind=${kind}&${query}`;
  /** Conditions go out with a kept set alone. */
  const needsName = $derived(kept === undefined && members.some((member) => member.media));

  $effect(() => {
    void trying(async () => {
      sets = await taken(api.GET('/api/sets'));
    });
  });

  function take(number: string): void {
    const found = sets.find((each) => String(each.id) === number);
    if (!found) return;
    media = new Map(found.members.map((member) => [member.recipe, member.media ?? '']));
    [sizes, name, kept] = [found.sizes, found.name, found.id];
  }

  function choose(recipe: number, to: string | undefined): void {
    const next = new Map(media);
    if (to === undefined) next.delete(recipe);
    else next.set(recipe, to);
    media = next;
    kept = undefined;
  }

  async function keep(): Promise<void> {
    await trying(async () => {
      const set = await taken(api.PUT('/api/sets', { body: { name: name.trim(), sizes, members } }));
      sets = [...sets.filter((each) => each.id !== set.id), set].sort((one, other) => one.name.localeCompare(other.name));
      kept = set.id;
      say(`Kept the set ${set.name}`);
    });
  }

  async function drop(): Promise<void> {
    const number = kept;
    if (number === undefined) return;
    await trying(async () => {
      await taken(api.DELETE('/api/sets/{number}', { params: { path: { number } } }));
      sets = sets.filter((each) => each.id !== number);
      kept = undefined;
      say(`Deleted the set ${name}`);
    });
  }

  async function copy(): Promise<void> {
    try {
      const answer = await answered(address('html'), { method: 'GET' });
      await navigator.clipboard.writeText(await answer.text());
      say('Copied the markup');
    } catch {
      say('The markup could not be copied. Download it instead.', { bad: true });
    }
  }
</script>

<Modal open size="sm" modalHeading="Markup of these pictures" primaryButtonText="Copy" primaryButtonDisabled={!members.length || needsName || problem !== ''} secondaryButtonText="Close" on:click:button--secondary={onclose} on:close={onclose} on:submit={() => void copy()}>
  <p>Choose the recipes that make one picture for one place in a page: a set. The lightest formats come first.</p>
  {#if fitting.length}
    <div class="kept"><Pick label="A set that you kept" labeled value={String(kept ?? '')} options={[['', kept === undefined ? 'none' : 'another…'], ...fitting.map((each): [string, string] => [String(each.id), each.name])]} onchange={take} /></div>
  {/if}
  <fieldset>
    <legend class="strong">Recipes of the set</legend>
    {#each made as recipe (recipe.recipe)}
      <div class="member">
        <Checkbox labelText={recipe.title} checked={media.has(recipe.recipe)} on:check={(event) => event.detail !== media.has(recipe.recipe) && choose(recipe.recipe, event.detail ? '' : undefined)} />
        {#if media.has(recipe.recipe)}<Pick label="Screens for {recipe.title}" value={media.get(recipe.recipe) ?? ''} options={SCREENS} onchange={(to) => choose(recipe.recipe, to)} />{/if}
      </div>
    {/each}
  </fieldset>
  {#if problem}<p class="bad" role="alert">{problem}</p>{/if}
  <TextInput labelText="sizes: how wide the picture is in the page" value={sizes} maxlength={500} on:input={(event) => ((sizes = String(event.detail ?? '')), (kept = undefined))} />
  <div class="keep">
    <TextInput labelText="Name of the set" value={name} maxlength={60} placeholder="for example Lead picture" on:input={(event) => (name = String(event.detail ?? ''))} />
    <button class="quiet small" disabled={!name.trim() || !members.length || problem !== ''} onclick={() => void keep()}>Keep the set</button>
    {#if kept !== undefined}<button class="plain" onclick={() => void drop()}>Delete it</button>{/if}
  </div>
  {#if needsName}<p class="dim">Keep the set first: its pictures for some screens go out with it.</p>
  {:else if members.length}
    <p class="links">
      <a class="plain" href={address('html')} download>Download HTML</a>
      <a class="plain" href={address('json')} download>Download JSON</a>
    </p>
  {/if}
</Modal>

<style>
  p { font-size: 13px; margin-bottom: 12px; }
  fieldset { border: 0; padding: 0; margin: 0 0 14px; display: grid; gap: 4px; }
  .kept { margin-bottom: 12px; }
  .member { display: grid; grid-template-columns: 1fr 170px; gap: 16px; align-items: center; min-height: 30px; }
  .member :global(.bx--checkbox-wrapper) { margin: 0; }
  .keep { display: flex; gap: 14px; align-items: end; margin-top: 12px; }
  .links { display: flex; gap: 18px; margin: 12px 0 0; }
  .keep + p { margin-top: 12px; }
  .bad { color: var(--bad); }
</style>
