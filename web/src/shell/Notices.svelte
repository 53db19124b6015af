<script lang="ts">
  import { ToastNotification } from 'carbon-components-svelte';
  import { dismiss, notices } from './notices.svelte';
</script>

<div class="notices" role="region" aria-label="Notices">
  {#each notices.all as notice (notice.id)}
    <ToastNotification
      kind={notice.bad ? 'error' : 'info'}
      role={notice.bad ? 'alert' : 'status'}
      hideCloseButton={false}
      closeButtonDescription="Close"
      title={notice.times > 1 ? `${notice.text} (${notice.times} times)` : notice.text}
      on:close={() => dismiss(notice.id)}
    >
      {#if notice.link}<a href={notice.link.to} onclick={() => dismiss(notice.id)}>{notice.link.text}</a>{/if}
    </ToastNotification>
  {/each}
</div>

<style>
  .notices { position: fixed; left: 16px; bottom: 76px; display: grid; gap: 6px; z-index: 9000; max-width: 520px; justify-items: start; }
  a { font-weight: 600; white-space: nowrap; }
</style>
