<script lang="ts">
  import { Checkbox } from 'carbon-components-svelte';
  import Choice from '../recipes/Choice.svelte';
  import Typed from '../recipes/Typed.svelte';
  import { asText, fromText, type Field } from './fields';

  let { field, value, problem, onchange }: { field: Field; value: unknown; problem: string | undefined; onchange: (value: unknown) => void } = $props();

  /** What is typed stays as it was typed while it means the same. */
  let typed = $state<string>();
  const text = $derived(typed !== undefined && JSON.stringify(fromText(field, typed) ?? null) === JSON.stringify(value ?? null) ? typed : asText(field, value));
  const WIDE = { pair: 96, text: 64, number: 64, widths: 120, choice: 0, check: 0 };

  function type(next: string): void {
    typed = next;
    onchange(fromText(field, next));
  }
</script>

{#if field.kind === 'choice'}
  <Choice label={field.label} value={String(value)} options={field.options ?? []} {onchange} />
{:else if field.kind === 'check'}
  <Checkbox labelText={field.label} checked={value === true} on:check={(event) => event.detail !== (value === true) && onchange(event.detail)} />
{:else}
  <Typed label={field.label} value={text} placeholder={field.hint ?? ''} unit={field.unit ?? (field.kind === 'pair' ? 'px' : '')} wide={WIDE[field.kind]} {problem} onchange={type} />
{/if}
