<script lang="ts">
  import { api, taken, type Starter } from '../api/client';
  import SizeDrawing from '../ui/SizeDrawing.svelte';
  import { showing } from '../shell/notices.svelte';
  import { BLANK, type Content } from './draft';

  /** What a new recipe may begin from. */
  let { busy, oncreate }: { busy: boolean; oncreate: (content: Content) => void } = $props();

  let starters = $state.raw<Starter[]>([]);
  $effect(() => void showing(async () => void (starters = await taken(api.GET('/api/recipes/starters')))));
</script>

<section class="starters" aria-label="Start from">
  <button class="starter" disabled={busy} onclick={() => oncreate(BLANK)}>
    <span class="plus" aria-hidden="true">+</span>
    <span><span class="strong">Blank</span><br /><span class="dim">1600 px on the long edge; everything else is yours to choose.</span></span>
  </button>
  {#each starters as starter (starter.title)}
    <button class="starter" disabled={busy} title={starter.sentence.map((phrase) => phrase.text).join('')} onclick={() => oncreate(starter.content)}>
      <SizeDrawing drawing={starter.drawing} />
      <span><span class="strong">{starter.title}</span><br /><span class="dim">{starter.note}</span></span>
    </button>
  {/each}
</section>

<style>
  .starters { display: grid; grid-template-columns: repeat(auto-fill, minmax(290px, 1fr)); gap: var(--gap); margin-bottom: 16px; }
  .starter { display: flex; gap: 12px; align-items: flex-start; padding: 12px; background: none; box-shadow: inset 0 0 0 1px var(--edge-soft); border-radius: var(--radius); line-height: 17px; }
  .starter:hover { background: var(--sheet); }
  .plus { width: 28px; text-align: center; font-size: 20px; color: var(--accent); line-height: 22px; }
</style>
