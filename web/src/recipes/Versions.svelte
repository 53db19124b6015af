<script lang="ts">
  import { showing } from '../shell/notices.svelte';
  import { when } from '../words/numbers';
  import type { LineState } from './line.svelte';

  /** What the recipe said before, sitting by sitting, to read and to restore. */
  let { line, close }: { line: LineState; close: () => void } = $props();

  $effect(() => void showing(() => line.loadVersions()));
</script>

{#each line.versions as version, i (version.number)}
  <div class="version">
    <span><span class="strong">Version {version.number}</span> <span class="dim">{when(version.made)}</span></span>
    {#if i === 0}
      <span class="dim">now</span>
    {:else}
      <button class="plain" aria-label="Restore version {version.number}" onclick={() => { line.change(version.content); close(); }}>Restore this version</button>
    {/if}
    <ul>{#each version.changed as change (change)}<li>{change}</li>{/each}</ul>
    <details><summary>What it does</summary>{version.sentence}</details>
  </div>
{:else}
  <p aria-busy="true">Looking…</p>
{/each}

<style>
  .version { display: grid; grid-template-columns: 1fr auto; gap: 2px 10px; padding: 8px; border-top: 1px solid var(--line); white-space: normal; }
  .version:first-child { border-top: 0; }
  ul, details { grid-column: 1 / -1; line-height: 17px; }
  ul { list-style: none; }
  details { color: var(--dim); }
  summary { cursor: pointer; }
</style>
