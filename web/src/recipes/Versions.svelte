<script lang="ts">
  import { trying } from '../shell/notices.svelte';
  import { when } from '../words/numbers';
  import type { LineState } from './line.svelte';

  /** What the recipe said before, to read and to take back. */
  let { line, close }: { line: LineState; close: () => void } = $props();

  $effect(() => void trying(() => line.loadVersions()));
</script>

{#each line.versions as version (version.number)}
  <div class="version">
    <span><span class="strong">Version {version.number}</span> <span class="dim">{when(version.made)}</span></span>
    {#if version.number === line.recipe?.version}
      <span class="dim">now</span>
    {:else}
      <button class="plain" onclick={() => { line.change(version.content); close(); }}>Take back</button>
    {/if}
    <span class="said">{version.sentence}</span>
  </div>
{:else}
  <p aria-busy="true">One moment…</p>
{/each}

<style>
  .version { display: grid; grid-template-columns: 1fr auto; gap: 2px 10px; padding: 6px 8px; border-top: 1px solid var(--line); }
  .version:first-child { border-top: 0; }
  .said { grid-column: 1 / -1; color: var(--dim); line-height: 16px; }
</style>
