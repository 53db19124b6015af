<script lang="ts">
  import { Popover } from 'carbon-components-svelte';
  import type { Snippet } from 'svelte';
  import { onEscape } from '../shell/escape';

  interface Props {
    label: string;
    kind?: string;
    wide?: number;
    up?: boolean;
    children: Snippet<[() => void]>;
  }
  /** A button with a small sheet of settings behind it. */
  let { label, kind = 'plain', wide = 240, up = false, children }: Props = $props();

  let open = $state(false);
  let trigger = $state<HTMLButtonElement>();

  function close(): void {
    open = false;
    trigger?.focus({ preventScroll: true });
  }

  $effect(() => (open ? onEscape(close) : undefined));
</script>

<div class="panel" class:up>
  <button class={kind} bind:this={trigger} aria-expanded={open} onclick={() => (open = !open)}>{label}</button>
  <!-- The button is inside, so that a press on it is none outside. -->
  <Popover bind:open relative={false} align={up ? 'top-right' : 'bottom-right'}>
    {#if open}<div class="sheet" style:width="{wide}px" role="group" aria-label={label}>{@render children(close)}</div>{/if}
  </Popover>
</div>
<svelte:window
  onpointerdown={(event) => {
    if (open && !(event.target as Element).closest('[role=menu]') && !trigger?.parentElement?.contains(event.target as Node)) open = false;
  }}
/>

<style>
  .panel { position: relative; }
  .panel :global(.bx--popover) { position: absolute; right: 0; top: calc(100% + 6px); left: auto; bottom: auto; transform: none; z-index: 60; width: auto; height: auto; inset-block-end: auto; }
  .panel.up :global(.bx--popover) { top: auto; bottom: calc(100% + 6px); inset-block-end: calc(100% + 6px); }
  .panel :global(.bx--popover-contents) { position: static; transform: none; max-width: none; }
  .sheet { padding: 8px; display: grid; gap: 2px; max-height: 70vh; overflow: auto; }
  .sheet :global(button.item), .sheet :global(a.item) { padding: 6px 8px; border-radius: 4px; text-decoration: none; }
  .sheet :global(.item:hover) { background: var(--bench); }
</style>
