<script lang="ts">
  import { untrack } from 'svelte';
  import { api, taken, type Schemas } from '../api/client';
  import Choice from '../recipes/Choice.svelte';
  import { pageKey } from '../shell/keys.svelte';
  import { showing } from '../shell/notices.svelte';
  import { Fresh, type CloserState } from './closer.svelte';

  let { closer }: { closer: CloserState } = $props();

  const VIEWS = [['after', 'after'], ['before', 'before'], ['marked', 'outside the gamut']] as const;
  let view = $state<(typeof VIEWS)[number][0]>('after');
  let colors = $state.raw<Schemas['ColorsOut']>();
  let room = $state({ width: 900, height: 600 });
  const fresh = new Fresh();
  const key = $derived(JSON.stringify([closer.content, closer.strength]));
  const facts = $derived(closer.facts);
  const scale = $derived(facts ? Math.min(1, (room.width - 32) / facts.width, (room.height - 16) / facts.height) : 1);

  $effect(() => {
    const wanted = view;
    void key;
    untrack(() => void showing(() => fresh.show((signal) => closer.picture('color', { view: wanted, ...closer.next('color') }, signal))));
  });
  $effect(() => {
    void key;
    const body = untrack(() => closer.body());
    void showing(async () => void (colors = await taken(api.POST('/api/trays/{number}/closer/{photo}/{recipe}/colors', { params: { path: { number: closer.tray, photo: closer.photo, recipe: closer.recipe } }, body }))));
  });
  $effect(() => () => fresh.drop());

  function pressed(event: KeyboardEvent): void {
    const key = pageKey(event);
    if (key === 'b') view = view === 'before' ? 'after' : 'before';
    else if (key === 'm') view = view === 'marked' ? 'after' : 'marked';
  }
</script>

<svelte:window onkeydown={pressed} />
<div class="bench">
  <div class="stage" bind:clientWidth={room.width} bind:clientHeight={room.height}>
    {#if facts}
      <div class="holder" style:width="{facts.width * scale}px" style:height="{facts.height * scale}px" data-exact={fresh.exact ? 'yes' : 'no'}>
        {#if fresh.src}<img src={fresh.src} alt="the rendition, {VIEWS.find(([name]) => name === view)?.[1]}" />{:else}<img src={closer.soft(960)} alt="" />{/if}
      </div>
    {/if}
  </div>
  <aside>
    <h2>Profiles</h2>
    {#if colors}
      <dl>
        <dt>the photo</dt>
        <dd>{colors.source}</dd>
        <dt>the rendition</dt>
        <dd>{colors.target}</dd>
        <dt>converted</dt>
        <dd>{colors.converts ? 'yes' : 'no'}</dd>
        <dt>outside the gamut</dt>
        <dd class:eye={colors.share > 0.001}>{colors.share === 0 ? 'nothing' : `${(100 * colors.share).toFixed(colors.share < 0.01 ? 2 : 1)} %`}</dd>
      </dl>
      {#if colors.warning}<p class="warning" role="status">{colors.warning}</p>{/if}
      <p class="dim">
        {#if colors.share > 0.001}The marked colors are more vivid than {colors.target} can hold; they come out as its nearest. Choose a wider space or another intent in the recipe where that shows.
        {:else}Every color of this picture fits into {colors.target}.{/if}
      </p>
      <a class="plain" href="/recipes/{closer.recipe}">Open the recipe</a>
    {:else}<p class="dim" aria-busy="true">One moment…</p>{/if}
  </aside>
</div>
<footer class="foot">
  <div class="tools">
    <Choice label="View" labeled={false} value={view} options={VIEWS} onchange={(to) => (view = VIEWS.find(([name]) => name === to)?.[0] ?? view)} />
    <span class="dim"><kbd>B</kbd> before and after · <kbd>M</kbd> mark. Each is shown with its own profile; how wide its colors are depends on this screen.</span>
  </div>
</footer>

<style>
  .bench { flex: 1; min-height: 0; display: flex; }
  .stage { flex: 1; min-width: 0; display: grid; place-items: center; overflow: hidden; }
  .holder { background: var(--empty); }
  img { width: 100%; height: 100%; display: block; }
  aside { width: min(312px, 45%); flex: none; padding: 14px 16px; overflow: auto; background: var(--bench); display: flex; flex-direction: column; gap: 10px; }
  h2 { font-weight: 600; font-size: 13px; }
  dl { display: grid; grid-template-columns: auto 1fr; gap: 3px 12px; }
  dt { color: var(--dim); }
  dd { font-weight: 600; text-align: right; overflow-wrap: anywhere; }
  .eye { color: var(--eye); }
  .warning { background: var(--eye-soft); color: var(--eye); border-radius: var(--radius); padding: 6px 10px; line-height: 17px; }
  p { line-height: 17px; }
  .tools { display: flex; gap: 16px; align-items: center; min-width: 0; overflow: hidden; white-space: nowrap; }
</style>
