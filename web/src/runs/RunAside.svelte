<script lang="ts">
  import { api, type RunDetail, type Schemas } from '../api/client';
  import { onHint, paced } from '../api/live';
  import { count, duration, when } from '../words/numbers';
  import { going, stand, worked } from '../words/runs';
  import CopyPath from './CopyPath.svelte';
  import { telling } from './notice.svelte';

  /** How a run stands: in all, by recipe, and what is done once it is made. */
  let { run }: { run: RunDetail } = $props();

  const pace = (made: number | null) => `${made !== null && made >= 10 ? Math.round(made) : made} a minute`;
  const STEPS: Record<string, string> = { zip: 'Zip', markup: 'Page', sheets: 'Contact sheets', path: 'Folder', deliver: 'Sent' };
  let sent = $state.raw<Schemas['RunDeliveriesOut'][]>([]);

  $effect(() => {
    void run.finished;
    const number = run.id;
    const load = async () => {
      const found = await api.GET('/api/runs/{number}/deliveries', { params: { path: { number } } });
      if (found.data) sent = found.data;
    };
    void load();
    const reload = paced(load, 500);
    return onHint((hint) => void ((hint.kind === 'delivery' || hint.kind === 'resync') && reload()));
  });
  const all = (counts: Record<string, number>) => Object.values(counts).reduce((sum, each) => sum + each, 0);
</script>

<aside>
  <h1>{run.tray_name}</h1>
  <p class="dim">{when(run.started)}</p>
  <p class="sum">
    <b>{stand(run)}</b>
    {#if going(run) && !run.held && run.per_minute}<br /><span class="dim">{pace(run.per_minute)}</span>{/if}
    {#if run.counts.asking && !run.finished}<br /><a class="eye" href="/questions">{run.counts.asking} {run.counts.asking === 1 ? 'waits' : 'wait'} for your answer</a>{/if}
  </p>
  <progress max={run.counts.total} value={worked(run.counts)} aria-label="All renditions"></progress>
  {#if telling.asks(run)}
    <div class="ask" role="group" aria-label="A notice at the end">
      <p>This takes a while. Shall your browser tell you when it is finished?</p>
      <button class="plain" onclick={() => void telling.allow()}>Tell me</button>
      <button class="plain" onclick={() => telling.never()}>No, never</button>
    </div>
  {/if}
  <div class="recipes">
    {#each run.recipes as recipe (recipe.recipe)}
      <div class="recipe">
        <span class="title" title={recipe.title}>{recipe.title}</span>
        <span class="dim">{recipe.made} of {recipe.total} made{recipe.failed ? ` · ${recipe.failed} failed` : ''}{recipe.stopped ? ` · ${recipe.stopped} stopped` : ''}</span>
        <progress max={recipe.total} value={worked(recipe)} aria-label={recipe.title}></progress>
        {#if going(run) && !run.held && recipe.open && recipe.seconds_left !== null}<span class="dim pace">{pace(recipe.per_minute)} · {duration(recipe.seconds_left)} left</span>{/if}
      </div>
    {/each}
  </div>
  {#if run.afterwards.length}
    <div class="after" role="group" aria-label="Afterwards">
      {#each run.afterwards as step, i (i)}
        {#if step.do !== 'deliver' || step.error}<p class="strong">{STEPS[step.do] ?? step.do}</p>{/if}
        {#if step.error}<p class="bad">{step.error}</p>
        {:else if step.paths?.length}{#each step.paths as path (path)}<CopyPath {path} />{/each}
        {:else if step.do !== 'deliver'}<p class="dim">{run.finished ? 'nothing was made for it' : 'once all is made'}</p>{/if}
      {/each}
    </div>
  {/if}
  {#each sent as each (each.account)}<p class="sent"><a class="plain" href="/deliveries">{each.name}</a> <span class:bad={each.counts['failed']}>{each.counts['sent'] ?? 0} of {all(each.counts)} sent{each.counts['failed'] ? `, ${each.counts['failed']} failed` : ''}</span></p>{/each}
  {#if run.counts.made}
    <p class="lists"><span class="dim">List of files</span> <a class="plain" href="/api/runs/{run.id}/manifest?kind=csv" download>CSV</a> <a class="plain" href="/api/runs/{run.id}/manifest?kind=json" download>JSON</a></p>
  {/if}
  {#if run.left_out.length}
    <details>
      <summary>{count(run.left_out.length, 'photo')} {run.left_out.length === 1 ? 'was' : 'were'} left out</summary>
      <ul>
        {#each run.left_out as photo (photo.name)}<li><span class="strong">{photo.name}</span> {photo.reason}</li>{/each}
      </ul>
    </details>
  {/if}
</aside>

<style>
  aside { padding: 16px; overflow: auto; display: grid; gap: 6px; align-content: start; background: var(--bench); border-right: 1px solid var(--line); }
  h1 { font-size: 20px; font-weight: 600; line-height: 26px; overflow-wrap: anywhere; }
  .sum { margin-top: 10px; font-size: 13px; }
  .sum b { font-size: 15px; font-weight: 600; }
  progress { width: 100%; height: 6px; appearance: none; border: 0; border-radius: 3px; overflow: hidden; background: var(--room); display: block; }
  progress::-webkit-progress-bar { background: var(--track); }
  progress::-webkit-progress-value { background: var(--accent); }
  progress::-moz-progress-bar { background: var(--accent); }
  .ask { margin-top: 10px; background: var(--sheet); border-radius: var(--radius); padding: 8px 10px; display: flex; flex-wrap: wrap; gap: 2px 16px; }
  .ask p { width: 100%; }
  .recipes { display: grid; gap: 12px; margin-top: 14px; }
  .recipe { display: grid; grid-template-columns: 1fr auto; gap: 3px 8px; }
  .pace { grid-column: 1 / -1; }
  .recipe progress { grid-column: 1 / -1; height: 4px; }
  .title { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
  .after { margin-top: 16px; display: grid; gap: 2px; }
  .after .strong:not(:first-child) { margin-top: 6px; }
  .sent { margin-top: 10px; display: flex; flex-wrap: wrap; gap: 2px 10px; align-items: baseline; }
  .sent a { text-decoration: none; }
  .lists { margin-top: 14px; display: flex; gap: 12px; align-items: baseline; }
  .eye { color: var(--eye); }
  .bad { color: var(--bad); overflow-wrap: anywhere; }
  details { margin-top: 16px; }
  summary { cursor: pointer; color: var(--eye); font-weight: 600; }
  details ul { list-style: none; display: grid; gap: 8px; margin-top: 8px; color: var(--dim); overflow-wrap: anywhere; padding: 0; }
</style>
