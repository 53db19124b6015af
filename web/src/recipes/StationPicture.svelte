<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { Photo, Schemas } from '../api/client';
  import { photoPicture } from '../ui/pictures';
  import { draftPicture } from './line.svelte';
  import type { Content } from './draft';
  import Steady from './Steady.svelte';

  interface Props {
    photo: Photo;
    plan: Schemas['DraftPlanOut'];
    content: Content;
    recipe: number;
    /** The room there is, in CSS pixels. */
    width: number;
    height: number;
    alt: string;
    caption?: string;
    /** The photo itself with what is shown of it, in place of the rendition. */
    source?: boolean;
    /** What lies over the picture, to be changed there. */
    over?: Snippet<[Schemas['DraftPlanOut']]> | undefined;
  }
  /** One picture of a station, in its true shape. */
  let { photo, plan, content, recipe, width, height, alt, caption = '', source = false, over }: Props = $props();

  const whole = $derived(source ? { width: photo.width, height: photo.height } : plan.canvas);
  const scale = $derived(Math.min(width / whole.width, height / whole.height, source ? 10 : 1));
  const shown = $derived({ width: Math.max(2, Math.round(whole.width * scale)), height: Math.max(2, Math.round(whole.height * scale)) });
  const edge = $derived(Math.min(960, Math.round(Math.max(shown.width, shown.height) * Math.min(devicePixelRatio, 2))));
  const src = $derived(source ? photoPicture(photo, 960) : draftPicture(photo.id, content, edge, recipe));
</script>

<figure style:width="{shown.width}px" style:height="{shown.height}px">
  <Steady {src} {alt} {...shown} />
  {#if source}
    <svg viewBox="0 0 1 1" preserveAspectRatio="none" aria-hidden="true">
      <path d="M0 0H1V1H0z M{plan.part.x} {plan.part.y}v{plan.part.height}h{plan.part.width}v{-plan.part.height}z" class="out" fill-rule="evenodd" />
      <rect x={plan.part.x} y={plan.part.y} width={plan.part.width} height={plan.part.height} />
    </svg>
  {:else if plan.columns * plan.rows > 1}
    <svg viewBox="0 0 {plan.columns} {plan.rows}" preserveAspectRatio="none" aria-hidden="true">
      {#each { length: plan.columns - 1 }, i (i)}<path d="M{i + 1} 0V{plan.rows}" class="cut" />{/each}
      {#each { length: plan.rows - 1 }, i (i)}<path d="M0 {i + 1}H{plan.columns}" class="cut" />{/each}
    </svg>
  {/if}
  {@render over?.(plan)}
  {#if caption}<figcaption>{caption}</figcaption>{/if}
</figure>

<style>
  figure { margin: 0; position: relative; line-height: 0; flex: none; }
  svg { position: absolute; inset: 0; width: 100%; height: 100%; }
  .out { fill: rgb(205 205 203 / 0.62); }
  rect { fill: none; stroke: #fff; stroke-width: 1.5px; vector-effect: non-scaling-stroke; }
  .cut { stroke: var(--sheet); stroke-width: 4px; vector-effect: non-scaling-stroke; }
  figcaption { position: absolute; left: 8px; bottom: 8px; background: rgb(30 30 29 / 0.82); color: #f1f1ef; border-radius: 10px; padding: 2px 10px; line-height: 17px; font-size: 11px; white-space: nowrap; }
</style>
