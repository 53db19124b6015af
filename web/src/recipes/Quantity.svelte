<script lang="ts">
  import Range from '../ui/Range.svelte';
  import { typedNumber } from './draft';
  import Typed from './Typed.svelte';

  interface Props {
    label: string;
    value: unknown;
    min: number;
    max: number;
    step?: number;
    unit?: string;
    problem?: string | undefined;
    onchange: (value: number | string) => void;
  }
  /** A number: by a slider, or typed. */
  let { label, value, min, max, step = 1, unit = '', problem, onchange }: Props = $props();

  const told = $derived(problem && `${problem} It can be ${min} to ${max.toLocaleString('en-US')}.`);
</script>

<div class="quantity">
  <span class="label" aria-hidden="true">{label}</span>
  <Range label="{label}, as a slider" {min} {max} {step} value={typeof value === 'number' ? value : min} {onchange} />
  <Typed label="" name={label} value={String(value ?? '')} wide={36} {unit} problem={told} onchange={(text) => onchange(typedNumber(text))} />
</div>

<style>
  .quantity { display: grid; grid-template-columns: 84px minmax(120px, 260px) 1fr; gap: 4px 12px; align-items: center; font-size: 13px; }
</style>
