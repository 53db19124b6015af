<script lang="ts">
  import { Checkbox, TextInput } from 'carbon-components-svelte';
  import type { Schemas } from '../api/client';
  import Pick from '../ui/Pick.svelte';
  import Choice from './Choice.svelte';
  import Swatch from './Swatch.svelte';
  import FieldPills from './FieldPills.svelte';
  import { typedNumber } from './draft';
  import { ANCHORS, isPicture, type Mark } from './finish';
  import Quantity from './Quantity.svelte';
  import Typed from './Typed.svelte';

  interface Props {
    mark: Mark;
    files: Schemas['MarkFileOut'][];
    /** What is wrong with one of its fields. */
    problem: (field: string) => string | undefined;
    onchange: (mark: Mark) => void;
  }
  /** One mark: what it says or shows, how large, where. */
  let { mark, files, problem, onchange }: Props = $props();

  const picture = $derived(isPicture(mark));
  const pictures = $derived(files.filter((each) => each.kind === 'picture').map((each): [string, string] => [each.name, each.name]));
  const fonts = $derived([['sans', 'sans serif'], ['serif', 'serif'], ...files.filter((each) => each.kind === 'font').map((each) => [each.name, each.name])] as [string, string][]);
  const at = $derived(mark['at'] ?? 'bottom-right');

  function set(changes: Mark): void {
    onchange(Object.fromEntries(Object.entries({ ...mark, ...changes }).filter(([, value]) => value !== undefined)));
  }
  const unless = (usual: unknown) => (value: unknown) => (value === usual ? undefined : value);
  const number = (usual: number) => (text: string) => unless(usual)(typedNumber(text));
</script>

{#if picture}
  <div class="row">
    <Pick label="Picture" labeled value={String(mark['picture'])} options={pictures} onchange={(name) => set({ picture: name })} />
    <Pick label="On dark ground" labeled value={String(mark['on_dark'] ?? '')} options={[['', 'the same'], ...pictures]} onchange={(name) => set({ on_dark: name || undefined })} />
  </div>
  {#if problem('picture')}<p class="bad" role="alert">{problem('picture')}</p>{/if}
  <Quantity label="Width" unit="% of the short edge" min={1} max={100} value={mark['width'] ?? 18} problem={problem('width')} onchange={(value) => set({ width: unless(18)(value) })} />
{:else}
  <TextInput labelText="Text" hideLabel placeholder="Text, such as © {'{creator}'}" value={String(mark['text'] ?? '')} invalid={problem('text') !== undefined} invalidText={problem('text') ?? ''} on:input={(event) => set({ text: event.detail ?? '' })} />
  <FieldPills texts onadd={(field) => set({ text: `${String(mark['text'] ?? '')}{${field}}` })} />
  <div class="two">
    <Quantity label="Size" unit="%" min={1} max={20} value={mark['size'] ?? 3} problem={problem('size')} onchange={(value) => set({ size: unless(3)(value) })} />
    <Typed label="Smallest" value={String(mark['least'] ?? 12)} wide={34} unit="px" problem={problem('least')} onchange={(text) => set({ least: number(12)(text) })} />
    <div class="font"><span class="label" aria-hidden="true">Font</span><Pick label="Font" value={String(mark['font'] ?? 'sans')} options={fonts} onchange={(font) => set({ font: unless('sans')(font) })} /></div>
    <Choice label="Weight" value={String(mark['weight'] ?? 'regular')} options={[['regular', 'regular'], ['bold', 'bold']]} onchange={(weight) => set({ weight: unless('regular')(weight) })} />
    <Choice label="Color" value={mark['color'] === undefined || mark['color'] === 'auto' ? 'auto' : 'own'} options={[['auto', 'light or dark'], ['own', 'a color']]} onchange={(way) => set({ color: way === 'auto' ? undefined : '#ffffff' })} />
    <Choice label="Set off" value={String(mark['edge'] ?? 'none')} options={[['none', 'no'], ['shadow', 'shadow'], ['outline', 'outline']]} onchange={(edge) => set({ edge: unless('none')(edge) })} />
    {#if mark['color'] !== undefined && mark['color'] !== 'auto'}<div class="under"><Swatch label="Color of the letters" value={String(mark['color'])} problem={problem('color')} onchange={(color) => set({ color })} /></div>{/if}
  </div>
{/if}
<Quantity label="Opacity" unit="%" min={5} max={100} value={mark['opacity'] ?? 80} problem={problem('opacity')} onchange={(value) => set({ opacity: unless(80)(value) })} />
<div class="row">
  <span class="label" aria-hidden="true">Place</span>
  <div class="nine" role="group" aria-label="Place">
    {#each ANCHORS as anchor (anchor)}
      <button aria-pressed={at === anchor && !mark['tiled']} aria-label={anchor.replace('-', ' ')} title={anchor.replace('-', ' ')} disabled={!!mark['tiled']} onclick={() => set({ at: anchor })}></button>
    {/each}
  </div>
  <div class="place">
    <Typed label="" name="Margin" value={String(mark['margin'] ?? 2)} wide={34} unit="% margin" problem={problem('margin')} onchange={(text) => set({ margin: number(2)(text) })} />
    <Typed label="" name="Angle" value={String(mark['angle'] ?? 0)} wide={34} unit="° turned" problem={problem('angle')} onchange={(text) => set({ angle: number(0)(text) })} />
  </div>
  <div>
    <Checkbox labelText="All over the picture" checked={!!mark['tiled']} on:check={(event) => set({ tiled: event.detail || undefined })} />
    <Checkbox labelText="Clear of faces and the main thing" checked={!!mark['clear']} disabled={!!mark['tiled']} on:check={(event) => set({ clear: event.detail || undefined })} />
    <Checkbox labelText="Also over the borders" checked={mark['over'] === 'all'} on:check={(event) => set({ over: event.detail ? 'all' : undefined })} />
  </div>
</div>
{#if Array.isArray(at) && !mark['tiled']}<p class="dim">It stands where it was put: {Math.round(100 * Number(at[0]))} % across, {Math.round(100 * Number(at[1]))} % down.</p>{/if}

<style>
  .two { display: grid; grid-template-columns: repeat(auto-fit, minmax(290px, 1fr)); gap: 6px 16px; align-items: center; }
  .row { display: flex; gap: 8px 16px; flex-wrap: wrap; align-items: end; font-size: 13px; }
  .font { display: grid; grid-template-columns: 84px minmax(0, 200px); gap: 12px; align-items: center; }
  .label { width: 84px; align-self: center; }
  .under { padding-left: 96px; }
  .nine { display: grid; grid-template-columns: repeat(3, 26px); gap: 3px; }
  .nine button { width: 26px; height: 24px; border-radius: 3px; background: var(--field); box-shadow: inset 0 0 0 1px var(--edge); }
  .nine button:hover { background: var(--hover); }
  .nine button[aria-pressed='true'] { background: var(--accent); box-shadow: none; }
  .place { display: grid; gap: 4px; }
  .bad { color: var(--bad); }
  p { font-size: 12px; line-height: 16px; }
</style>
