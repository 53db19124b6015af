<script lang="ts">
  import { RadioButton, RadioButtonGroup } from 'carbon-components-svelte';

  interface Props {
    label: string;
    value: string;
    options: readonly (readonly [string, string])[];
    onchange: (value: string) => void;
    /** Whether the label is seen, or only read. */
    labeled?: boolean;
  }
  /** A choice of few, as pills. */
  let { label, value, options, onchange, labeled = true }: Props = $props();
</script>

<div class="choice" class:labeled>
  {#if labeled}<span class="label" aria-hidden="true">{label}</span>{/if}
  <RadioButtonGroup legendText={label} hideLegend selected={value} on:change={(event) => event.detail !== undefined && event.detail !== value && onchange(String(event.detail))}>
    {#each options as [option, name] (option)}<RadioButton value={option} labelText={name} />{/each}
  </RadioButtonGroup>
</div>

<style>
  .choice { font-size: 13px; }
  .labeled { display: grid; grid-template-columns: 84px 1fr; gap: 4px 12px; align-items: center; }
</style>
