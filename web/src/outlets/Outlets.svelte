<script lang="ts">
  import { api, taken } from '../api/client';
  import { asking } from '../api/query.svelte';
  import { say, trying } from '../shell/notices.svelte';
  import { router } from '../shell/router.svelte';
  import Asked from '../ui/Asked.svelte';
  import Confirm from '../ui/Confirm.svelte';
  import { count } from '../words/numbers';
  import type { Json } from './fields';
  import type { Outlet } from './sheet.svelte';
  import UseShape from './UseShape.svelte';

  const list = asking<Outlet[]>(
    () => taken(api.GET('/api/outlets')),
    (hint) => hint.kind === 'outlet' || hint.kind === 'recipe',
  );
  let busy = $state(false);
  let deleting = $state.raw<Outlet>();
  let chooser = $state<HTMLInputElement>();

  const uses = (outlet: Outlet) => (outlet.content['uses'] as Json[] | undefined) ?? [];
  const day = (text: unknown) => (text ? new Date(`${String(text)}T12:00`).toLocaleDateString('en-US', { day: 'numeric', month: 'short', year: 'numeric' }) : '');
  const EMPTY = { format: 'upper-tray/outlet', version: 1, name: 'New outlet', uses: [{ use: 'Post' }] };

  function create(content: unknown): void {
    if (busy) return; // a second press makes no second outlet
    busy = true;
    void trying(async () => {
      const made = await taken(api.POST('/api/outlets', { body: { content: content as Record<string, never> } }));
      router.go(`/outlets/${made.id}`);
    }).finally(() => (busy = false));
  }

  function remove(outlet: Outlet): void {
    void trying(async () => {
      await taken(api.DELETE('/api/outlets/{number}', { params: { path: { number: outlet.id } } }));
      say(outlet.recipes.length ? `${outlet.name} is deleted. ${count(outlet.recipes.length, 'recipe')} kept its rules.` : `${outlet.name} is deleted.`);
      await list.load();
    });
  }

  async function takeIn(event: Event): Promise<void> {
    const input = event.target as HTMLInputElement;
    const file = input.files?.[0];
    input.value = '';
    if (!file) return;
    let content: unknown;
    try {
      content = JSON.parse(await file.text());
    } catch {
      say(`${file.name}: expected the sheet of an outlet, found no JSON. Choose a file that was saved here.`, { bad: true });
      return;
    }
    create(content);
  }
</script>

<svelte:head><title>Outlets · Upper Tray</title></svelte:head>
<div class="page">
  <div class="head">
    <h1>Outlets</h1>
    <span class="dim">What each site or platform takes, and what it does to a picture.</span>
    <span class="give"><button class="plain" onclick={() => chooser?.click()}>Take in a sheet…</button></span>
    <button class="press small" disabled={busy} onclick={() => create(EMPTY)}>New outlet</button>
  </div>
  <input class="chooser" type="file" accept=".json,application/json" aria-label="The sheet of an outlet" tabindex="-1" bind:this={chooser} onchange={(event) => void takeIn(event)} />
  <Asked query={list}>
  {#snippet children(outlets)}
  {#if outlets.length === 0}
    <p>No outlets yet. A sheet says what a site takes: formats, pixels, shapes, weight. Recipes for it are held against it, and files can be checked and rehearsed before anybody sees them.</p>
  {/if}
  <div class="cards">
    {#each outlets as outlet (outlet.id)}
      {@const stale = outlet.recipes.filter((each) => each.changed || each.gone).length}
      <article>
        <a class="open" href="/outlets/{outlet.id}">
          <span class="title">{outlet.name}</span>
          <span class="dim">{outlet.content['checked'] ? `checked ${day(outlet.content['checked'])}` : 'never checked'}</span>
          <span class="uses">
            {#each uses(outlet) as use (use['use'])}<span class="use"><UseShape {use} /><span>{use['use']}</span></span>{/each}
          </span>
          {#if outlet.content['notes']}<span class="note">{outlet.content['notes']}</span>{/if}
        </a>
        <p class="for">{outlet.recipes.length ? `For it: ${outlet.recipes.map((each) => each.title).join(', ')}` : 'No recipe is for it yet'}{#if stale}{' '}<span class="stale">· {stale === 1 ? 'one has' : `${stale} have`} older rules</span>{/if}</p>
        <div class="do">
          <a class="plain" href="/api/outlets/{outlet.id}/file" download aria-label="Save as a file: {outlet.name}">Save as a file</a>
          <button class="plain" disabled={busy} aria-label="Duplicate {outlet.name}" onclick={() => create({ ...outlet.content, name: `${outlet.name} copy`.slice(0, 60) })}>Duplicate</button>
          <button class="plain" aria-label="Delete {outlet.name}" onclick={() => (deleting = outlet)}>Delete</button>
        </div>
      </article>
    {/each}
  </div>
  {/snippet}
  </Asked>
</div>

{#if deleting}
  {@const gone = deleting}
  <Confirm title="Delete {gone.name}?" text={gone.recipes.length ? `${count(gone.recipes.length, 'recipe')} for it will keep the rules they took over. Save the sheet as a file first if you may want it back.` : 'Save the sheet as a file first if you may want it back.'} doing="Delete the outlet" ondo={() => remove(gone)} onclose={() => (deleting = undefined)} />
{/if}

<style>
  .page { padding: 16px; overflow: auto; }
  .head { display: flex; align-items: baseline; gap: 16px; margin-bottom: 12px; }
  .give { margin-left: auto; }
  .chooser { position: absolute; width: 1px; height: 1px; opacity: 0; }
  h1 { font-size: 20px; font-weight: 600; }
  .cards { display: grid; grid-template-columns: repeat(auto-fill, minmax(380px, 1fr)); gap: var(--gap); }
  article { background: var(--bench); border-radius: var(--radius); display: flex; flex-direction: column; }
  article:hover { background: var(--sheet); }
  .open { display: grid; grid-template-columns: 1fr auto; gap: 2px 12px; padding: 14px 14px 8px; text-decoration: none; flex: 1; align-content: start; }
  .title { font-weight: 600; font-size: 14px; }
  .uses { grid-column: 1 / -1; display: flex; gap: 22px; flex-wrap: wrap; padding: 10px 0 6px; }
  .use { display: inline-flex; gap: 8px; align-items: center; font-size: 13px; }
  .note { grid-column: 1 / -1; line-height: 18px; }
  .for { padding: 0 14px; }
  .stale { color: var(--eye); }
  .do { display: flex; gap: 14px; padding: 8px 14px 12px; }
  .do a { text-decoration: none; }
</style>
