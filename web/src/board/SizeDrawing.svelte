<script lang="ts">
  import type { Recipe } from '../api/client';

  /** A recipe's size as a small drawing: which edge is given, or the box that holds it. */
  let { recipe }: { recipe: Pick<Recipe, 'content'> } = $props();

  const by = $derived((recipe.content['size'] as { by?: string } | undefined)?.by ?? 'own');
</script>

<svg width="28" height="23" viewBox="0 0 32 26" aria-hidden="true">
  {#if by === 'box'}
    <rect x="3.5" y="1.5" width="25" height="23" class="edge" stroke-dasharray="2 2" />
    <rect x="3.5" y="5.5" width="25" height="15" class="picture" />
  {:else if by === 'width'}
    <path d="M3 4v18M29 4v18M3 13h26M7 10l-4 3 4 3M25 10l4 3-4 3" class="edge strong" />
  {:else if by === 'height'}
    <path d="M8 2h16M8 24h16M16 2v22M13 6l3-4 3 4M13 20l3 4 3-4" class="edge strong" />
  {:else if by === 'long-edge'}
    <rect x="3.5" y="8.5" width="25" height="16" class="picture" />
    <path d="M3.5 4h25M3.5 2v4M28.5 2v4" class="edge strong" />
  {:else if by === 'short-edge'}
    <rect x="8.5" y="4.5" width="21" height="17" class="picture" />
    <path d="M4 4.5v17M2 4.5h4M2 21.5h4" class="edge strong" />
  {:else}
    <rect x="4.5" y="4.5" width="23" height="17" class="picture" />
  {/if}
</svg>

<style>
  svg { flex: none; }
  .edge { fill: none; stroke: var(--accent); stroke-width: 1; }
  .strong { stroke-width: 1.5; }
  .picture { fill: var(--accent-soft); stroke: var(--accent); stroke-width: 1.3; }
</style>
