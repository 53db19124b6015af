<script lang="ts">
  import { Menu, MenuDivider, MenuItem } from 'carbon-components-svelte';

  interface Action {
    text: string;
    do?: () => void;
    /** A line above it, with what follows in words. */
    under?: string;
    disabled?: boolean;
  }
  interface Props {
    label: string;
    kind?: string;
    up?: boolean;
    actions: readonly Action[];
  }
  /** A button with a menu of things to do. */
  let { label, kind = 'plain', up = false, actions }: Props = $props();

  let open = $state(false);
  let trigger = $state<HTMLButtonElement | null>(null);

  function chosen(action: Action): void {
    trigger?.focus({ preventScroll: true });
    action.do?.();
  }
</script>

<button class={kind} bind:this={trigger} aria-haspopup="menu" aria-expanded={open} onclick={() => (open = !open)}>{label}</button>
<Menu anchor={trigger} bind:open direction={up ? 'top' : 'bottom'} gapTop={6} gapBottom={6} intrinsicWidth intrinsicAlign="start" labelText={label} maxHeight="70vh" target={document.querySelector('main')}>
  {#each actions as action (action.text)}
    {#if action.under}<MenuDivider />{/if}
    <MenuItem labelText={action.text} disabled={action.disabled ?? false} on:click={() => chosen(action)} />
  {/each}
</Menu>
