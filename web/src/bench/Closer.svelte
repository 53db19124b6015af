<script lang="ts">
  import { onHint, paced } from '../api/live';
  import { opening } from '../api/query.svelte';
  import { onEscape } from '../shell/escape';
  import { trying } from '../shell/notices.svelte';
  import { router } from '../shell/router.svelte';
  import Failed from '../ui/Failed.svelte';
  import { CloserState } from './closer.svelte';
  import ColorLook from './ColorLook.svelte';
  import Sharpness from './Sharpness.svelte';
  import Tabs from './Tabs.svelte';
  import Weight from './Weight.svelte';
  import Pick from '../ui/Pick.svelte';

  let { tray, photo, recipe, look }: { tray: number; photo: number; recipe: number; look: string } = $props();

  // Keyed by its address: none of them changes in its life.
  // svelte-ignore state_referenced_locally
  const closer = new CloserState(tray, photo, recipe);
  const opened = opening(() => closer.load());
  const parts = $derived((closer.facts?.parts ?? []).map(({ width, height }, index) => [String(index + 1), `${index + 1}: ${width} × ${height}`] as const));

  $effect(() => {
    const reload = paced(async () => {
      if (!closer.changed) await closer.load();
    }, 400);
    return onHint((hint) => {
      if (hint.kind === 'back' || hint.kind === 'recipe' || (hint.kind === 'tray' && hint.id === tray)) reload();
    });
  });

  $effect(() => closer.note());
  $effect(() => onEscape(() => router.go(`/trays/${tray}`)));
</script>

<svelte:head><title>{closer.bench ? `${closer.bench.photo.name}, ${closer.bench.title}` : 'Bench'} · Upper Tray</title></svelte:head>
<div class="top">
  <a class="dim" href="/trays/{tray}">‹ Board <kbd>Esc</kbd></a>
  <Tabs {tray} {photo} {recipe} on={look} />
  {#if closer.bench}
    <h1 class="title">{closer.bench.photo.name}</h1>
    <span class="dim">for {closer.bench.title} · {closer.bench.size_line}</span>
    {#if parts.length > 1}
      <Pick label="Rendition" value={String(closer.facts?.part)} options={parts} onchange={(which) => void trying(() => closer.look(Number(which)))} />
    {/if}
  {/if}
</div>
{#if opened.problem}
  <Failed query={opened} instead={{ to: `/trays/${tray}`, text: 'Go to the board' }} />
{:else if !closer.bench || !closer.facts}
  <p class="empty dim" aria-busy="true">One moment…</p>
{:else}
  {#key `${closer.facts.width} × ${closer.facts.height} ${closer.facts.part}`}
    {#if look === 'weight'}
      <Weight {closer} />
    {:else if look === 'color'}
      <ColorLook {closer} />
    {:else}
      <Sharpness {closer} />
    {/if}
  {/key}
{/if}

<style>
  .top { height: 40px; flex: none; display: flex; gap: 16px; align-items: center; padding: 0 16px; white-space: nowrap; }
  @media (max-width: 900px) { .top { height: auto; flex-wrap: wrap; padding: 4px 16px; row-gap: 4px; } }
  .top > a { text-decoration: none; }
  .title { font-weight: 600; font-size: 15px; overflow: hidden; text-overflow: ellipsis; }
  .empty { margin: auto; font-size: 13px; }
</style>
