<script lang="ts">
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

  const id = $props.id();
</script>

<div class="typed-field" class:bare={!label}>
  {#if label}<label for={id}>{label}</label>{/if}
  <span class="typed" class:wrong={problem}>
    <input {id} type="text" aria-label={label ? undefined : name} {value} {placeholder} style:width="{wide}px" aria-invalid={problem ? 'true' : undefined} aria-describedby={problem ? `${id}-problem` : undefined} oninput={(event) => onchange(event.currentTarget.value)} />
    {#if unit}<span class="dim">{unit}</span>{/if}
  </span>
  {#if problem}<p class="problem" id="{id}-problem" role="alert">{problem}</p>{/if}
</div>

<style>
  .typed-field { display: grid; grid-template-columns: 84px auto 1fr; gap: 4px 12px; align-items: center; font-size: 13px; }
  .typed-field.bare { grid-template-columns: auto 1fr; }
  .typed { display: inline-flex; gap: 6px; align-items: baseline; background: #f1f1ef; border: 1px solid #93938f; border-radius: 4px; padding: 3px 9px; white-space: nowrap; }
  .typed:focus-within { outline: 2px solid var(--accent); outline-offset: 1px; }
  .typed.wrong { border-color: var(--bad); }
  input { border: 0; background: none; outline: none; padding: 0; }
  input::placeholder { color: #74746f; }
  .problem { grid-column: 2 / -1; color: var(--bad); font-size: 12px; }
  .bare .problem { grid-column: 1 / -1; }
</style>
