<script lang="ts">
  import { StructuredList, StructuredListBody, StructuredListCell, StructuredListHead, StructuredListRow } from 'carbon-components-svelte';
  import { studio } from '../shell/studio.svelte';
  import { bytes, when } from '../words/numbers';
  import { stand } from '../words/runs';
</script>

<div class="page">
  <h1>Runs</h1>
  {#if studio.runs.length === 0}
    <p class="empty">Nothing has been made yet. On the board, press <kbd>M</kbd> or the button at the bottom right.</p>
  {:else}
    <StructuredList aria-label="Runs">
      <StructuredListHead>
        <StructuredListRow head>
          <StructuredListCell head>Tray</StructuredListCell><StructuredListCell head>Started</StructuredListCell>
          <StructuredListCell head>Outcome</StructuredListCell><StructuredListCell head>Size</StructuredListCell>
        </StructuredListRow>
      </StructuredListHead>
      <StructuredListBody>
        {#each studio.runs as run (run.id)}
          <StructuredListRow>
            <StructuredListCell><a class="strong" href="/runs/{run.id}">{run.tray_name}</a></StructuredListCell>
            <StructuredListCell><a class="dim" tabindex="-1" href="/runs/{run.id}">{when(run.started)}</a></StructuredListCell>
            <StructuredListCell><a class:bad={run.counts.failed > 0} tabindex="-1" href="/runs/{run.id}">{stand(run)}</a></StructuredListCell>
            <StructuredListCell><a class="number" tabindex="-1" href="/runs/{run.id}">{run.bytes ? bytes(run.bytes) : ''}</a></StructuredListCell>
          </StructuredListRow>
        {/each}
      </StructuredListBody>
    </StructuredList>
  {/if}
</div>

<style>
  .page { padding: 16px; overflow: auto; }
  h1 { font-size: 20px; font-weight: 600; margin-bottom: 12px; }
  .empty { font-size: 13px; }
  a { display: block; padding: 11px 14px; text-decoration: none; min-height: 40px; }
  .number { min-width: 70px; }
  .bad { color: var(--bad); }
</style>
