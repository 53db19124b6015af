<script lang="ts">
  import { stateWords } from '../words/states';

  /** A state as a shape; its word is beside it or in its label. */
  let { state, size = 12 }: { state: string; size?: number } = $props();
</script>

<svg width={size} height={size} viewBox="0 0 12 12" role="img" aria-label={stateWords(state)} class={state}>
  <title>{stateWords(state)}</title>
  {#if state === 'planned'}
    <circle cx="6" cy="6" r="4.2" fill="none" stroke="currentColor" stroke-width="1.6" />
  {:else if state === 'eye' || state === 'word' || state === 'outline' || state === 'asking'}
    <path d="M.8 6S2.8 2.6 6 2.6 11.2 6 11.2 6 9.2 9.4 6 9.4.8 6 .8 6z" fill="none" stroke="currentColor" stroke-width="1.3" />
    <circle cx="6" cy="6" r="1.7" fill="currentColor" />
  {:else if state === 'waiting'}
    <circle cx="6" cy="6" r="4.2" fill="none" stroke="currentColor" stroke-width="1.6" stroke-dasharray="2 1.6" />
  {:else if state === 'making'}
    <circle cx="6" cy="6" r="4.6" fill="none" stroke="currentColor" stroke-width="1.4" />
    <path d="M6 6V1.4A4.6 4.6 0 0 1 9.3 9.3z" fill="currentColor" />
  {:else if state === 'done' || state === 'made'}
    <circle cx="6" cy="6" r="5.6" fill="currentColor" />
    <path d="M3.3 6.2l1.9 1.9 3.6-3.9" fill="none" stroke="#fff" stroke-width="1.5" />
  {:else if state === 'kept'}
    <circle cx="6" cy="6" r="5.6" fill="currentColor" />
    <path d="M3.4 6h5.2" stroke="#fff" stroke-width="1.6" />
  {:else if state === 'outdated'}
    <path d="M10 4A4.6 4.6 0 1 0 10.6 6.6" fill="none" stroke="currentColor" stroke-width="1.7" />
  {:else if state === 'failed'}
    <path d="M2 2l8 8M10 2l-8 8" stroke="currentColor" stroke-width="2" />
  {:else}
    <path d="M2.5 6h7" stroke="currentColor" stroke-width="1.6" />
  {/if}
</svg>

<style>
  svg { color: var(--dim); flex: none; }
  .done, .made, .making, .outdated, .kept { color: var(--accent); }
  .failed { color: var(--bad); }
  .eye, .word, .outline, .asking { color: var(--eye); }
</style>
