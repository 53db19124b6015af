<script lang="ts">
  import { Checkbox, FileUploaderDropContainer, Modal, TextInput } from 'carbon-components-svelte';
  import { api, taken, type Schemas, type Tray } from '../api/client';
  import Choice from '../recipes/Choice.svelte';
  import { onEscape } from '../shell/escape';
  import { trying } from '../shell/notices.svelte';
  import { count } from '../words/numbers';
  import { filesPicked, trayName } from './dropped';
  import { addToTray, makeTray } from './make';

  type Listing = Schemas['ListingOut'];
  interface Picked {
    root: number;
    path: string;
    label: string;
  }

  let { open = $bindable(), tray }: { open: boolean; tray: Tray | undefined } = $props();

  let into = $state<'new' | 'here'>('new');
  let name = $state('');
  let roots = $state.raw<Schemas['RootOut'][]>();
  let listing = $state.raw<Listing>();
  let picked = $state<Picked[]>([]);
  let problem = $state('');
  let making = $state(false);

  const steps = $derived(listing ? listing.path.split('/').filter(Boolean) : []);
  const suggestion = $derived(picked[0]?.label.replaceAll(/[-_]/g, ' ') ?? '');

  $effect(() => (open ? onEscape(() => void (open = false)) : undefined));

  $effect(() => {
    if (!open) return;
    name = '';
    into = 'new';
    picked = [];
    problem = '';
    listing = undefined;
    void trying(async () => {
      const found = await taken(api.GET('/api/roots'));
      roots = found;
      const [only] = found;
      if (only && found.length === 1) await go(only.id, '');
    });
  });

  let turn = 0;

  async function go(root: number, path: string): Promise<void> {
    const mine = ++turn;
    try {
      const found = await taken(api.GET('/api/roots/{number}/folders', { params: { path: { number: root }, query: { path } } }));
      if (mine !== turn) return; // another folder was opened meanwhile
      listing = found;
      problem = '';
    } catch (error) {
      if (mine === turn) problem = (error as Error).message;
    }
  }

  const has = (root: number, path: string) => picked.some((each) => each.root === root && each.path === path);

  function toggle(root: number, path: string, label: string): void {
    picked = has(root, path)
      ? picked.filter((each) => each.root !== root || each.path !== path)
      : [...picked, { root, path, label }];
  }

  async function make(files: ReturnType<typeof filesPicked> = []): Promise<void> {
    if (making || !open) return; // a second press makes no second tray, nor one while this goes
    making = true;
    try {
      const folders = picked.map(({ root, path }) => ({ root, path }));
      if (into === 'here' && tray) await addToTray(tray, folders, files);
      else await makeTray(name.trim() || suggestion || trayName(files), folders, files);
      open = false;
    } catch (error) {
      problem = (error as Error).message;
    } finally {
      making = false;
    }
  }

  function pickedFiles(event: Event & { currentTarget: HTMLInputElement }): void {
    const list = event.currentTarget.files;
    if (list?.length) void make(filesPicked(list));
    event.currentTarget.value = '';
  }
</script>

<Modal bind:open passiveModal modalHeading="Gather photos" size="sm" on:close={() => (open = false)}>
  <div class="form">
    {#if tray}
      <Choice
        label="Gather into"
        value={into}
        options={[['new', 'a new tray'], ['here', tray.name]]}
        onchange={(value) => (into = value === 'here' ? 'here' : 'new')}
      />
    {/if}
    {#if into === 'new'}<TextInput labelText="Name" placeholder={suggestion || 'for example: Autumn rehang'} bind:value={name} />{/if}
    <div>
      <p class="label">Folders on this machine</p>
      <nav class="crumbs" aria-label="Folder">
        <button class="plain" onclick={() => (listing = undefined)} disabled={!listing || (roots?.length ?? 0) < 2}>All</button>
        {#if listing}
          {@const root = listing.root}
          <span>›</span><button class="plain" onclick={() => void go(root.id, '')}>{root.name}</button>
          {#each steps as step, i (i)}
            <span>›</span><button class="plain" onclick={() => void go(root.id, steps.slice(0, i + 1).join('/'))}>{step}</button>
          {/each}
        {/if}
      </nav>
      <ul class="folders">
        {#if !roots}
          <li class="none" aria-busy="true">Looking…</li>
        {:else if !listing}
          {#each roots as root (root.id)}
            <li><button class="open" onclick={() => void go(root.id, '')}>{root.name}</button></li>
          {:else}
            <li class="none">No folder is registered for your studio yet. Whoever runs the server adds one with “add_root”. You can drop files at once.</li>
          {/each}
        {:else}
          {@const root = listing.root}
          {#each listing.folders as folder (folder.path)}
            <li>
              <Checkbox labelText={folder.name} checked={has(root.id, folder.path)} on:check={(event) => event.detail !== has(root.id, folder.path) && toggle(root.id, folder.path, folder.name)} />
              <span class="dim">{count(folder.photos, 'photo')}</span>
              {#if folder.folders}<button class="plain" onclick={() => void go(root.id, folder.path)}>Open</button>{/if}
            </li>
          {:else}
            <li class="none">No folders in here.</li>
          {/each}
          {#if listing.photos}
            {@const path = listing.path}
            <li>
              <Checkbox labelText="this folder, with all below it" checked={has(root.id, path)} on:check={(event) => event.detail !== has(root.id, path) && toggle(root.id, path, steps.at(-1) ?? root.name)} />
              <span class="dim">{count(listing.photos, 'photo')}</span>
            </li>
          {/if}
        {/if}
      </ul>
    </div>
    <FileUploaderDropContainer labelText="Drop files here, or press to choose some" multiple role="" on:add={(event) => void make(event.detail.map((file) => ({ file, path: file.name })))} />
    {#if problem}<p class="bad" role="alert">{problem}</p>{/if}
    <div class="do">
      <label class="quiet small">Upload a folder<input class="visually-hidden" type="file" webkitdirectory multiple onchange={pickedFiles} data-upload="folder" /></label>
      <button class="press small" disabled={picked.length === 0 || making} onclick={() => void make()}>
        {picked.length === 0
          ? 'Choose a folder'
          : into === 'here'
            ? `Add ${count(picked.length, 'folder')}`
            : `Make a tray of ${count(picked.length, 'folder')}`}
      </button>
    </div>
    <p class="dim">Files and folders can also be dropped anywhere on the window.</p>
  </div>
</Modal>

<style>
  .form { display: grid; gap: 16px; }
  .label { color: var(--dim); margin-bottom: 4px; font-size: 12px; }
  .crumbs { display: flex; gap: 6px; flex-wrap: wrap; padding: 6px 10px; background: var(--bench); border-radius: 4px 4px 0 0; }
  .crumbs button:disabled { color: var(--dim); font-weight: 400; }
  .folders { list-style: none; border: 1px solid var(--bench); border-top: 0; border-radius: 0 0 4px 4px; max-height: 220px; overflow: auto; }
  li { display: flex; gap: 12px; align-items: center; padding: 6px 10px; border-top: 1px solid var(--bench); }
  li :global(.bx--form-item) { flex: 1; }
  .open { flex: 1; font-weight: 600; }
  .none { color: var(--dim); }
  .do { display: flex; gap: 8px; }
  .do label { cursor: pointer; position: relative; }
  .do label:focus-within { outline: 2px solid var(--accent); }
  .do .press { margin-left: auto; }
  .bad { color: var(--bad); }
</style>
