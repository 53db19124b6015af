<script lang="ts">
  import { Slider } from 'carbon-components-svelte';

  interface Props {
    label: string;
    value: number;
    min: number;
    max: number;
    step?: number;
    onchange: (value: number) => void;
    labeled?: boolean;
  }
  /** A number between two ends, drawn or by arrows; Shift for larger steps. */
  let { label, value, min, max, step = 1, onchange, labeled = false }: Props = $props();

  const places = $derived(step < 1 ? 1 : 0);
  function changed(event: CustomEvent<number | null>): void {
    const next = Number((event.detail ?? value).toFixed(places));
    if (next !== value) onchange(next);
  }
</script>

<div class="range" class:labeled>
  <Slider labelText={label} aria-label={label} {value} {min} {max} {step} hideTextInput minLabel=" " maxLabel=" " fullWidth on:input={changed} />
</div>

<style>
  .range { min-width: 120px; }
  .range:not(.labeled) :global(.bx--label) { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); }
</style>
