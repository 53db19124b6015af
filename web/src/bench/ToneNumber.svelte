<script lang="ts">
  import { typedNumber } from '../recipes/draft';
  import { dragging } from './dragging';
  import { told, within, type Number as Kind } from './tone.svelte';
  import { TextInput } from 'carbon-components-svelte';

  interface Props {
    kind: Kind;
    value: number;
    onchange: (value: number) => void;
  }
  /** A number of a tone, and how far it is from neutral: typed, by arrows, or drawn along its bar; a double click takes it back. */
  let { kind, value, onchange }: Props = $props();

  let typed = $state<string>();
  const wrong = $derived(typed !== undefined && typeof number(typed) !== 'number');
  /** Where neutral and the value stand on the bar, in per cent. */
  const zero = $derived((-100 * kind.least) / (kind.most - kind.least));
  const here = $derived(zero + (100 * value) / (kind.most - kind.least));

  function number(text: string): number | string {
    return typedNumber(text.replace('−', '-').replace('+', ''));
  }

  function change(text: string): void {
    const next = number(text);
    typed = text;
    if (typeof next === 'number') onchange(within(kind, next));
  }

  function pressed(event: KeyboardEvent): void {
    const by = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (!by) return;
    event.preventDefault();
    typed = undefined;
    onchange(within(kind, value + by * (event.shiftKey ? kind.coarse : kind.step)));
  }

  function draw(event: PointerEvent): void {
    const box = (event.currentTarget as Element).getBoundingClientRect();
    const start = value;
    dragging(event, (by) => onchange(within(kind, Math.round((start + (by.x / box.width) * (kind.most - kind.least)) / kind.step) * kind.step)));
  }
</script>

<div class="number" role="presentation" onkeydown={pressed} ondblclick={() => onchange(0)} onfocusout={() => (typed = undefined)}>
  <span class="title" aria-hidden="true">{kind.title}</span>
  <TextInput labelText={kind.title} hideLabel size="sm" value={typed ?? told(kind, value)} invalid={wrong} on:input={(event) => change(String(event.detail ?? ''))} />
  <span class="bar" role="presentation" title="Draw to change; double click for neutral" onpointerdown={draw}>
    <span class="way" style:left="{Math.min(zero, here)}%" style:width="{Math.abs(here - zero)}%"></span>
    <span class="middle" style:left="calc({zero}% - {zero ? 1 : 0}px)"></span>
  </span>
</div>

<style>
  .number { display: grid; grid-template-columns: 92px 66px minmax(48px, 1fr); gap: 8px; align-items: center; font-size: 13px; }
  .number :global(input) { height: 27px; text-align: right; font-variant-numeric: tabular-nums; }
  .number :global(.bx--form-requirement) { display: none; }
  .bar { position: relative; height: 14px; border-radius: 3px; background: var(--bench); cursor: ew-resize; touch-action: none; }
  .way { position: absolute; top: 0; bottom: 0; background: var(--accent); }
  .middle { position: absolute; top: 0; bottom: 0; width: 2px; background: var(--dim); }
</style>
