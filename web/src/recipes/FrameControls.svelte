<script lang="ts">
  import Choice from './Choice.svelte';
  import { station, typedColor, typedNumber, withStation } from './draft';
  import type { LineState } from './line.svelte';
  import Typed from './Typed.svelte';

  let { line }: { line: LineState } = $props();

  const here = $derived(station(line.content, 'frame') ?? { way: 'keep' });
  const way = $derived(String(here['way']));
  const exact = $derived(station(line.content, 'size')?.['by'] === 'exact');
  const shape = $derived(String(here['shape'] ?? ''));
  const anchor = $derived(String(here['anchor'] ?? 'middle'));
  const fill = $derived(String(here['fill'] ?? '#ffffff'));
  const panels = $derived((here['panels'] as { columns?: unknown; rows?: unknown } | undefined) ?? {});
  const pads = $derived(way === 'pad' || (way === 'bounds' && here['outside'] === 'pad'));
  const SHAPES = ['1:1', '4:5', '3:2', '16:9', '3:1', '9:16'];
  const NINE = ['top-left', 'top', 'top-right', 'left', 'middle', 'right', 'bottom-left', 'bottom', 'bottom-right'];
  const kind = $derived(fill.startsWith('#') ? 'color' : fill);

  function set(changes: Record<string, unknown>): void {
    const next = { ...here, ...changes };
    line.change(withStation(line.content, 'frame', Object.fromEntries(Object.entries(next).filter(([, value]) => value !== undefined))));
  }

  function setPanels(name: 'columns' | 'rows', text: string): void {
    const next = { columns: panels.columns ?? 1, rows: panels.rows ?? 1, [name]: typedNumber(text) };
    const one = next.columns === 1 && next.rows === 1;
    if (one && way === 'keep') line.change(withStation(line.content, 'frame', undefined));
    else set({ panels: one ? undefined : next });
  }
</script>

<Choice
  label="Shape"
  value={way}
  options={[['keep', 'keep'], ['crop', 'crop'], ['pad', 'pad'], ['bounds', 'keep within limits'], ['stretch', 'stretch']]}
  onchange={(value) => line.frame(value)}
/>
{#if way === 'bounds'}
  <div class="pair">
    <Typed label="Narrowest" value={String(here['narrowest'])} problem={line.problems['frame.narrowest']} onchange={(narrowest) => set({ narrowest })} />
    <Typed label="" name="Widest" unit="to" value={String(here['widest'])} problem={line.problems['frame.widest']} onchange={(widest) => set({ widest })} />
  </div>
  <Choice label="Others" value={String(here['outside'])} options={[['crop', 'crop'], ['pad', 'pad']]} onchange={(outside) => set({ outside })} />
{:else if way !== 'keep' && exact}
  <p class="dim">To the exact pixels that the size station gives.</p>
{:else if way !== 'keep'}
  <div class="line-of">
    <span class="label">To</span>
    <Typed label="" name="Shape, typed" value={shape} wide={62} placeholder="3:2 or 1920x640" problem={line.problems['frame.shape']} onchange={(text) => set({ shape: text.trim().replace('×', 'x').replaceAll(' ', '') })} />
    <span class="pills">
      {#each SHAPES as each (each)}
        <button class="pill ring" class:on={shape === each} aria-pressed={shape === each} onclick={() => set({ shape: each })}>{each === '1:1' ? 'square' : each.replace(':', ' : ')}</button>
      {/each}
    </span>
  </div>
{/if}
{#if way === 'crop' || way === 'bounds' || way === 'pad'}
  <div class="line-of">
    <span class="label">{pads ? 'Placed' : 'Around'}</span>
    <span class="nine" role="group" aria-label="Anchor">
      {#each NINE as each (each)}
        <button class:on={anchor === each} aria-pressed={anchor === each} aria-label={each.replace('-', ' ')} title={each.replace('-', ' ')} onclick={() => set({ anchor: each })}></button>
      {/each}
    </span>
    <span class="pills">
      {#if !pads}<button class="pill ring" class:on={anchor === 'interest'} aria-pressed={anchor === 'interest'} onclick={() => set({ anchor: 'interest' })}>the interesting part</button>{/if}
      <button class="pill ring" class:on={anchor === 'ask'} aria-pressed={anchor === 'ask'} onclick={() => set({ anchor: 'ask' })}>ask me</button>
    </span>
    {#if anchor === 'ask'}<span class="dim">photos wait for your crop; others continue</span>{/if}
  </div>
{/if}
{#if pads || way === 'crop'}
  <div class="line-of">
    <span class="label">{pads ? 'Filled with' : 'Outside the photo'}</span>
    <span class="pills">
      {#each [['color', 'color'], ['blur', 'blurred copy'], ['edge', 'edges'], ['transparent', 'transparent']] as [value, name] (value)}
        <button class="pill ring" class:on={kind === value} aria-pressed={kind === value} onclick={() => set({ fill: value === 'color' ? '#ffffff' : value })}>{name}</button>
      {/each}
    </span>
    {#if kind === 'color'}
      <input type="color" aria-label="Color" value={/^#[0-9a-f]{6}$/.test(fill) ? fill : '#ffffff'} oninput={(event) => set({ fill: event.currentTarget.value })} />
      <Typed label="" name="Color, typed" value={fill} wide={52} problem={line.problems['frame.fill']} onchange={(text) => set({ fill: typedColor(text) })} />
    {/if}
  </div>
{/if}
<div class="pair">
  <Typed label="Panels" value={String(panels.columns ?? 1)} wide={34} unit="across" problem={line.problems['frame.panels.columns']} onchange={(text) => setPanels('columns', text)} />
  <Typed label="" name="Panels down" value={String(panels.rows ?? 1)} wide={34} unit="down" problem={line.problems['frame.panels.rows']} onchange={(text) => setPanels('rows', text)} />
  {#if panels.columns !== undefined}<span class="dim">shape and size are those of one panel</span>{/if}
</div>

<style>
  .pair { display: flex; gap: 10px; align-items: center; }
  .line-of { display: flex; gap: 4px 9px; align-items: center; font-size: 13px; flex-wrap: wrap; }
  .label { width: 87px; }
  .pills { display: flex; gap: 4px; flex-wrap: wrap; }
  .pill { padding: 2px 10px; font-size: 12px; }
  .nine { display: grid; grid-template-columns: repeat(3, 24px); grid-auto-rows: 24px; border: 1px solid var(--edge); background: var(--field); }
  .nine button { display: grid; place-items: center; }
  .nine button::after { content: ''; width: 3px; height: 3px; border-radius: 50%; background: var(--edge-soft); }
  .nine button:hover { background: var(--accent-soft); }
  .nine button.on { background: var(--accent); }
  .nine button.on::after { background: #fff; }
  input[type='color'] { width: 28px; height: 24px; padding: 0; border: 1px solid var(--edge); background: none; }
  .dim { font-size: 12px; }
</style>
