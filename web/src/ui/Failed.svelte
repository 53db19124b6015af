<script lang="ts">
  import type { Query } from '../api/query.svelte';

  /** Why there is nothing to see, a way to try again, and where else to go. */
  let { query, instead }: { query: Query<unknown>; instead?: { to: string; text: string } | undefined } = $props();
</script>

<div>
  <p role="alert">{query.problem?.message}</p>
  <button class="press" onclick={() => void query.load()}>Try again</button>
  {#if instead}<a class="plain" href={instead.to}>{instead.text}</a>{/if}
</div>

<style>
  div { margin: auto; padding: 40px 16px; display: grid; gap: 14px; justify-items: center; font-size: 13px; text-align: center; }
</style>
