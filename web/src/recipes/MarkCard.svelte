<script lang="ts">
  import { api, taken, type Schemas } from '../api/client';
  import { trying } from '../shell/notices.svelte';
  import Rename from '../ui/Rename.svelte';
  import { when } from '../words/numbers';
  import { finishSummary, isPicture, list, markName, tidied, type Mark } from './finish';
  import MarkControls from './MarkControls.svelte';
  import type { SavedPart, Setting } from './parts';

  interface Props {
    part: SavedPart;
    files: Schemas['MarkFileOut'][];
    open: boolean;
    onopen: () => void;
    /** began: the part as it was when the change began. Answers what is wrong with which field. */
    onkeep: (began: SavedPart, setting: Setting, what?: string) => Promise<Record<string, string>>;
    onrename: (name: string) => void;
    onremove: () => void;
  }
  /** One shared finish on three grounds, with what it said before. */
  let { part, files, open, onopen, onkeep, onrename, onremove }: Props = $props();

  const GROUNDS = ['light', 'dark', 'busy'] as const;
  let versions = $state.raw<Schemas['PartVersionOut'][]>([]);
  let draft = $state.raw<Setting>();
  /** What the draft began from: somebody else's newer one is not written over. */
  let began = $state.raw<SavedPart>();
  let wrong = $state.raw<Record<string, string>>({});
  let renaming = $state(false);

  /** As the list of versions has it, where that is newer: it is asked for by itself, and what it shows is what is restored from. */
  const newest = $derived.by(() => {
    const [last] = versions;
    return last && last.number > part.version ? { ...part, version: last.number, setting: last.setting } : part;
  });
  const setting = $derived(draft ?? part.setting);
  const marks = $derived(list(setting, 'marks'));
  const said = $derived(finishSummary(part.setting).filter(Boolean).join(', '));

  $effect(() => {
    void part.version;
    if (open) void trying(async () => void (versions = await taken(api.GET('/api/parts/{number}/versions', { params: { path: { number: part.id } } }))));
  });

  function change(at: number, mark: Mark): void {
    if (!draft) began = part;
    draft = tidied({ ...setting, marks: marks.map((each, i) => (i === at ? mark : each)) }) ?? {};
    wrong = {};
  }

  function keep(from: SavedPart, next: Setting, what?: string): void {
    void trying(async () => {
      wrong = await onkeep(from, next, what);
      if (!Object.keys(wrong).length) draft = undefined;
    });
  }

</script>

<article class:open>
  <div class="head">
    {#if renaming}
      <Rename name={part.name} label="Name of the mark" {onrename} onclose={() => (renaming = false)} />
    {:else}<h2>{part.name}</h2>{/if}
    <span class="dim">{said}</span>
    <span>{part.used.length ? `in ${part.used.map((each) => each.title).join(', ')}` : 'not used'}</span>
    <span class="do">
      <button class="plain" aria-expanded={open} aria-label="{open ? 'Close' : 'Change'} {part.name}" onclick={onopen}>{open ? 'Close' : 'Change'}</button>
      <button class="plain" aria-label="Rename {part.name}" onclick={() => (renaming = true)}>Rename</button>
      <button class="plain" aria-label="Delete {part.name}" onclick={onremove}>Delete</button>
    </span>
  </div>
  <div class="grounds">
    {#each GROUNDS as ground (ground)}
      <figure><img src="/api/parts/{part.id}/on/{ground}?version={part.version}" alt="{part.name} on a {ground} picture" /><figcaption class="dim">{ground}</figcaption></figure>
    {/each}
  </div>
  {#if open}
    <div class="inside">
      <section aria-label="What it says">
        {#each marks as mark, at (at)}
          <fieldset>
            <legend>{isPicture(mark) ? 'Picture' : 'Text'}{marks.length > 1 ? `: ${markName(mark)}` : ''}</legend>
            <MarkControls {mark} {files} problem={(field) => wrong[`finish.marks.${at}.${field}`]} onchange={(next) => change(at, next)} />
          </fieldset>
        {:else}
          <p class="dim">It has no marks. Its borders and stamp are changed on the line of a recipe that follows it.</p>
        {/each}
        {#if draft}
          <div class="do">
            <button class="press small" onclick={() => draft && keep(began ?? part, draft)}>Keep for all its recipes</button>
            <button class="plain" onclick={() => { draft = undefined; wrong = {}; }}>Discard changes</button>
          </div>
        {/if}
      </section>
      <section aria-label="Versions">
        <h3>Versions</h3>
        <ul>
          {#each versions as version, i (version.number)}
            <li>
              <img src="/api/parts/{part.id}/on/light?version={version.number}" alt="" loading="lazy" />
              <span>Version {version.number}<br /><span class="dim">{when(version.made)}</span></span>
              {#if i === 0}<span class="dim">now</span>{:else}<button class="plain" aria-label="Restore version {version.number} of {part.name}" onclick={() => keep(newest, version.setting, `restored version ${version.number} of ${part.name}`)}>Restore</button>{/if}
            </li>
          {/each}
        </ul>
      </section>
    </div>
  {/if}
</article>

<style>
  article { background: var(--bench); border-radius: var(--radius); padding: 10px 14px 14px; display: grid; gap: 10px; }
  .head { display: grid; grid-template-columns: 220px minmax(0, 1fr) minmax(0, 1fr) max-content; gap: 16px; align-items: center; min-height: 32px; }
  h2 { font-size: 15px; font-weight: 600; }
  h3 { font-size: 13px; font-weight: 600; margin-bottom: 6px; }
  .do { display: flex; gap: 14px; align-items: center; }
  .grounds { display: grid; grid-template-columns: repeat(3, minmax(0, 400px)); gap: 12px; }
  figure { margin: 0; }
  figure img { width: 100%; display: block; border-radius: 3px; background: var(--empty); aspect-ratio: 3 / 2; object-fit: contain; }
  figcaption { font-size: 12px; padding-top: 2px; }
  .inside { display: grid; grid-template-columns: minmax(0, 2fr) minmax(220px, 1fr); gap: 20px; }
  fieldset { border: 0; display: grid; gap: 8px; margin-bottom: 12px; }
  legend { font-weight: 600; font-size: 13px; margin-bottom: 4px; }
  ul { list-style: none; display: grid; gap: 6px; }
  li { display: grid; grid-template-columns: 78px 1fr max-content; gap: 10px; align-items: center; font-size: 13px; }
  li img { width: 78px; aspect-ratio: 3 / 2; object-fit: contain; background: var(--empty); border-radius: 3px; }
</style>
