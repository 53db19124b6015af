<script lang="ts">
  import { typedColor } from './draft';
  import Typed from './Typed.svelte';

  interface Props {
    label: string;
    value: string;
    problem?: string | undefined;
    onchange: (color: string) => void;
  }
  /** A color: chosen, or typed. */
  let { label, value, problem, onchange }: Props = $props();
</script>

<span class="swatch">
  <input type="color" aria-label="{label}, chosen" value={/^#[0-9a-f]{6}$/.test(value) ? value : '#ffffff'} oninput={(event) => onchange(event.currentTarget.value)} />
  <Typed label="" name={label} {value} wide={60} {problem} onchange={(text) => onchange(typedColor(text))} />
</span>

<style>
  .swatch { display: inline-flex; gap: 6px; align-items: center; }
  input { width: 28px; height: 24px; padding: 0; border: 1px solid var(--edge); border-radius: 4px; background: none; }
</style>
