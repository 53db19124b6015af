<script lang="ts">
  import { api, taken, type Schemas } from '../api/client';
  import { onHint, paced } from '../api/live';
  import { say, trying } from '../shell/notices.svelte';
  import Rename from '../ui/Rename.svelte';
  import { count } from '../words/numbers';
  import { STATIONS } from './draft';
  import { finishSummary } from './finish';
  import { deletePart, renamePart, type SavedPart } from './parts';

  type Profile = Schemas['ProfileOut'];

  /** What recipes share: parts and color profiles. Marks, fonts and their pictures have a page of their own. */
  let parts = $state.raw<SavedPart[]>([]);
  let profiles = $state.raw<Profile[]>([]);
  let renaming = $state<number>();

  let turn = 0;

  async function load(): Promise<void> {
    const mine = ++turn;
    const [found, others] = await Promise.all([taken(api.GET('/api/parts')), taken(api.GET('/api/profiles'))]);
    profiles = others;
    if (mine === turn) parts = found;
  }

  $effect(() => {
    void trying(load);
    const reload = paced(load, 300);
    return onHint((hint) => void ((hint.kind === 'recipe' || hint.kind === 'resync') && reload()));
  });

  const title = (station: string) => STATIONS.find((each) => each.name === station)?.title ?? station;
  /** A setting in short: its fields and their values. */
  const short = (setting: Record<string, unknown>) =>
    Object.entries(setting)
      .map(([name, value]) => `${name.replaceAll('_', ' ')} ${typeof value === 'object' ? JSON.stringify(value) : String(value)}`)
      .join(', ');
  const said = (part: SavedPart) => (part.station === 'finish' ? finishSummary(part.setting).filter(Boolean).join(', ') : short(part.setting));
  const users = (used: { title: string }[]) => (used.length ? `in ${used.map((each) => each.title).join(', ')}` : 'not used');

  function rename(part: SavedPart, name: string): void {
    void trying(async () => {
      const found = await renamePart(part, name, '/recipes');
      turn += 1; // newer than whatever was asked before
      parts = found;
    });
  }

  function remove(part: SavedPart): void {
    void trying(async () => {
      await deletePart(part, '/recipes');
      say(part.used.length ? `${part.name} is deleted. ${count(part.used.length, 'recipe')} kept its setting.` : `${part.name} is deleted.`);
      await load();
    });
  }

  function removeProfile(profile: Profile): void {
    void trying(async () => {
      await taken(api.DELETE('/api/profiles/{name}', { params: { path: { name: profile.name } } }));
      say(`${profile.name} is deleted.`);
      await load();
    });
  }
</script>

{#if parts.length}
  <h2>Shared parts</h2>
  <ul>
    {#each parts as part (part.id)}
      <li>
        {#if renaming === part.id}
          <Rename name={part.name} label="Name of the part" onrename={(name) => rename(part, name)} onclose={() => (renaming = undefined)} />
        {:else}<span class="strong">{part.name}</span>{/if}
        <span class="dim">{title(part.station)}: {said(part)}</span>
        <span>{users(part.used)}</span>
        <button class="plain" aria-label="Rename {part.name}" onclick={() => (renaming = part.id)}>Rename</button>
        <button class="plain" aria-label="Delete {part.name}" onclick={() => remove(part)}>Delete</button>
      </li>
    {/each}
  </ul>
{/if}
{#if profiles.length}
  <h2>Color profiles</h2>
  <ul>
    {#each profiles as profile (profile.name)}
      <li>
        <span class="strong">{profile.name}</span>
        <span class="dim">{profile.title}, for {profile.space} {profile.space === 'CMYK' ? 'inks: TIFF, JPEG and PDF' : 'pictures'}</span>
        <span>{users(profile.used.map((each) => ({ title: each })))}</span>
        {#if profile.own}<button class="plain" aria-label="Delete {profile.name}" onclick={() => removeProfile(profile)}>Delete</button>{:else}<span class="dim">comes with the product</span>{/if}
      </li>
    {/each}
  </ul>
{/if}

<style>
  h2 { font-weight: 600; margin: 18px 0 6px; }
  ul { list-style: none; display: grid; gap: 3px; max-width: 1240px; }
  li { display: grid; grid-template-columns: minmax(140px, 1fr) 2fr 1.4fr max-content max-content; gap: 16px; background: var(--bench); border-radius: var(--radius); padding: 9px 14px; align-items: baseline; }
  li > span { overflow-wrap: anywhere; }
</style>
