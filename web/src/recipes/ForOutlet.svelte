<script lang="ts">
  import { api, taken, type Schemas } from '../api/client';
  import { showing } from '../shell/notices.svelte';
  import Pick from '../ui/Pick.svelte';
  import type { LineState } from './line.svelte';

  let { line, id, close }: { line: LineState; id: number; close: () => void } = $props();

  /** The outlet and use that the recipe is for: it is held against their rules. */
  type Outlet = Schemas['OutletOut'];
  interface Use {
    use: string;
    rules: Record<string, unknown>;
  }
  let outlets = $state.raw<Outlet[]>([]);

  $effect(() => void showing(async () => {
    outlets = await taken(api.GET('/api/outlets'));
  }));

  const aim = $derived(line.content['outlet'] as { outlet: string; use: string } | undefined);
  const uses = (outlet: Outlet) => (outlet.content['uses'] as Use[] | undefined) ?? [];
  const options = $derived(outlets.flatMap((outlet) => uses(outlet).map((use) => ({ outlet, use, key: `${outlet.id} ${use.use}`, title: `${outlet.name}, ${use.use.toLowerCase()}` }))));
  const now = $derived(options.find((each) => each.outlet.name === aim?.outlet && each.use.use === aim.use));
  const changed = $derived(now ? now.outlet.recipes.some((each) => each.id === id && each.changed) : false);

  function choose(key: string): void {
    const { outlet: _, ...rest } = line.content;
    const found = options.find((each) => each.key === key);
    line.change(found ? { ...rest, outlet: { outlet: found.outlet.name, use: found.use.use, rules: found.use.rules } } : rest);
  }
</script>

<div class="for">
  <Pick label="For" labeled value={now?.key ?? ''} options={[['', aim && !now ? `${aim.outlet}, ${aim.use.toLowerCase()} (sheet deleted)` : 'no outlet'], ...options.map((each): [string, string] => [each.key, each.title])]} onchange={choose} />
  {#if now}
    {#if changed}<p class="eye">The sheet has other rules now. <button class="plain" onclick={() => choose(now.key)}>Take them over</button></p>{/if}
    {#each line.plan?.warnings ?? [] as warning (warning)}<p class="eye">{warning}</p>{:else}<p class="dim">The sample keeps its rules.</p>{/each}
    <p class="links"><a class="plain" href="/outlets/{now.outlet.id}" onclick={close}>Open the sheet</a> <a class="plain" href="/outlets/{now.outlet.id}/rehearsal?recipe={id}&use={encodeURIComponent(now.use.use)}&photo={line.sample ?? ''}" onclick={close}>Rehearse it there</a></p>
  {:else}<p class="dim">Choose where it goes, and the board warns where a rendition breaks the rules there.</p>{/if}
</div>

<style>
  .for { display: grid; gap: 8px; padding: 4px; }
  .eye { color: var(--eye); line-height: 17px; }
  .links { display: flex; gap: 16px; }
  .links a { text-decoration: none; }
</style>
