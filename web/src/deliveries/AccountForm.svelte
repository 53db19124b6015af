<script lang="ts">
  import { Modal, PasswordInput, TextInput } from 'carbon-components-svelte';
  import { api, fieldsOf, taken, type Schemas } from '../api/client';
  import { trying } from '../shell/notices.svelte';
  import Pick from '../ui/Pick.svelte';

  type Account = Schemas['AccountOut'];
  type Outlet = Schemas['OutletOut'];

  let { account, outlets, onclose, onkept }: { account: Account | undefined; outlets: Outlet[]; onclose: () => void; onkept: () => void } = $props();

  const KINDS: [string, string][] = [['platform', 'a platform (the stand-in)'], ['folder', 'a folder of this machine'], ['webdav', 'a WebDAV store'], ['s3', 'an S3 store'], ['sftp', 'a machine by SFTP']];
  const FIELDS: Record<string, [string, string, string][]> = {
    platform: [['address', 'Address', 'http://127.0.0.1:8330'], ['user', 'Account there', '']],
    folder: [['path', 'Folder', '/srv/handed-out']],
    webdav: [['address', 'Address of the folder', 'https://…'], ['user', 'User', '']],
    s3: [['address', 'Address', 'https://…'], ['bucket', 'Bucket', ''], ['user', 'Access key', ''], ['region', 'Region (optional)', 'us-east-1']],
    sftp: [['host', 'Machine', ''], ['port', 'Port (optional)', '22'], ['user', 'User', ''], ['path', 'Folder (optional)', '.'], ['key', 'Fingerprint of its key', 'SHA256:…']],
  };
  const SECRETS: Record<string, string> = { platform: 'Secret', webdav: 'Password', s3: 'Secret key', sftp: 'Password' };

  // The form belongs to one account: it is made anew for another.
  // svelte-ignore state_referenced_locally
  let name = $state(account?.name ?? '');
  // svelte-ignore state_referenced_locally
  let kind = $state(account?.kind ?? 'folder');
  // svelte-ignore state_referenced_locally
  let settings = $state<Record<string, string>>({ ...(account?.settings as Record<string, string> | undefined) });
  let secret = $state('');
  // svelte-ignore state_referenced_locally
  let target = $state(account?.outlet != null ? `${account.outlet} ${account.use}` : '');
  let problems = $state<Record<string, string>>({});
  let busy = $state(false);

  const uses = $derived(outlets.flatMap((outlet) => ((outlet.content['uses'] as { use: string }[] | undefined) ?? []).map((use): [string, string] => [`${outlet.id} ${use.use}`, `${outlet.name}, ${use.use.toLowerCase()}`])));

  function keep(): void {
    if (busy) return;
    busy = true;
    problems = {};
    const at = target.indexOf(' ');
    const aim = target ? { outlet: Number(target.slice(0, at)), use: target.slice(at + 1) } : { outlet: null, use: '' };
    // Left empty, a secret that is there stays.
    const body = { name, kind, settings: settings as Record<string, never>, secret: secret || !account ? secret : null, ...aim, version: account?.version ?? null };
    void trying(async () => {
      try {
        if (account) await taken(api.PUT('/api/accounts/{number}', { params: { path: { number: account.id } }, body }));
        else await taken(api.POST('/api/accounts', { body }));
      } catch (error) {
        problems = fieldsOf(error);
        return;
      }
      onkept();
    }).finally(() => (busy = false));
  }
</script>

<Modal open size="sm" modalHeading={account ? `Account ${account.name}` : 'New account'} primaryButtonText="Save the account" primaryButtonDisabled={busy} secondaryButtonText="Cancel" selectorPrimaryFocus="input" on:close={onclose} on:click:button--secondary={onclose} on:submit={keep}>
  <div class="form">
    <TextInput labelText="Name" value={name} maxlength={80} invalid={'name' in problems} invalidText={problems['name'] ?? ''} on:input={(event) => (name = String(event.detail ?? ''))} />
    <Pick label="It is" labeled value={kind} options={KINDS} onchange={(value) => ((kind = value), (problems = {}))} />
    {#each FIELDS[kind] ?? [] as [field, title, hint] (`${kind} ${field}`)}
      <TextInput labelText={title} placeholder={hint} value={settings[field] ?? ''} invalid={field in problems} invalidText={problems[field] ?? ''} on:input={(event) => (settings = { ...settings, [field]: String(event.detail ?? '') })} />
    {/each}
    {#if SECRETS[kind]}<PasswordInput labelText={SECRETS[kind]} placeholder={account?.secret ? 'kept; type another to change it' : ''} bind:value={secret} />{/if}
    <Pick label="What is sent there is for" labeled value={target} options={[['', 'no outlet'], ...uses]} onchange={(value) => (target = value)} />
  </div>
</Modal>

<style>
  .form { display: grid; gap: 12px; }
</style>
