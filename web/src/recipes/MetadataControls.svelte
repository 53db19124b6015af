<script lang="ts">
  import { Checkbox } from 'carbon-components-svelte';
  import { COLUMNS, type Word } from '../sheet/columns';
  import Actions from '../ui/Actions.svelte';
  import Choice from './Choice.svelte';
  import { station, withStation } from './draft';
  import type { LineState } from './line.svelte';
  import Typed from './Typed.svelte';

  /** Which of a photo's words go out with its renditions, and what is written besides. */
  let { line }: { line: LineState } = $props();

  interface Metadata {
    keep: 'none' | 'rights' | 'all';
    leave_out?: string[];
    set?: Partial<Record<Word, string>>;
  }
  const file = $derived(station(line.content, 'file') ?? {});
  const same = $derived(file['format'] === 'same');
  const here = $derived<Metadata>((file['metadata'] as Metadata | undefined) ?? { keep: 'none' });
  const texts = $derived(Object.entries(here.set ?? {}) as [Word, string][]);
  const LEFT_OUT = [
    ['place', 'the place', 'location, and its names'],
    ['people', 'people', 'names, and marked faces'],
    ['camera', 'the camera', 'make, settings, serial numbers'],
  ] as const;

  function set(changes: Partial<Metadata>): void {
    const next: Metadata = { ...here, ...changes };
    if (!next.leave_out?.length || next.keep === 'none') delete next.leave_out;
    if (!Object.keys(next.set ?? {}).length) delete next.set;
    const plain = next.keep === 'none' && !next.set;
    const { metadata: _, ...rest } = file;
    line.change(withStation(line.content, 'file', plain && !same ? rest : { ...rest, metadata: next }));
  }

  function asItIs(): void {
    const { metadata: _, ...rest } = file;
    line.change(withStation(line.content, 'file', rest));
  }

  function leave(what: string, out: boolean): void {
    const others = (here.leave_out ?? []).filter((each) => each !== what);
    set({ leave_out: LEFT_OUT.map(([name]) => name).filter((name) => (name === what ? out : others.includes(name))) });
  }

  function write(word: Word, text: string | undefined): void {
    const rest = { ...here.set };
    if (text === undefined) delete rest[word];
    else rest[word] = text;
    set({ set: rest });
  }

  const USUAL: Partial<Record<Word, string>> = { rights: '© {date:%Y} ', credit: '{creator}', title: '{title or stem}' };
  const addable = $derived(COLUMNS.filter((column) => !(column.word in (here.set ?? {}))).map((column) => ({ text: column.name, do: () => write(column.word, USUAL[column.word] ?? '') })));
  const kinds = $derived<[string, string][]>([...(same ? [['same', 'as it is'] as [string, string]] : []), ['none', 'none'], ['rights', 'rights and contact'], ['all', 'everything']]);
</script>

<Choice label="Metadata" value={same && !file['metadata'] ? 'same' : here.keep} options={kinds} onchange={(keep) => (keep === 'same' ? asItIs() : set({ keep: keep as Metadata['keep'] }))} />
{#if here.keep !== 'none'}
  <div class="out">
    <span class="label">Without</span>
    {#each LEFT_OUT as [what, name, about] (what)}
      {#if here.keep === 'all' || what !== 'camera'}<span title={about}><Checkbox labelText={name} checked={here.leave_out?.includes(what) ?? false} on:check={(event) => leave(what, event.detail)} /></span>{/if}
    {/each}
  </div>
{/if}
{#each texts as [word, text] (word)}
  <div class="text">
    <Typed label={COLUMNS.find((column) => column.word === word)?.name ?? word} value={text} wide={220} problem={line.problems[`file.metadata.set.${word}`]} onchange={(typed) => write(word, typed)} />
    <button class="plain" onclick={() => write(word, undefined)}>Remove</button>
  </div>
{/each}
<div class="add"><Actions label="Write a text of its own" actions={addable} up /></div>

<style>
  .out { display: flex; gap: 4px 18px; align-items: center; flex-wrap: wrap; }
  .out .label { width: 84px; font-size: 13px; }
  .out :global(.bx--form-item) { flex: none; }
  .text { display: flex; gap: 12px; align-items: center; }
  .add { padding-left: 96px; }
</style>
