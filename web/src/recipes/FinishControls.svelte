<script lang="ts">
  import { Checkbox, FileUploaderButton } from 'carbon-components-svelte';
  import { api, sent, taken, type Schemas } from '../api/client';
  import { showing, trying } from '../shell/notices.svelte';
  import Choice from './Choice.svelte';
  import { follows, station, typedNumber, withStation } from './draft';
  import { isPicture, list, markName, tidied, type Border, type Mark } from './finish';
  import type { LineState } from './line.svelte';
  import MarkControls from './MarkControls.svelte';
  import Swatch from './Swatch.svelte';
  import Typed from './Typed.svelte';

  let { line }: { line: LineState } = $props();

  const here = $derived(station(line.content, 'finish') ?? {});
  const borders = $derived(list(here, 'borders'));
  const marks = $derived(list(here, 'marks'));
  const proof = $derived(here['proof'] as Record<string, unknown> | undefined);
  const problem = (field: string) => line.problems[`finish.${field}`];
  // svelte-ignore state_referenced_locally
  let part = $state(marks.length || !proof ? (marks.length && !borders.length ? 'over' : 'around') : 'proof');
  const around = $derived(borders.length ? `Borders (${borders.length})` : 'Borders');
  const over = $derived(marks.length ? `Marks (${marks.length})` : 'Marks');
  let files = $state.raw<Schemas['MarkFileOut'][]>([]);

  $effect(() => void showing(load));

  async function load(): Promise<void> {
    files = await taken(api.GET('/api/marks'));
  }

  function set(changes: Record<string, unknown>): void {
    const next = tidied({ ...here, ...changes });
    line.change(withStation(line.content, 'finish', next ?? (follows(line.content, 'finish') ? {} : undefined)));
  }

  const setBorder = (at: number, changes: Border) => set({ borders: borders.map((each, i) => (i === at ? clean({ ...each, ...changes }) : each)) });
  const setMark = (at: number, mark: Mark) => set({ marks: marks.map((each, i) => (i === at ? mark : each)) });
  const setProof = (changes: Record<string, unknown>) => set({ proof: clean({ ...proof, ...changes }) });
  const without = <T,>(all: T[], at: number) => all.filter((_, i) => i !== at);

  function clean(values: Record<string, unknown>): Record<string, unknown> {
    return Object.fromEntries(Object.entries(values).filter(([, value]) => value !== undefined));
  }

  function addMark(mark: Mark): void {
    line.mark = marks.length;
    set({ marks: [...marks, mark] });
  }

  function removeMark(at: number): void {
    set({ marks: without(marks, at) });
    line.mark = Math.max(0, at - 1);
  }

  async function add(file: File | undefined): Promise<void> {
    if (!file) return;
    const got = await sent<Schemas['MarkFileOut']>('/api/marks', file);
    await load();
    const { name, kind } = got;
    const mark = marks[line.mark];
    if (kind === 'picture') addMark({ picture: name });
    else if (mark && !isPicture(mark)) setMark(line.mark, { ...mark, font: name });
  }

  function fill(border: Border): string {
    return border['blur'] ? 'blur' : border['color'] === 'main' ? 'main' : 'color';
  }

  const pictures = $derived(files.filter((each) => each.kind === 'picture'));
  const chosen = $derived(marks[line.mark]);
  /** Where nothing is typed there is no limit. */
  const number = (text: string) => (text.trim() === '' ? 'any' : typedNumber(text));
</script>

<div class="parts">
  <Choice label="Finish" labeled={false} value={part} options={[['around', around], ['over', over], ['proof', proof ? 'Proof stamp ✓' : 'Proof stamp']]} onchange={(name) => (part = name)} />
  {#if part === 'around'}
    <section aria-label="Borders">
      {#each borders as border, at (at)}
        <div class="border">
          <Typed label="" name="Thickness of border {at + 1}" value={String(border['to'] ?? border['width'] ?? '')} wide={46} problem={problem(`borders.${at}.width`) ?? problem(`borders.${at}.to`)} onchange={(text) => setBorder(at, /^[\d.]+:[\d.]+$/.test(text.trim()) ? { to: text.trim(), width: undefined } : { width: text.trim(), to: undefined })} />
          <Choice label="Fill of border {at + 1}" labeled={false} value={fill(border)} options={[['color', 'a color'], ['main', 'its main color'], ['blur', 'blurred copy']]} onchange={(way) => setBorder(at, { blur: way === 'blur' || undefined, color: way === 'main' ? 'main' : way === 'color' ? '#ffffff' : undefined })} />
          {#if fill(border) === 'color'}<Swatch label="Color of border {at + 1}" value={String(border['color'] ?? '#ffffff')} problem={problem(`borders.${at}.color`)} onchange={(color) => setBorder(at, { color })} />{/if}
          <button class="plain" aria-label="Remove border {at + 1}" title="Remove" onclick={() => set({ borders: without(borders, at) })}>×</button>
        </div>
      {/each}
      <div class="row">
        <button class="quiet small" disabled={borders.length >= 8} onclick={() => set({ borders: [...borders, { width: '4 %', color: '#ffffff' }] })}>Add a border</button>
        {#if borders.length}<span class="dim">4 % of the short edge, 12 px, or a shape such as 1:1. The first is the innermost.</span>{/if}
      </div>
      {#if borders.length}
        <Choice label="Size" value={here['grow'] ? 'grow' : 'in'} options={[['in', 'borders are part of it'], ['grow', 'borders are added to it']]} onchange={(way) => set({ grow: way === 'grow' || undefined })} />
      {/if}
      <Typed label="Corners" value={String(here['corners'] ?? '')} placeholder="square" wide={46} unit="radius: 3 % or 20 px" problem={problem('corners')} onchange={(text) => set({ corners: text.trim() || undefined })} />
    </section>

  {:else if part === 'over'}
    <section aria-label="Marks">
      <div class="row">
        {#each marks as mark, at (at)}
          <span class="mark" class:on={line.mark === at}>
            <button aria-pressed={line.mark === at} onclick={() => (line.mark = at)}>{markName(mark) || 'empty text'}</button>
            <button aria-label="Remove {markName(mark)}" title="Remove" onclick={() => removeMark(at)}>×</button>
          </span>
        {/each}
        <button class="quiet small" disabled={marks.length >= 12} onclick={() => addMark({ text: '© {creator or shelf or recipe}' })}>Add a text</button>
        {#if pictures[0]}<button class="quiet small" disabled={marks.length >= 12} onclick={() => addMark({ picture: pictures[0]?.name })}>Add a picture</button>{/if}
        <FileUploaderButton labelText="Picture or font file…" kind="tertiary" size="small" accept={['.png', '.svg', '.webp', '.tif', '.tiff', '.ttf', '.otf']} disableLabelChanges on:change={(event) => void trying(() => add(event.detail[0]))} />
      </div>
      {#if chosen}
        <MarkControls mark={chosen} {files} problem={(field) => problem(`marks.${line.mark}.${field}`)} onchange={(mark) => setMark(line.mark, mark)} />
      {:else}
        <p class="dim">A credit line, a title, the museum’s own mark: drag it on the picture to where it goes.</p>
      {/if}
    </section>

  {:else}
    <section aria-label="Proof">
      <Checkbox labelText="Stamp it as a proof" checked={proof !== undefined} on:check={(event) => set({ proof: event.detail ? { text: 'PROOF' } : undefined })} />
      {#if proof}
        <Typed label="Text" name="Text of the stamp" value={String(proof['text'] ?? 'PROOF')} wide={150} problem={problem('proof.text')} onchange={(text) => setProof({ text })} />
        <Typed label="Opacity" name="Opacity of the stamp" value={String(proof['opacity'] ?? 30)} wide={34} unit="%" problem={problem('proof.opacity')} onchange={(text) => setProof({ opacity: typedNumber(text) })} />
        <Typed label="Lines" value={String(proof['repeats'] ?? 5)} wide={34} unit="from top to bottom" problem={problem('proof.repeats')} onchange={(text) => setProof({ repeats: typedNumber(text) })} />
        <Typed label="At most" name="Longest edge of a proof" value={proof['longest'] === 'any' ? '' : String(proof['longest'] ?? 1600)} placeholder="any" wide={46} unit="px on the long edge" problem={problem('proof.longest')} onchange={(text) => setProof({ longest: number(text) })} />
        <Typed label="Quality" name="Quality of a proof" value={proof['quality'] === 'any' ? '' : String(proof['quality'] ?? 60)} placeholder="any" wide={46} unit="at most" problem={problem('proof.quality')} onchange={(text) => setProof({ quality: number(text) })} />
      {/if}
    </section>
  {/if}
</div>

<style>
  .parts { display: grid; gap: 10px; }
  section { display: grid; gap: 7px; align-content: start; }
  .row { display: flex; gap: 6px 10px; flex-wrap: wrap; align-items: center; font-size: 12px; }
  .border { display: flex; gap: 6px 12px; align-items: center; flex-wrap: wrap; }
  .mark { display: inline-flex; background: var(--bench); border-radius: 12px; max-width: 220px; }
  .mark.on { background: var(--accent-soft); }
  .mark button { padding: 3px 10px; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
  .mark button + button { padding: 3px 8px; min-width: 26px; min-height: 26px; flex: none; }
  .row :global(.bx--btn--tertiary) { border: 1px solid var(--edge); border-radius: 4px; color: var(--ink); font-size: 12px; min-height: 26px; height: 26px; padding: 0 12px; max-width: none; width: auto; background: none; }
  .row :global(.bx--btn--tertiary:hover) { background: var(--hover); color: var(--ink); }
  p { font-size: 12px; line-height: 16px; }
</style>
