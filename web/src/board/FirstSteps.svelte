<script lang="ts">
  import { steps, STEPS, type Step } from '../shell/steps.svelte';

  /** The first visit: three things to do here, each ticked as it is done. */
  const WORDS: Record<Step, [string, string]> = {
    crop: ['Look closely', 'double-click a picture, or press Enter'],
    recipe: ['See what a recipe does', 'press “change” at the head of its column'],
    make: ['Make', 'press the button at the bottom right; originals stay as they are'],
  };
</script>

<section aria-label="First steps" class="steps">
  <ol>
    {#each STEPS as step, i (step)}
      <li class:done={steps.has(step)} class:now={steps.now === step} aria-current={steps.now === step ? 'step' : undefined}>
        <span class="mark" aria-hidden="true">{steps.has(step) ? '✓' : i + 1}</span>
        <span class="strong">{WORDS[step][0]}</span>{#if steps.has(step)}<span class="visually-hidden">, done</span>{:else if steps.now === step}<span class="dim">{WORDS[step][1]}</span>{/if}
      </li>
    {/each}
  </ol>
  <button class="plain" onclick={() => steps.leave()}>{steps.now ? 'Leave the first steps' : 'All done, close'}</button>
</section>

<style>
  .steps { display: flex; gap: 24px; align-items: center; margin: 0 16px 6px; padding: 7px 14px; background: var(--sheet); border-radius: var(--radius); font-size: 13px; flex: none; }
  ol { list-style: none; margin: 0; padding: 0; display: flex; gap: 8px 26px; flex-wrap: wrap; flex: 1; }
  li { display: flex; gap: 8px; align-items: center; color: var(--dim); }
  li.now { color: var(--ink); }
  .mark { width: 20px; height: 20px; border-radius: 50%; border: 1px solid var(--edge); display: grid; place-items: center; font-size: 11px; }
  .now .mark { background: var(--accent); border-color: var(--accent); color: var(--on-accent); font-weight: 600; }
  .done .mark { background: var(--accent-soft); border-color: var(--accent-soft); color: var(--accent-deep); }
  .done .strong { font-weight: 400; }
</style>
