<script module lang="ts">
  import type { Component } from 'svelte';

  // The board is there at once; other pages come when they are opened, or when the browser has nothing else to do.
  const PAGES = {
    archive: () => import('../trays/Archive.svelte'),
    bench: () => import('../bench/Bench.svelte'),
    closer: () => import('../bench/Closer.svelte'),
    inlets: () => import('../inlets/Inlets.svelte'),
    line: () => import('../recipes/Line.svelte'),
    deliveries: () => import('../deliveries/Deliveries.svelte'),
    link: () => import('../links/LinkPage.svelte'),
    links: () => import('../links/Links.svelte'),
    marks: () => import('../recipes/Marks.svelte'),
    outlet: () => import('../outlets/OutletPage.svelte'),
    outlets: () => import('../outlets/Outlets.svelte'),
    outline: () => import('../bench/OutlineLook.svelte'),
    questions: () => import('../questions/Questions.svelte'),
    recipes: () => import('../recipes/Recipes.svelte'),
    rehearsal: () => import('../outlets/Rehearsal.svelte'),
    run: () => import('../runs/RunPage.svelte'),
    runs: () => import('../runs/Runs.svelte'),
    sheet: () => import('../sheet/Sheet.svelte'),
    tone: () => import('../bench/ToneLook.svelte'),
    storage: () => import('../storage/Storage.svelte'),
  };
  export type PageName = keyof typeof PAGES;

  // eslint-disable-next-line @typescript-eslint/no-explicit-any -- each page has properties of its own
  const here = new Map<PageName, Component<any>>();

  async function get(name: PageName): Promise<void> {
    here.set(name, (await PAGES[name]()).default);
  }

  /** Get the other pages, one after the other. */
  export async function getAll(): Promise<void> {
    for (const name of Object.keys(PAGES) as PageName[]) if (!here.has(name)) await get(name);
  }
</script>

<script lang="ts">
  let { name, ...rest }: { name: PageName; [more: string]: unknown } = $props();

  // svelte-ignore state_referenced_locally
  let found = $state.raw(here.get(name));
  let failed = $state(false);

  $effect(() => {
    const wanted = name;
    found = here.get(wanted);
    if (!found) load(wanted);
  });

  function load(wanted: PageName): void {
    failed = false;
    get(wanted).then(
      () => wanted === name && (found = here.get(wanted)),
      () => (failed = true),
    );
  }
</script>

{#if found}
  {@const Found = found}
  <Found {...rest} />
{:else if failed}
  <div class="empty">
    <p>This page could not be loaded. Is the server still running?</p>
    <button class="press" onclick={() => load(name)}>Try again</button>
  </div>
{:else}
  <p class="empty dim" aria-busy="true">One moment…</p>
{/if}

<style>
  .empty { margin: auto; display: grid; gap: 14px; justify-items: center; font-size: 13px; }
</style>
