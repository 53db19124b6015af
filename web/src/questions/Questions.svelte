<script lang="ts">
  import { api, taken, type Schemas } from '../api/client';
  import { asking } from '../api/query.svelte';
  import { onEscape } from '../shell/escape';
  import { pageKey } from '../shell/keys.svelte';
  import { say, trying } from '../shell/notices.svelte';
  import { router } from '../shell/router.svelte';
  import { count } from '../words/numbers';
  import Asked from '../ui/Asked.svelte';
  import Question from './Question.svelte';

  type Item = Schemas['QuestionOut'];
  type Answer = Schemas['AnswerIn']['answer'];

  const KINDS = [
    ['', 'All'],
    ['crop', 'Crop to place'],
    ['name', 'Name taken'],
    ['word', 'Word missing'],
    ['outline', 'Outline to check'],
  ] as const;
  const HEADS: Record<string, string> = { crop: 'Crop to place', name: 'Name taken', word: 'Word missing', outline: 'Outline to check' };
  const KEYS: Record<string, Answer> = { n: 'new-name', r: 'replace', k: 'keep' };

  let kind = $state('');
  let here = $state<number>();
  let list = $state<HTMLElement>();

  const asked = asking<Schemas['QuestionsOut']>(
    () => taken(api.GET('/api/questions', { params: { query: { kind } } })),
    (hint) => hint.kind === 'run' || hint.kind === 'tray',
    200,
  );
  const found = $derived(asked.data);
  const questions = $derived(found?.questions ?? []);
  const all = $derived(Object.values(found?.counts ?? {}).reduce((sum, each) => sum + each, 0));
  const current = $derived(questions.find((each) => each.id === here) ?? questions[0]);
  const groups = $derived.by(() => {
    const made: { key: string; kind: string; title: string; recipe: number; items: Item[] }[] = [];
    for (const item of questions) {
      const key = `${item.kind}:${item.recipe}`;
      let group = made.at(-1);
      if (group?.key !== key) made.push((group = { key, kind: item.kind, title: item.recipe_title, recipe: item.recipe, items: [] }));
      group.items.push(item);
    }
    return made;
  });

  $effect(() => onEscape(() => void router.go('/')));

  /** Answer a question, those of its recipe, or all alike. */
  function answer(said: Answer, which: Item | undefined, alike?: 'recipe' | 'all'): void {
    if (!which || (which.kind === 'name') === (said === 'own-name') || which.kind === 'crop') return;
    const after = questions[questions.indexOf(which) + 1]?.id;
    const body = { answer: said, ...(alike === 'all' ? {} : alike === 'recipe' ? { recipe: which.recipe } : { questions: [which.id] }) };
    void trying(async () => {
      const done = await taken(api.POST('/api/questions/answers', { body }));
      if (alike) say(`Answered ${count(done.answered, 'question')}`);
      here = after;
      await asked.load();
      focus();
    });
  }

  /** A word that was missing is the photo's from now on. */
  function typed(item: Item, word: string, text: string): void {
    if (!text.trim() || item.tray === null) return;
    const edit = { photo: item.photo, typed: { ...item.typed, [word]: text.trim() } as Schemas['EditIn']['typed'], version: item.typed_version };
    const after = questions[questions.indexOf(item) + 1]?.id;
    void trying(async () => {
      await taken(api.PUT('/api/trays/{number}/words', { params: { path: { number: item.tray as number } }, body: { edits: [edit] } }));
      here = after;
      await asked.load();
      focus();
    });
  }

  function placeCrops(): void {
    void trying(async () => {
      const crops = await taken(api.GET('/api/questions', { params: { query: { kind: 'crop' } } }));
      const crop = crops.questions.find((each) => each.tray !== null);
      if (crop) router.go(`/trays/${crop.tray}/bench/${crop.photo}/${crop.recipe}`);
      else say('No photo needs a crop.');
    });
  }

  function focus(): void {
    setTimeout(() => list?.querySelector<HTMLElement>('.here')?.focus(), 20);
  }

  function step(by: number): void {
    const at = current ? questions.indexOf(current) : 0;
    here = questions[Math.min(Math.max(0, at + by), questions.length - 1)]?.id;
    focus();
  }

  function pressed(event: KeyboardEvent): void {
    const key = pageKey(event);
    if (key === undefined || !found) return;
    const said = KEYS[key];
    if (said) answer(said, current, event.shiftKey ? 'recipe' : undefined);
    else if (key === 'ArrowDown') step(1);
    else if (key === 'ArrowUp') step(-1);
    else if (key === 'l') placeCrops();
    else return;
    event.preventDefault();
  }
</script>

<svelte:head><title>Questions · Upper Tray</title></svelte:head>
<svelte:window onkeydown={pressed} />
<div class="bar">
  <h1>Questions</h1>
  <div class="filters" role="group" aria-label="Show">
    {#each KINDS as [value, name] (value)}
      {@const number = value === '' ? all : (found?.counts[value] ?? 0)}
      {#if value === '' || number || kind === value}
        <button class="pill" class:chosen={kind === value} aria-pressed={kind === value} onclick={() => (kind = value)}>{name} {number.toLocaleString('en-US')}</button>
      {/if}
    {/each}
  </div>
  {#if found?.total}<span class="dim">everything else goes on: {found.made.toLocaleString('en-US')} of {found.total.toLocaleString('en-US')} made</span>{/if}
</div>
<Asked query={asked}>
{#snippet children(found)}
{#if !questions.length}
  <div class="empty">
    <p class="title">Nothing waits for you</p>
    <p>Runs ask here when a name is taken, a word is missing, or a crop is to be placed.</p>
    <a class="plain" href="/runs">Go to the runs</a>
  </div>
{:else}
  <div class="list" bind:this={list}>
    {#each groups as group (group.key)}
      <section aria-label="{HEADS[group.kind]}, {group.title}">
        <h2>{HEADS[group.kind]} · {group.title}</h2>
        {#each group.items as item (item.id)}
          <Question {item} here={item === current} onhere={() => (here = item.id)} onanswer={(said) => answer(said, item)} ontyped={(word, text) => typed(item, word, text)} />
        {/each}
        {#if group.kind === 'name' && (group.items.length > 1 || (found.counts['name'] ?? 0) > 1)}
          <p class="alike">
            <span class="strong">Answer alike:</span>
            {#each [['recipe', `all of ${group.title}`], ['all', `all ${count(found.counts['name'] ?? 0, 'name')} taken`]] as const as [which, name] (which)}
              <span class="set" role="group" aria-label="For {name}">
                {name}:
                <button class="plain" onclick={() => answer('new-name', group.items[0], which)}>New names</button>
                <button class="plain" onclick={() => answer('replace', group.items[0], which)}>Replace</button>
                <button class="plain" onclick={() => answer('keep', group.items[0], which)}>Keep the old</button>
              </span>
            {/each}
          </p>
        {:else if group.kind === 'word' && group.items.length > 1}
          <p class="alike">
            <span class="strong">Answer alike:</span>
            <button class="plain" onclick={() => answer('own-name', group.items[0], 'recipe')}>Name all of {group.title} by their files</button>
            {#if group.items[0]?.tray}<a class="plain" href="/trays/{group.items[0].tray}/words">Type them on the sheet</a>{/if}
          </p>
        {/if}
      </section>
    {/each}
    {#if all > questions.length && kind === ''}<p class="dim">{count(all - questions.length, 'more question')} will follow.</p>{/if}
  </div>
{/if}
{/snippet}
</Asked>
<div class="foot">
  <p class="sums">{#if found}<span><b>{all.toLocaleString('en-US')}</b> {all === 1 ? 'question' : 'questions'} of {count(found.runs, 'run')}</span>{/if}</p>
  <div class="do">
    <span class="dim keys"><kbd>↓</kbd> next · the letter answers · <kbd>Shift</kbd> for the whole recipe</span>
    {#if found?.counts['crop']}<button class="quiet" onclick={placeCrops}>Place the {count(found.counts['crop'], 'crop')} <kbd>L</kbd></button>{/if}
  </div>
</div>

<style>
  .bar { display: flex; align-items: center; gap: 14px; height: 40px; padding: 0 16px; flex: none; white-space: nowrap; }
  h1 { font-size: 15px; font-weight: 600; }
  h2 { font-size: 12px; font-weight: 600; margin: 8px 0 6px; }
  .filters { display: flex; gap: 2px; margin-right: auto; }
  .pill { padding: 3px 9px; color: var(--dim); }
  .pill.chosen { background: var(--sheet); color: var(--ink); font-weight: 600; }
  .list { flex: 1; min-height: 0; overflow: auto; padding: 0 16px 16px; }
  section { display: grid; gap: 6px; }
  .alike { display: flex; flex-wrap: wrap; gap: 4px 18px; align-items: center; margin: 2px 0 8px; }
  .set { display: inline-flex; gap: 12px; align-items: center; }
  .empty { margin: auto; display: grid; gap: 10px; justify-items: center; font-size: 13px; flex: 1; align-content: center; }
  .title { font-size: 20px; font-weight: 600; }
  .keys { align-self: center; }
</style>
