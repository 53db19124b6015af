<script lang="ts">
  import { Select, SelectItem } from 'carbon-components-svelte';

  interface Props {
    label: string;
    value: string;
    options: readonly (readonly [string, string])[];
    onchange: (value: string) => void;
    /** Whether its label is seen, or only read. */
    labeled?: boolean;
    disabled?: boolean;
  }
  /** One of several, from a list. */
  let { label, value, options, onchange, labeled = false, disabled = false }: Props = $props();

  function changed(event: Event): void {
    const select = event.target as HTMLSelectElement;
    // Keys of the page work again at once.
    if (!labeled) select.blur();
    onchange(select.value);
  }
</script>

<Select labelText={label} hideLabel={!labeled} selected={value} {disabled} noLabel={false} on:change={changed}>
  {#each options as [option, name] (option)}<SelectItem value={option} text={name} />{/each}
</Select>
