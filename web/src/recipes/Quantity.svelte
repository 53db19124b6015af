<script lang="ts">
  import { typedNumber } from './draft';

  interface Props {
    label: string;
    value: unknown;
    min: number;
    max: number;
    unit?: string;
    problem?: string | undefined;
    slider?: boolean;
    onchange: (value: number | string) => void;
  }
  let { label, value, min, max, unit = '', problem, slider = true, onchange }: Props = $props();

  const id = $props.id();
</script>

<div class="quantity" class:slider>
  <label for={id}>{label}</label>
  {#if slider}
    <input type="range" {min} {max} value={typeof value === 'number' ? value : min} aria-label="{label}, as a slider" oninput={(event) => onchange(Number(event.currentTarget.value))} />
  {/if}
  <span class="typed" class:wrong={problem}>
    <input {id} type="text" inputmode="numeric" value={String(value ?? '')} aria-invalid={problem ? 'true' : undefined} aria-describedby={problem ? `${id}-problem` : undefined} oninput={(event) => onchange(typedNumber(event.currentTarget.value))} />
    {#if unit}<span class="dim">{unit}</span>{/if}
  </span>
  {#if problem}<p class="problem" id="{id}-problem" role="alert">{problem} Between {min} and {max.toLocaleString('en-US')}.</p>{/if}
</div>

<style>
  .quantity { display: grid; grid-template-columns: 84px 116px; gap: 4px 12px; align-items: center; font-size: 13px; }
  .quantity.slider { grid-template-columns: 84px minmax(120px, 300px) 86px; }
  input[type='range'] { accent-color: var(--accent); width: 100%; }
  .typed { display: flex; gap: 6px; align-items: baseline; background: #f1f1ef; border: 1px solid #93938f; border-radius: 4px; padding: 4px 9px; }
  .typed:focus-within { outline: 2px solid var(--accent); outline-offset: 1px; }
  .typed.wrong { border-color: var(--bad); }
  .typed input { border: 0; background: none; outline: none; width: 100%; min-width: 0; text-align: right; padding: 0; }
  .problem { grid-column: 2 / -1; color: var(--bad); font-size: 12px; }
</style>
