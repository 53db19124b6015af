<script lang="ts">
  import { dismiss, notices } from './notices.svelte';
</script>

<div class="notices" aria-live="polite">
  {#each notices.all as notice (notice.id)}
    <div class="notice" class:bad={notice.bad} role={notice.bad ? 'alert' : 'status'}>
      <span>{notice.text}</span>
      <button onclick={() => dismiss(notice.id)} aria-label="Close">×</button>
    </div>
  {/each}
</div>

<style>
  .notices { position: fixed; left: 16px; bottom: 76px; display: grid; gap: 6px; z-index: 9000; max-width: 520px; }
  .notice {
    background: var(--ink); color: #f1f1ef; border-radius: var(--radius); padding: 10px 10px 10px 14px; font-size: 13px;
    display: flex; gap: 12px; align-items: baseline; justify-self: start;
  }
  .notice.bad { background: var(--bad-soft); color: #5e120b; }
  button { font-size: 15px; line-height: 1; padding: 2px 6px; }
</style>
