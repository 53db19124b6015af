<script lang="ts">
  import { Checkbox, TextArea, TextInput } from 'carbon-components-svelte';
  import { api, taken, type Schemas } from '../api/client';
  import { onHint, paced } from '../api/live';
  import { opening } from '../api/query.svelte';
  import { say, showing, trying } from '../shell/notices.svelte';
  import { router } from '../shell/router.svelte';
  import { studio } from '../shell/studio.svelte';
  import { changedRecipe, undo } from '../shell/undo.svelte';
  import type { Area } from '../ui/CoveredParts.svelte';
  import Failed from '../ui/Failed.svelte';
  import Pick from '../ui/Pick.svelte';
  import CheckFiles from './CheckFiles.svelte';
  import Covered from './Covered.svelte';
  import { FORMATS, INTAKE, RULES, SEEN, valueAt, WORDS, type Field } from './fields';
  import SheetField from './SheetField.svelte';
  import { SheetState } from './sheet.svelte';

  let { id }: { id: number } = $props();

  // Keyed by its address: it never changes in its life.
  // svelte-ignore state_referenced_locally
  const sheet = new SheetState(id);
  const opened = opening(() => sheet.load());
  let busy = $state(false);
  let saving = $state(false);

  $effect(() => {
    undo.local = sheet.steps;
    const reload = paced(() => sheet.load(), 300);
    const stop = onHint((hint) => void (['outlet', 'recipe', 'resync'].includes(hint.kind) && void showing(async () => reload())));
    return () => {
      stop();
      undo.local = undefined;
    };
  });

  const use = $derived(sheet.use);
  const taking = $derived((valueAt(use, 'rules.formats') as string[] | undefined) ?? []);
  const best = $derived((valueAt(use, 'rules.best') ?? valueAt(use, 'shown')) as [number, number] | null | undefined);
  const followers = $derived(sheet.outlet?.recipes.filter((each) => each.use === sheet.keptUse) ?? []);
  const others = $derived(studio.recipes.filter((each) => !each.archived && !followers.some((follower) => follower.id === each.id)));
  const gone = $derived(sheet.outlet?.recipes.filter((each) => each.gone) ?? []);
  const wrong = (field: Field) => sheet.problems[`uses.${sheet.at}.${field.at}`];

  function takes(format: string, on: boolean): void {
    if (on !== taking.includes(format)) sheet.setUse('rules.formats', FORMATS.map(([each]) => each as string).filter((each) => (each === format ? on : taking.includes(each))));
  }

  function once(work: () => Promise<void>): void {
    if (busy) return;
    busy = true;
    void trying(work).finally(() => (busy = false));
  }

  function save(): void {
    // Whatever else is under way: what is typed is not to wait for it.
    if (saving) return;
    saving = true;
    void trying(async () => {
      if (await sheet.save()) say('The sheet is saved.');
    }).finally(() => (saving = false));
  }

  function propose(): void {
    const name = sheet.keptUse;
    if (name === undefined) return;
    once(async () => {
      const recipe = await taken(api.POST('/api/outlets/{number}/recipes', { params: { path: { number: id } }, body: { use: name } }));
      await studio.loadRecipes();
      const archiving = (archived: boolean) => ({ method: 'POST' as const, path: `/api/recipes/${recipe.id}/archived`, body: { archived } });
      undo.push({ what: `made ${recipe.title}`, at: '/recipes', place: recipe.title, undo: [archiving(true)], redo: [archiving(false)] });
      router.go(`/recipes/${recipe.id}`);
    });
  }

  function aim(recipe: { id: number; title: string; version: number }, to: string | null): void {
    once(async () => {
      const path = { number: id, recipe: recipe.id };
      const before = studio.recipes.find((each) => each.id === recipe.id)?.content;
      sheet.outlet = await taken(api.PUT('/api/outlets/{number}/recipes/{recipe}', { params: { path }, body: { use: to, version: recipe.version } }));
      await studio.loadRecipes();
      const after = studio.recipes.find((each) => each.id === recipe.id);
      if (after && before && after.version !== recipe.version) changedRecipe(after, before);
      say(to === null ? `${recipe.title} is for no outlet now.` : `${recipe.title} is held against these rules.`);
    });
  }

  function add(recipe: string): void {
    const found = studio.recipes.find((each) => String(each.id) === recipe);
    if (found) aim(found, sheet.keptUse ?? null);
  }

  function pressed(event: KeyboardEvent): void {
    if (event.key.toLowerCase() !== 's' || !(event.ctrlKey || event.metaKey)) return;
    event.preventDefault();
    if (sheet.changed) save();
  }

  const rehearse = (recipe: Schemas['FollowerOut']) => `/outlets/${id}/rehearsal?recipe=${recipe.id}&use=${encodeURIComponent(recipe.use)}`;
</script>

<svelte:head><title>{sheet.outlet?.name ?? 'Outlet'} · Upper Tray</title></svelte:head>
<svelte:window onkeydown={pressed} />
<div class="page">
  {#if opened.problem}
    <Failed query={opened} instead={{ to: '/outlets', text: 'Go to the outlets' }} />
  {:else if !sheet.outlet}
    <p class="dim" aria-busy="true">One moment…</p>
  {:else}
    <h1 class="visually-hidden">Outlet {sheet.outlet.name}</h1>
    <div class="top">
      <a class="dim" href="/outlets">‹ Outlets</a>
      <div class="name"><TextInput labelText="Name of the outlet" hideLabel value={String(sheet.get('name') ?? '')} maxlength={60} invalid={sheet.problems['name'] !== undefined} invalidText={sheet.problems['name'] ?? ''} on:input={(event) => sheet.set('name', event.detail ?? '')} /></div>
      <nav class="tabs" aria-label="Uses">
        {#each sheet.uses as each, i (i)}<button class="pill" class:on={i === sheet.at} aria-pressed={i === sheet.at} onclick={() => (sheet.at = i)}>{each['use']}</button>{/each}
        <button class="plain" onclick={() => sheet.addUse()}>Add a use</button>
      </nav>
    </div>
    <div class="columns">
      <div class="form">
        <section aria-label="Rules">
          <h2>What it takes <span class="dim">as a</span>
            <span class="use"><TextInput labelText="Name of the use" hideLabel value={String(use['use'] ?? '')} maxlength={60} invalid={sheet.problems[`uses.${sheet.at}.use`] !== undefined || sheet.problems['uses'] !== undefined} invalidText={sheet.problems[`uses.${sheet.at}.use`] ?? sheet.problems['uses'] ?? ''} on:input={(event) => sheet.setUse('use', event.detail ?? '')} /></span>
            {#if sheet.uses.length > 1}<button class="plain" onclick={() => sheet.removeUse()}>Remove this use</button>{/if}
          </h2>
          <div class="formats" role="group" aria-label="Formats">
            {#each FORMATS as [format, title] (format)}<Checkbox labelText={title} checked={taking.includes(format)} on:check={(event) => takes(format, event.detail)} />{/each}
          </div>
          {#if sheet.problems[`uses.${sheet.at}.rules.formats`]}<p class="problem">{sheet.problems[`uses.${sheet.at}.rules.formats`]}</p>{/if}
          <div class="fields">{#each RULES as field (field.at)}<SheetField {field} value={valueAt(use, field.at)} problem={wrong(field)} onchange={(value) => sheet.setUse(field.at, value)} />{/each}</div>
        </section>
        <section aria-label="Intake">
          <h2>What it does to an upload</h2>
          <div class="fields">{#each INTAKE as field (field.at)}<SheetField {field} value={valueAt(use, field.at)} problem={wrong(field)} onchange={(value) => sheet.setUse(field.at, value)} />{/each}</div>
        </section>
        <section aria-label="Where it is seen">
          <h2>Where it is seen <span class="dim">and what its page covers</span></h2>
          <div class="fields">{#each SEEN as field (field.at)}<SheetField {field} value={valueAt(use, field.at)} problem={wrong(field)} onchange={(value) => sheet.setUse(field.at, value)} />{/each}</div>
          <Covered areas={(valueAt(use, 'rules.covered') as Area[] | undefined) ?? []} ratio={best ? best[0] / best[1] : 1.5} problem={Object.entries(sheet.problems).find(([at]) => at.startsWith(`uses.${sheet.at}.rules.covered`))?.[1]} onchange={(areas) => sheet.setUse('rules.covered', areas)} />
        </section>
        <section aria-label="Words">
          <h2>Words that it takes <span class="dim">0 for none; the same for all uses</span></h2>
          <div class="fields">{#each WORDS as field (field.at)}<SheetField {field} value={sheet.get(field.at)} problem={sheet.problems[field.at]} onchange={(value) => sheet.set(field.at, value)} />{/each}</div>
        </section>
        <section aria-label="Notes">
          <h2>Notes</h2>
          <div class="fields one"><TextInput labelText="Checked on" value={String(sheet.get('checked') ?? '')} placeholder="2031-10-14" invalid={sheet.problems['checked'] !== undefined} invalidText={sheet.problems['checked'] ?? ''} on:input={(event) => sheet.set('checked', event.detail ?? '')} /></div>
          <TextArea labelText="Notes" hideLabel rows={3} maxlength={2000} value={String(sheet.get('notes') ?? '')} on:input={(event) => sheet.set('notes', (event.target as HTMLTextAreaElement).value)} />
        </section>
      </div>
      <div class="beside">
        <section aria-label="Recipes for it">
          <h2>Recipes for it {#if sheet.changed}<span class="dim">by the sheet as it is saved</span>{/if}</h2>
          {#each followers as recipe (recipe.id)}
            <div class="recipe">
              <a class="strong" href="/recipes/{recipe.id}">{recipe.title}</a>
              {#if recipe.changed}<span class="eye">has older rules</span><button class="plain" disabled={busy} aria-label="Take over the rules: {recipe.title}" onclick={() => aim(recipe, recipe.use)}>Take them over</button>{/if}
              <a class="plain right" href={rehearse(recipe)} aria-label="Rehearse {recipe.title}">Rehearse</a>
              <button class="dim" disabled={busy} aria-label="{recipe.title} is for no outlet" onclick={() => aim(recipe, null)}>×</button>
            </div>
          {:else}<p>None yet. The board warns where a recipe for it breaks these rules.</p>{/each}
          {#each gone as recipe (recipe.id)}
            <div class="recipe"><a class="strong" href="/recipes/{recipe.id}">{recipe.title}</a> <span class="eye">is for {recipe.use}, which is gone</span> <button class="plain right" disabled={busy} onclick={() => aim(recipe, sheet.keptUse ?? null)}>Make it for {sheet.keptUse}</button></div>
          {/each}
          <div class="do">
            <button class="press small" disabled={busy || sheet.keptUse === undefined} onclick={propose}>Make a recipe for this</button>
            {#if others.length && sheet.keptUse !== undefined}
              <!-- Anew after each choice, so that it asks again. -->
              {#key followers.length}<Pick label="A recipe that is for it" value="" options={[['', 'or choose one…'], ...others.map((each): [string, string] => [String(each.id), each.title])]} onchange={add} />{/key}
            {/if}
          </div>
        </section>
        {#if sheet.keptUse !== undefined}<CheckFiles outlet={id} use={sheet.keptUse} />{/if}
      </div>
    </div>
  {/if}
</div>
{#if sheet.outlet}
  <footer class="foot">
    <span class="dim">{sheet.changed ? 'Changed, and not saved yet.' : `Version ${sheet.outlet.version}.`} Recipes and checks go by the sheet as it is saved.</span>
    <div class="do">
      {#if sheet.changed}<button class="dim" onclick={() => sheet.drop()}>Discard changes</button>{/if}
      <button class="press" disabled={!sheet.changed || saving} onclick={save}>Save the sheet <kbd>Ctrl S</kbd></button>
    </div>
  </footer>
{/if}

<style>
  .page { padding: 0 16px 16px; overflow: auto; flex: 1; min-height: 0; }
  .top { height: 52px; display: flex; gap: 16px; align-items: center; position: sticky; top: 0; background: var(--room); z-index: 3; }
  .top > a { text-decoration: none; white-space: nowrap; }
  .name { width: 220px; }
  .name :global(input) { font-weight: 600; font-size: 15px; }
  .tabs { display: flex; gap: 8px; align-items: center; flex-wrap: wrap; }
  .columns { display: grid; grid-template-columns: minmax(520px, 1.25fr) minmax(380px, 1fr); gap: var(--gap); align-items: start; }
  .form, .beside { display: grid; gap: var(--gap); }
  section, .beside > :global(section) { background: var(--bench); border-radius: var(--radius); padding: 14px 16px; display: grid; gap: 10px; align-content: start; }
  h2 { font-weight: 600; display: flex; gap: 8px; align-items: center; }
  h2 .dim { font-weight: 400; }
  .use { width: 150px; }
  .formats { display: flex; gap: 4px 16px; flex-wrap: wrap; }
  .formats :global(.bx--form-item) { flex: none; margin: 0; }
  .fields { display: grid; grid-template-columns: 1fr 1fr; gap: 8px 16px; }
  .fields.one { grid-template-columns: 160px; }
  .recipe { display: flex; gap: 10px; align-items: baseline; }
  .recipe a { text-decoration: none; }
  .right { margin-left: auto; }
  .eye { color: var(--eye); }
  .problem { color: var(--bad); }
  .do { display: flex; gap: 12px; align-items: center; }
  .foot { display: flex; justify-content: space-between; align-items: center; gap: 16px; padding: 8px 16px; background: var(--sheet); border-top: 1px solid var(--edge-soft); }
  @media (max-width: 900px) { .columns { grid-template-columns: 1fr; } .foot { flex-wrap: wrap; } }
</style>
