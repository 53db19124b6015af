<script lang="ts">
  import { studio } from '../shell/studio.svelte';
  import { bytes, when } from '../words/numbers';
  import { stand } from '../words/runs';
</script>

<div class="page">
  <h1>Runs</h1>
  {#if studio.runs.length === 0}
    <p class="empty">Nothing was made yet. On the board, press <kbd>M</kbd> or the button at the bottom right.</p>
  {:else}
    <div class="table" role="table" aria-label="Runs">
      {#each studio.runs as run (run.id)}
        <a role="row" href="/runs/{run.id}">
          <span role="cell" class="strong">{run.tray_name}</span>
          <span role="cell" class="dim">{when(run.started)}</span>
          <span role="cell" class:bad={run.counts.failed > 0}>{stand(run)}</span>
          <span role="cell" class="number">{run.bytes ? bytes(run.bytes) : ''}</span>
        </a>
      {/each}
    </div>
  {/if}
</div>

<style>
  .page { padding: 16px; overflow: auto; }
  h1 { font-size: 20px; font-weight: 600; margin-bottom: 12px; }
  .empty { font-size: 13px; }
  .table { display: grid; gap: 3px; }
  [role='row'] { display: grid; grid-template-columns: 1.4fr 1.2fr 2fr 90px; gap: 16px; background: var(--bench); border-radius: var(--radius); padding: 11px 14px; text-decoration: none; font-size: 13px; }
  [role='row']:hover { background: var(--sheet); }
  .number { text-align: right; }
  .bad { color: var(--bad); }
</style>
