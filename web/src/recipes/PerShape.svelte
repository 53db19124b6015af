<script lang="ts">
  import { station, typedNumber, valuesOf, withStation } from './draft';
  import type { LineState } from './line.svelte';

  /** Three small shapes to fill in: what landscape photos get, and portraits and squares where they get something else. */
  let { line, unit }: { line: LineState; unit: string } = $props();

  const size = $derived(station(line.content, 'size') ?? {});
  const values = $derived(valuesOf(String(size['by'])));
  const shapes = [
    { name: 'landscape', width: 78, height: 50 },
    { name: 'portrait', width: 58, height: 72 },
    { name: 'square', width: 62, height: 62 },
  ] as const;

  function valueOf(shape: string, value: string): unknown {
    if (shape === 'landscape') return size[value];
    return (size[shape] as Record<string, unknown> | undefined)?.[value];
  }

  function set(shape: string, value: string, text: string): void {
    const typed = typedNumber(text);
    if (shape === 'landscape') {
      line.change(withStation(line.content, 'size', { ...size, [value]: typed }));
      return;
    }
    const before = (size[shape] as Record<string, unknown> | undefined) ?? Object.fromEntries(values.map((name) => [name, size[name]]));
    const { [shape]: _, ...rest } = size;
    const emptied = typed === '';
    line.change(withStation(line.content, 'size', emptied ? rest : { ...rest, [shape]: { ...before, [value]: typed } }));
  }

  const problem = (shape: string, value: string) => line.problems[shape === 'landscape' ? `size.${value}` : `size.${shape}.${value}`];
  const problems = $derived(shapes.flatMap((shape) => values.map((value) => problem(shape.name, value)).filter((each) => each !== undefined)));
</script>

<div class="shapes">
  <span class="label">{values.length > 1 ? 'Width × height' : 'Value'}</span>
  {#each shapes as shape (shape.name)}
    {@const own = shape.name === 'landscape' || size[shape.name] !== undefined}
    <div class="one">
      <div class="shape" class:own style:width="{shape.width}px" style:height="{shape.height}px">
        {#each values as value, i (value)}
          {#if i}<span class="times">×</span>{/if}
          <input
            type="text"
            inputmode="decimal"
            aria-label="{value[0]?.toUpperCase()}{value.slice(1)}{shape.name === 'landscape' ? '' : `, ${shape.name}`}"
            aria-invalid={problem(shape.name, value) ? 'true' : undefined}
            placeholder={String(size[value] ?? '')}
            value={String(valueOf(shape.name, value) ?? '')}
            oninput={(event) => set(shape.name, value, event.currentTarget.value)}
          />
        {/each}
        <span class="dim unit">{unit}</span>
      </div>
      <span class="dim">{shape.name}{own ? '' : ': the same'}</span>
    </div>
  {/each}
</div>
{#each problems as each (each)}<p class="problem" role="alert">{each}</p>{/each}

<style>
  .shapes { display: flex; gap: 14px; align-items: end; font-size: 13px; }
  .label { width: 84px; align-self: center; margin-right: -2px; }
  .one { display: grid; justify-items: center; gap: 3px; font-size: 11px; }
  .shape { border: 1.5px dashed var(--edge); display: flex; flex-direction: column; align-items: center; justify-content: center; border-radius: 2px; }
  .shape.own { border-style: solid; border-color: var(--accent); background: var(--accent-soft); }
  .shape:focus-within { outline: 2px solid var(--accent); outline-offset: 1px; }
  input { width: 50px; border: 0; background: none; text-align: center; font-weight: 600; font-size: 13px; line-height: 16px; padding: 0; outline: none; }
  input::placeholder { color: #74746f; font-weight: 400; }
  input[aria-invalid] { color: var(--bad); }
  .times { line-height: 8px; font-size: 10px; }
  .unit { font-size: 10px; line-height: 12px; }
  .problem { color: var(--bad); }
</style>
