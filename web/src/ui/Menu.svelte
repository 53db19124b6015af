<script lang="ts">
  import type { Snippet } from 'svelte';

  interface Props {
    label: string;
    kind?: string;
    /** Where it opens: below on the right, or above on the left. */
    up?: boolean;
    start?: boolean;
    wide?: number;
    children: Snippet<[() => void]>;
  }
  /** A button with a small sheet of choices behind it. */
  let { label, kind = 'plain', up = false, start = false, wide = 220, children }: Props = $props();

  let open = $state(false);
  let box = $state<HTMLElement>();
  const close = () => (open = false);
</script>

<svelte:window
  onclick={(event) => open && box && !box.contains(event.target as Node) && close()}
  onkeydown={(event) => event.key === 'Escape' && close()}
/>
<div class="menu" bind:this={box}>
  <button class={kind} aria-expanded={open} onclick={() => (open = !open)}>{label}</button>
  {#if open}<div class="sheet" class:up class:start style:width="{wide}px" role="group" aria-label={label}>{@render children(close)}</div>{/if}
</div>

<style>
  .menu { position: relative; }
  .sheet {
    position: absolute; right: 0; top: calc(100% + 6px); z-index: 60; background: var(--sheet); border: 1px solid var(--line);
    border-radius: var(--radius); padding: 8px; display: grid; gap: 2px; box-shadow: 0 6px 18px rgb(0 0 0 / 0.16); max-height: 70vh; overflow: auto;
  }
  .start { right: auto; left: 0; }
  .up { top: auto; bottom: calc(100% + 8px); right: auto; left: 0; }
  .sheet :global(button.item) { padding: 6px 8px; border-radius: 4px; }
  .sheet :global(button.item:hover) { background: var(--bench); }
  .sheet :global(p) { padding: 6px 8px 2px; color: var(--dim); }
</style>
