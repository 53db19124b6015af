<script lang="ts">
  interface Props {
    label: string;
    value: string;
    options: readonly (readonly [string, string])[];
    onchange: (value: string) => void;
  }
  /** A choice of few, as pills. */
  let { label, value, options, onchange }: Props = $props();
</script>

<div class="choice" role="radiogroup" aria-label={label}>
  <span class="label">{label}</span>
  <span class="pills">
    {#each options as [option, name] (option)}
      <button class="pill ring" class:on={value === option} role="radio" aria-checked={value === option} onclick={() => onchange(option)}>{name}</button>
    {/each}
  </span>
</div>

<style>
  .choice { display: grid; grid-template-columns: 84px 1fr; gap: 4px 12px; align-items: center; font-size: 13px; }
  .pills { display: flex; gap: 4px; flex-wrap: wrap; }
  .pill { padding: 2px 10px; font-size: 12px; }
</style>
