<script lang="ts">
  import CoveredParts, { type Area } from '../ui/CoveredParts.svelte';

  interface Props {
    src: string | undefined;
    alt: string;
    page: string;
    /** Width by height of the picture as it is seen. */
    ratio: number;
    covered: readonly Area[];
    phone: boolean;
  }
  /** A picture on a page as the outlet lays it out: drawn, so that only the place of the picture is true. */
  let { src, alt, page, ratio, covered, phone }: Props = $props();
</script>

{#snippet picture()}
  <span class="seen" style:aspect-ratio={ratio}>
    {#if src}<img {src} {alt} draggable="false" />{/if}
    <CoveredParts areas={covered} />
  </span>
{/snippet}

<div class="page {page}" class:phone={phone || page === 'story'}>
  {#if page === 'grid'}
    <span class="line head"></span>
    <div class="squares">{#each { length: 9 }, i (i)}{#if i === 4}{@render picture()}{:else}<span class="other"></span>{/if}{/each}</div>
  {:else if page === 'story'}
    {@render picture()}
  {:else if page === 'article'}
    <span class="line head"></span>{@render picture()}<span class="line"></span><span class="line"></span><span class="line short"></span>
  {:else}
    <span class="who"><span class="dot"></span><span class="line short"></span></span>{@render picture()}<span class="line"></span><span class="line short"></span>
    <span class="next"></span>
  {/if}
</div>

<style>
  .page { width: 100%; height: 100%; background: #f3f3f1; padding: 12px 9%; display: flex; flex-direction: column; gap: 8px; overflow: hidden; align-items: stretch; }
  .phone { width: auto; aspect-ratio: 390 / 780; max-width: 100%; margin: 0 auto; padding: 10px; border-radius: 16px; border: 4px solid #1f1f1e; }
  .story { padding: 0; background: #1f1f1e; justify-content: center; }
  .seen { position: relative; display: block; width: 100%; flex: none; background: #c9c9c6; }
  .article .seen, .feed .seen { max-height: 74%; width: auto; max-width: 100%; align-self: center; }
  .phone .seen { width: 100%; max-height: none; }
  img { position: absolute; inset: 0; width: 100%; height: 100%; object-fit: cover; }
  .squares { display: grid; grid-template-columns: repeat(3, 1fr); gap: 3px; }
  .squares .seen, .other { aspect-ratio: 1 !important; background: #d5d5d2; }
  .line { height: 7px; border-radius: 4px; background: #d3d3d0; flex: none; }
  .line.head { width: 40%; height: 11px; }
  .line.short { width: 55%; }
  .who { display: flex; gap: 8px; align-items: center; }
  .dot { width: 18px; height: 18px; border-radius: 50%; background: #c9c9c6; }
  .next { flex: 1; min-height: 20px; background: #dfdfdc; }
</style>
