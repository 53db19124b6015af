<script lang="ts" generics="T">
  import type { Snippet } from 'svelte';
  import type { Query } from '../api/query.svelte';
  import Failed from './Failed.svelte';

  /** What the server said; until then that it is asked, or why there is nothing. instead: where else to go then. */
  let { query, children, instead }: { query: Query<T>; children: Snippet<[T]>; instead?: { to: string; text: string } } = $props();
</script>

{#if query.data !== undefined}
  {#if query.stale}<p class="bad" role="alert">{query.stale} <button class="plain" onclick={() => void query.load()}>Try again</button></p>{/if}
  {@render children(query.data)}
{:else if query.problem}
  <Failed {query} {instead} />
{:else}
  <p class="waits dim" aria-busy="true">One moment…</p>
{/if}

<style>
  .bad { margin: 0 0 10px; font-size: 13px; }
  .waits { margin: auto; padding: 40px 16px; font-size: 13px; text-align: center; }
</style>
