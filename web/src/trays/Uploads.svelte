<script lang="ts">
  import CutName from '../ui/CutName.svelte';
  import { bytes, count } from '../words/numbers';
  import { uploads, type Upload } from './uploads.svelte';

  let open = $state(true);
  const shown = $derived([...uploads.all].sort((one, other) => order(one) - order(other)).slice(0, 60));

  function order(upload: Upload): number {
    return { failed: 0, sending: 1, waiting: 2, sent: 3 }[upload.state];
  }
</script>

<!-- What is on its way is lost by a reload: asked before. -->
<svelte:window onbeforeunload={(event) => uploads.busy && event.preventDefault()} />
{#if uploads.all.length}
  <section class="uploads" aria-label="Uploads">
    <header>
      <span class="strong">{uploads.busy ? 'Uploading' : 'Uploaded'} {uploads.done} of {count(uploads.all.length, 'file')}</span>
      <span class="dim">{bytes(uploads.sent)} of {bytes(uploads.total)}</span>
      <button class="plain" onclick={() => (open = !open)}>{open ? 'Less' : 'More'}</button>
      {#if !uploads.busy}<button class="plain" onclick={() => uploads.clear()}>Close</button>{/if}
    </header>
    <progress max={Math.max(1, uploads.total)} value={uploads.sent} aria-label="All files"></progress>
    {#if uploads.failed}
      <p class="bad">{count(uploads.failed, 'file')} failed <button class="plain" onclick={() => uploads.retry()}>Try all again</button></p>
    {/if}
    {#if open}
      <ul>
        {#each shown as upload (upload.id)}
          <li class={upload.state}>
            <span class="name" title={upload.path}><CutName name={upload.path} /></span>
            {#if upload.state === 'failed'}
              <button class="plain" onclick={() => uploads.retry(upload)}>Try again</button>
              <span class="reason">{upload.reason}</span>
            {:else}
              <span class="dim">{upload.state === 'sent' ? bytes(upload.file.size) : upload.state === 'sending' ? `${Math.round((100 * upload.sent) / Math.max(1, upload.file.size))} %` : 'waiting'}</span>
              <progress max={Math.max(1, upload.file.size)} value={upload.state === 'sent' ? Math.max(1, upload.file.size) : upload.sent} aria-label={upload.path}></progress>
            {/if}
          </li>
        {/each}
      </ul>
    {/if}
  </section>
{/if}

<style>
  .uploads {
    position: fixed; right: 16px; bottom: 76px; width: 380px; z-index: 8000; background: var(--sheet); border: 1px solid var(--line);
    border-radius: var(--radius); padding: 12px 14px; display: grid; gap: 8px; box-shadow: 0 6px 18px rgb(0 0 0 / 0.16);
  }
  header { display: flex; gap: 10px; align-items: baseline; }
  header .dim { margin-right: auto; }
  ul { list-style: none; max-height: 220px; overflow: auto; display: grid; gap: 6px; }
  li { display: grid; grid-template-columns: 1fr auto; gap: 1px 10px; }
  .name { min-width: 0; }
  progress { grid-column: 1 / -1; width: 100%; height: 4px; appearance: none; border: 0; background: var(--room); border-radius: 2px; overflow: hidden; }
  progress::-webkit-progress-bar { background: var(--room); }
  progress::-webkit-progress-value { background: var(--accent); }
  progress::-moz-progress-bar { background: var(--accent); }
  .bad, .reason { color: var(--bad); }
  .reason { grid-column: 1 / -1; }
</style>
