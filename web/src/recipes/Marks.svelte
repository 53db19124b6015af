<script lang="ts">
  import { FileUploaderButton } from 'carbon-components-svelte';
  import { api, fieldsOf, sent, taken, type Schemas } from '../api/client';
  import { asking } from '../api/query.svelte';
  import { say, trying } from '../shell/notices.svelte';
  import { unused } from '../words/names';
  import { count } from '../words/numbers';
  import Asked from '../ui/Asked.svelte';
  import MarkCard from './MarkCard.svelte';
  import { deletePart, makePart, renamePart, setPart, type SavedPart, type Setting } from './parts';

  type MarkFile = Schemas['MarkFileOut'];
  const HERE = '/marks';

  /** What lies around and over pictures, shared by recipes, and the fonts and pictures that it is made of. */
  const list = asking<SavedPart[]>(
    () => taken(api.GET('/api/parts')),
    (hint) => hint.kind === 'recipe',
  );
  const others = asking<MarkFile[]>(
    () => taken(api.GET('/api/marks')),
    (hint) => hint.kind === 'recipe',
  );
  /** The one that is open, by its number. */
  let open = $state<number>();
  const shown = $derived((list.data ?? []).filter((part) => part.station === 'finish'));


  let busy = $state(false);
  function make(): void {
    if (busy) return; // a double press makes no second one
    busy = true;
    const name = unused('Credit line', shown.map((part) => part.name));
    void trying(async () => {
      list.answered(await makePart('finish', name, HERE, { marks: [{ text: '© {creator or credit}', clear: true }] }));
      open = shown.find((part) => part.name === name)?.id;
    }).finally(() => (busy = false));
  }

  /** What is wrong with its fields, where it is not taken. */
  async function keep(part: SavedPart, setting: Setting, what?: string): Promise<Record<string, string>> {
    try {
      list.answered(await setPart(part, setting, HERE, what));
      return {};
    } catch (error) {
      return fieldsOf(error);
    }
  }

  function remove(part: SavedPart): void {
    void trying(async () => {
      await deletePart(part, HERE);
      say(part.used.length ? `${part.name} is deleted. ${count(part.used.length, 'recipe')} kept what it says.` : `${part.name} is deleted.`);
      await list.load();
    });
  }

  function removeFile(file: MarkFile): void {
    void trying(async () => {
      await taken(api.DELETE('/api/marks/{name}', { params: { path: { name: file.name } } }));
      say(`${file.name} is deleted.`);
      await others.load();
    });
  }

  function add(chosen: readonly File[]): void {
    void trying(async () => {
      for (const file of chosen) await sent<MarkFile>('/api/marks', file);
      await others.load();
    });
  }
</script>

<div class="page">
  <div class="head">
    <h1>Marks</h1>
    <p class="dim">Borders, texts, marks and stamps that recipes share. Change one here, and all its recipes follow.</p>
    <a class="plain" href="/recipes">Recipes</a>
    <button class="press small" disabled={busy} onclick={(event) => event.detail < 2 && make()}>New mark</button>
  </div>
  <Asked query={list}>
  {#snippet children()}
    {@const files = others.data ?? []}
    {#each shown as part (part.id)}
      <MarkCard
        {part}
        {files}
        open={open === part.id}
        onopen={() => (open = open === part.id ? undefined : part.id)}
        onkeep={keep}
        onrename={(name) => void trying(async () => list.answered(await renamePart(part, name, HERE)))}
        onremove={() => remove(part)}
      />
    {:else}
      <p>No shared marks yet. Press <em>New mark</em>, or save the finish of a recipe as a shared part on its line.</p>
    {/each}
    <h2>
      Fonts and mark pictures
      <FileUploaderButton labelText="Add a font, PNG or SVG…" size="small" kind="ghost" multiple accept={['.ttf', '.otf', '.png', '.svg']} disableLabelChanges on:change={(event) => add(event.detail)} />
    </h2>
    <ul>
      {#each files as file (file.name)}
        <li>
          <span class="strong">{file.name}</span>
          <span class="grounds">
            {#if file.kind === 'picture'}{#each ['light', 'dark', 'busy'] as ground (ground)}<span class="ground {ground}" title="on {ground} ground"><img src="/api/marks/{encodeURIComponent(file.name)}/picture" alt="{file.name} on {ground} ground" /></span>{/each}{:else}<span class="dim">a font for texts over pictures</span>{/if}
          </span>
          <span>{file.used.length ? `in ${file.used.join(', ')}` : 'not used'}</span>
          <button class="plain" aria-label="Delete {file.name}" onclick={() => removeFile(file)}>Delete</button>
        </li>
      {:else}
        <li class="dim">None of your own. Two fonts come with Upper Tray.</li>
      {/each}
    </ul>
  {/snippet}
  </Asked>
</div>

<style>
  .page { padding: 16px; overflow: auto; display: grid; gap: 10px; align-content: start; }
  .head { display: flex; align-items: baseline; gap: 16px; }
  .head p { flex: 1; }
  h1 { font-size: 20px; font-weight: 600; }
  h2 { font-weight: 600; margin-top: 12px; display: flex; gap: 12px; align-items: center; }
  ul { list-style: none; display: grid; gap: 3px; }
  li { display: grid; grid-template-columns: minmax(140px, 1fr) 2fr 1.4fr max-content; gap: 16px; background: var(--bench); border-radius: var(--radius); padding: 9px 14px; align-items: center; }
  li > span { overflow-wrap: anywhere; }
  .grounds { display: flex; gap: 8px; }
  .ground { width: 84px; height: 48px; border-radius: 4px; display: grid; place-items: center; background: #ececea; }
  .ground.dark { background: #161615; }
  .ground.busy { background: repeating-linear-gradient(45deg, #8b8b88 0 5px, #5e5e5c 5px 9px, #c9c9c6 9px 15px); }
  .ground img { max-width: 70px; max-height: 38px; }
</style>
