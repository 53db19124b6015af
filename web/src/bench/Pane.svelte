<script lang="ts">
  import { untrack } from 'svelte';
  import { showing } from '../shell/notices.svelte';
  import { Fresh, type CloserState, type Window } from './closer.svelte';

  interface Props {
    closer: CloserState;
    what: string;
    /** What is asked for besides the window; a change asks anew. */
    more: Record<string, unknown>;
    window: Window;
    zoom: number;
    /** How far the hand has dragged since the window was asked for, in screen pixels. */
    drag?: { x: number; y: number };
    alt: string;
    caption?: string;
    soft?: boolean;
  }
  /** A part of the rendition at its own pixels: soft at once from a working copy, exact as soon as it is there. */
  let { closer, what, more, window: part, zoom, drag = { x: 0, y: 0 }, alt, caption = '', soft = true }: Props = $props();

  const fresh = new Fresh();
  let shown = $state<Window>();
  const key = $derived(JSON.stringify([closer.content, closer.strength, what, more, part]));
  const facts = $derived(closer.facts);

  $effect(() => {
    void key;
    untrack(() => {
      const asked = part;
      void showing(() =>
        fresh.show(async (signal) => {
          const src = await closer.picture(what, { ...more, ...asked, ...closer.next(`${what}-${alt}`) }, signal);
          shown = asked;
          return src;
        }),
      );
    });
  });
  $effect(() => () => fresh.drop());
</script>

<figure style:width="{part.width * zoom}px" style:height="{part.height * zoom}px" data-exact={fresh.exact ? 'yes' : 'no'}>
  {#if soft && facts && !fresh.src}
    <img class="soft" src={closer.soft(960)} alt="" style:width="{facts.width * zoom}px" style:height="{facts.height * zoom}px" style:left="{-part.x * zoom}px" style:top="{-part.y * zoom}px" />
  {/if}
  {#if fresh.src && shown}
    <img src={fresh.src} {alt} draggable="false" style:width="{shown.width * zoom}px" style:left="{(shown.x - part.x) * zoom + drag.x}px" style:top="{(shown.y - part.y) * zoom + drag.y}px" class:sharp={zoom > 1} />
  {/if}
  {#if caption}<figcaption>{caption}</figcaption>{/if}
</figure>

<style>
  figure { margin: 0; position: relative; overflow: hidden; line-height: 0; background: var(--empty); }
  img { position: absolute; max-width: none; height: auto; }
  .sharp { image-rendering: pixelated; }
  figcaption { position: absolute; left: 8px; bottom: 8px; background: rgb(30 30 29 / 0.82); color: #f1f1ef; border-radius: 10px; padding: 2px 10px; line-height: 17px; font-size: 11px; white-space: nowrap; }
</style>
