<script lang="ts">
  import type { Snippet } from 'svelte';
  import { Table, TableBody, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';

  interface Props {
    /** Of each column: what stands over it, and whether it holds numbers, or what can be done with a row. */
    heads: { text: string; holds?: 'number' | 'acts' }[];
    /** Rows as strips of their own, or parted by lines. */
    rows?: 'strips' | 'lines';
    children: Snippet;
  }
  const { heads, rows = 'strips', children }: Props = $props();
</script>

<div class={rows}>
  <Table>
    <TableHead>
      <TableRow>
        {#each heads as head, i (i)}
          <TableHeader class={head.holds}>{#if head.holds === 'acts'}<span class="visually-hidden">{head.text}</span>{:else}{head.text}{/if}</TableHeader>
        {/each}
      </TableRow>
    </TableHead>
    <TableBody>{@render children()}</TableBody>
  </Table>
</div>

<style>
  div { width: 100%; }
  div :global(table) { width: 100%; border-collapse: separate; border-spacing: 0; font-size: 12px; }
  div :global(th) { text-align: left; font-weight: 400; font-size: 12px; color: var(--dim); padding: 3px 12px; }
  div :global(td) { padding: 7px 12px; vertical-align: baseline; }
  div :global(td a) { text-decoration: none; }
  div :global(td p) { line-height: 17px; }
  div :global(:is(th, td).number) { text-align: right; white-space: nowrap; font-variant-numeric: tabular-nums; }
  div :global(td.acts) { text-align: right; white-space: nowrap; }
  div :global(td.wide) { overflow-wrap: anywhere; }
  div :global(td.short) { white-space: nowrap; }
  .strips :global(table) { border-spacing: 0 3px; }
  .strips :global(td) { background: var(--bench); }
  .lines :global(td) { border-top: 1px solid var(--line); }
  .lines :global(:is(th, td):first-child) { padding-left: 0; }
</style>
