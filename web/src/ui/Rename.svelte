<script lang="ts">
  import { untrack } from 'svelte';
  import { TextInput } from 'carbon-components-svelte';

  interface Props {
    name: string;
    label: string;
    most?: number;
    onrename: (name: string) => void;
    onclose: () => void;
  }
  /** A field in place of a name: it has the focus; Enter, or leaving it, keeps what was typed, Esc does not. */
  let { name, label, most = 60, onrename, onclose }: Props = $props();

  const began = untrack(() => name);
  const before = document.activeElement as HTMLElement | null;
  let field = $state<HTMLInputElement | null>(null);
  let over = false;

  $effect(() => {
    field?.focus();
    field?.select();
  });

  function end(keeping: boolean): void {
    if (over) return; // a field that goes is left, too
    over = true;
    const typed = field?.value.trim() ?? '';
    if (keeping && typed && typed !== began) onrename(typed);
    onclose();
  }

  function pressed(event: KeyboardEvent): void {
    event.stopPropagation();
    if (event.key !== 'Enter' && event.key !== 'Escape') return;
    event.preventDefault();
    end(event.key === 'Enter');
    if (before?.isConnected) before.focus();
  }
</script>

<TextInput bind:ref={field} labelText={label} hideLabel size="sm" value={began} maxlength={most} on:blur={() => end(true)} on:keydown={pressed} />
