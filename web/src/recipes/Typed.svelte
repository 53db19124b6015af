<script lang="ts">
  import { TextInput } from 'carbon-components-svelte';

  interface Props {
    label: string;
    /** What it is called where the label is empty. */
    name?: string;
    value: string;
    unit?: string;
    placeholder?: string;
    problem?: string | undefined;
    wide?: number;
    onchange: (text: string) => void;
  }
  /** A short field to type into, with what is wrong with it beside it. */
  let { label, name = label, value, unit = '', placeholder = '', problem, wide = 84, onchange }: Props = $props();
</script>

<div class="typed-field" class:bare={!label}>
  {#if label}<span class="label" aria-hidden="true">{label}</span>{/if}
  <span class="field">
    <span style:width="{wide + 20}px"><TextInput labelText={name} hideLabel {value} {placeholder} invalid={problem !== undefined} invalidText={problem ?? ''} on:input={(event) => onchange(String(event.detail ?? ''))} /></span>
    {#if unit}<span class="dim">{unit}</span>{/if}
  </span>
  {#if problem}<p class="problem" aria-hidden="true">{problem}</p>{/if}
</div>

<style>
  .typed-field { display: grid; grid-template-columns: 84px auto 1fr; gap: 4px 12px; align-items: center; font-size: 13px; }
  .typed-field.bare { grid-template-columns: auto 1fr; }
  /* Said by the field itself to whoever hears it; seen below the whole of it. */
  .field :global(.bx--form-requirement) { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); }
  .field { display: inline-flex; gap: 7px; align-items: center; white-space: nowrap; font-size: 12px; }
  .problem { grid-column: 2 / -1; color: var(--bad); font-size: 12px; }
  .bare .problem { grid-column: 1 / -1; }
</style>
