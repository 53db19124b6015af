<script lang="ts">
  import { Checkbox } from 'carbon-components-svelte';
  import type { Schemas, Tray } from '../api/client';
  import { onHint, paced } from '../api/live';
  import { opening } from '../api/query.svelte';
  import Failed from '../ui/Failed.svelte';
  import { photoPicture } from '../ui/pictures';
  import { trying } from '../shell/notices.svelte';
  import { router } from '../shell/router.svelte';
  import { bytes, pixels } from '../words/numbers';
  import { onEscape } from '../shell/escape';
  import { pageKey } from '../shell/keys.svelte';
  import Actions from '../ui/Actions.svelte';
  import Panel from '../ui/Panel.svelte';
  import { studio } from '../shell/studio.svelte';
  import Controls from './Controls.svelte';
  import { STATIONS, station, upTo, withStation, type StationName } from './draft';
  import ForOutlet from './ForOutlet.svelte';
  import Follows from './Follows.svelte';
  import { finishSummary } from './finish';
  import { draftPicture, LineState } from './line.svelte';
  import MarkHandle from './MarkHandle.svelte';
  import StationPicture from './StationPicture.svelte';
  import Steady from './Steady.svelte';
  import Versions from './Versions.svelte';

  let { id, tray }: { id: number; tray: Tray | undefined } = $props();

  // The recipe never changes in the life of this component: it is keyed by it.
  // svelte-ignore state_referenced_locally
  const line = new LineState(id);
  const WORKING_EDGE = 960;
  let room = $state({ width: 560, height: 300 });

  // The list of trays comes anew with every hint; only another tray is a reason to begin anew.
  const trayId = $derived(tray?.id);
  $effect(() => {
    void trayId;
    return () => void trying(() => line.leave());
  });
  // In the address, for a reload and for coming back from the bench.
  const asked = new URLSearchParams(location.search).get('station');
  line.open = STATIONS.find((each) => each.name === asked)?.name ?? line.open;
  $effect(() => router.go(`/recipes/${id}?station=${line.open}`, true));

  const opened = opening(() => line.load(trayId), () => trayId);

  $effect(() => {
    const follow = paced(() => line.follow(), 100);
    return onHint((hint) => {
      if (hint.kind === 'resync' || (hint.kind === 'recipe' && hint.id === id)) follow();
    });
  });

  // Where the line is wider than its room, the open station is what is looked at.
  let track = $state<HTMLElement>();
  $effect(() => {
    const open = line.answer && track?.querySelector<HTMLElement>(`[data-station="${line.open}"]`);
    if (track && open) track.scrollLeft = Math.min(open.offsetLeft - 8, Math.max(track.scrollLeft, open.offsetLeft + open.offsetWidth + 8 - track.clientWidth));
  });

  const photo = $derived(line.photo);
  const double = $derived(line.open === 'sharpen');
  const wide = $derived.by(() => {
    const canvas = line.plan?.canvas;
    if (!canvas) return { width: 0, height: 0 };
    // Sharpening is judged pixel for pixel, as far as the working copy goes, and cut to the room there is.
    const scale = Math.min(1, WORKING_EDGE / Math.max(canvas.width, canvas.height));
    return { width: Math.round(canvas.width * scale), height: Math.round(canvas.height * scale) };
  });
  const small = $derived.by(() => {
    const canvas = line.plan?.canvas;
    if (!canvas) return { width: 0, height: 0 };
    const scale = Math.min(62 / canvas.width, 96 / canvas.height);
    return { width: Math.max(2, Math.round(canvas.width * scale)), height: Math.max(2, Math.round(canvas.height * scale)) };
  });
  const edge = $derived(Math.min(WORKING_EDGE, Math.max(wide.width, wide.height)));
  const seen = $derived(line.plan ? Math.round((100 * wide.width) / line.plan.canvas.width) : 100);
  /** The samples that are shown: one, or a second beside it. */
  const shown = $derived(
    [line.sample, line.both ? line.beside : undefined].flatMap((number) => {
      const found = line.samples.find((each) => each.id === number);
      const plan = line.planOf(number);
      return found && plan ? [{ photo: found, plan }] : [];
    }),
  );
  /** In the frame station the photo stands beside what is taken of it, where that is not all of it. */
  const framed = $derived(line.open === 'frame');
  const across = $derived(shown.length > 1 ? shown.length : framed && (line.plan?.shown ?? 1) < 0.9999 ? 2 : 1);

  /** Of a responsive set, its widths; of panels, how many. */
  function severalPixels(plan: { parts: { width: number; height: number }[]; width: number; height: number }): string {
    const widths = plan.parts.map((each) => each.width);
    if (Math.min(...widths) < Math.max(...widths)) return `${Math.min(...widths)} to ${Math.max(...widths)} px wide`;
    return `${widths.length > 1 ? `${widths.length} × ` : ''}${pixels(plan.width, plan.height)}`;
  }

  const shelves = $derived([...new Set(studio.recipes.map((recipe) => recipe.shelf))].filter(Boolean));

  function setText(name: 'shelf' | 'note', text: string): void {
    const { [name]: _, ...rest } = line.content;
    line.change(text ? { ...line.content, [name]: text } : rest);
  }

  /** A press takes a sample; with Shift, the one beside it. */
  function pick(id: number, event: MouseEvent): void {
    if (event.shiftKey || (line.both && line.sample === id)) {
      line.both = true;
      if (line.sample !== id) line.beside = id;
    } else if (line.both && line.beside !== id) line.beside = id;
    else line.sample = id;
  }

  function has(name: StationName): boolean {
    return name !== 'name' && name !== 'place';
  }

  function picture(name: StationName, at: number): string {
    return photo ? draftPicture(photo.id, upTo(line.good, name), at, line.id) : '';
  }

  function summary(name: StationName): [string, string] {
    const content = line.good;
    const here = station(content, name);
    switch (name) {
      case 'frame': {
        const plan = line.plan;
        if (!plan || !here) return ['as it is', 'keeps its shape'];
        const way: Record<string, string> = { crop: 'cropped', pad: 'padded', stretch: 'stretched', bounds: 'within limits', keep: 'in panels' };
        const part = plan.asks ? 'waits for your crop' : plan.framing === 'the object' ? 'around its object' : plan.framing ? `framing “${plan.framing}”` : `${Math.round(100 * plan.shown)} % of the photo`;
        return [way[String(here['way'])] ?? '', part];
      }
      case 'size': {
        const plan = line.plan;
        if (!plan) return ['', ''];
        const scale = plan.scale > 1.0001 ? `enlarged to ${Math.round(100 * plan.scale)} %` : `at ${Math.round(100 * plan.scale)} % of its pixels`;
        return [severalPixels(plan), scale];
      }
      case 'prep': {
        const kinds = [['levels', 'levels'], ['contrast', 'contrast'], ['balance', 'balance']].filter(([key]) => here?.[key ?? '']);
        if (!here) return ['as it is', 'nothing corrected'];
        return [kinds.map(([, title]) => title).join(', ') || 'sharpened', here['sharpen'] && kinds.length ? 'sharpened first' : ''];
      }
      case 'cutout': {
        if (!here) return ['as it is', 'not cut out'];
        const ground = String(here['ground'] ?? 'clear');
        const around = here['fit'] === 'area' ? 'all equally large' : here['fit'] === 'box' ? 'framed around it' : '';
        return [ground === 'keep' ? 'on its own ground' : ground === 'clear' ? 'on nothing' : `on ${ground}`, around || (here['shadow'] ? 'with a shadow' : '')];
      }
      case 'sharpen':
        return here ? [`${String(here['strength'])} %`, here['guard'] ? 'flat areas guarded' : 'for screen'] : ['as it is', 'not sharpened'];
      case 'finish':
        return finishSummary(here);
      case 'color':
        return [colorLine, here?.['embed'] === false ? 'without its profile' : here ? 'profile embedded' : 'not converted'];
      case 'file':
        return [fileLine, line.plan ? `${line.plan.rough ? 'roughly' : 'about'} ${bytes(line.plan.about)}` : ''];
      case 'name':
        return [line.plan?.name ?? '', ''];
      case 'place': {
        const taken: Record<string, string> = { 'new-name': 'taken: new name', replace: 'taken: replace', keep: 'taken: keep' };
        if (here?.['to'] === 'download') return ['download', 'from its run'];
        return [`${line.plan?.folder || 'output folder'}/`, taken[String(here?.['taken'])] ?? ''];
      }
    }
  }

  /** The column head's second line says file and color; the server words both. */
  const [fileLine = '', colorLine = ''] = $derived((line.answer?.file_line ?? '').split(' · '));

  async function back(): Promise<void> {
    await trying(() => line.leave());
    router.go(tray ? `/trays/${tray.id}` : '/recipes');
  }

  $effect(() => onEscape(() => void back()));

  function pressed(event: KeyboardEvent): void {
    const key = pageKey(event);
    if (key === 'ArrowRight') line.step(1);
    else if (key === 'ArrowLeft') line.step(-1);
    else return;
    event.preventDefault();
  }

  const aim = $derived(line.content['outlet'] as { outlet: string } | undefined);
  /** The first thing that is not right, and its station. */
  const wrong = $derived.by(() => {
    const [field, problem] = Object.entries(line.problems)[0] ?? [];
    const found = STATIONS.find((each) => field?.split('.')[0] === each.name);
    return problem ? { station: found, problem } : undefined;
  });

  /** Close looks at the sample, at the same spot. */
  function look(name: 'weight' | 'sharpness' | 'outline'): string | undefined {
    return tray && photo ? `/trays/${tray.id}/bench/${photo.id}/${id}/${name}` : undefined;
  }
</script>

<svelte:head><title>{line.recipe ? String(line.content['title']) : 'Recipe'} · Upper Tray</title></svelte:head>
<svelte:window onkeydown={pressed} />
{#snippet marking(plan: Schemas['DraftPlanOut'])}<MarkHandle {line} {plan} />{/snippet}
{#if opened.problem}
  <Failed query={opened} instead={{ to: '/recipes', text: 'Go to the recipes' }} />
{:else if line.recipe}
  <h1 class="visually-hidden">Recipe {String(line.content['title'])}</h1>
  <div class="top">
    <a class="dim" href="/recipes">Recipes</a>
    <label class="title">
      <span class="visually-hidden">Title</span>
      <input value={String(line.content['title'] ?? '')} maxlength="80" aria-invalid={line.problems['title'] ? 'true' : undefined} oninput={(event) => line.change({ ...line.content, title: event.currentTarget.value })} />
    </label>
    {#if line.problems['title']}<span class="bad" role="alert">{line.problems['title']}</span>{/if}
    <label class="shelf">
      <span class="visually-hidden">Shelf</span>
      <input list="shelves" placeholder="No shelf" value={String(line.content['shelf'] ?? '')} maxlength="60" oninput={(event) => setText('shelf', event.currentTarget.value)} />
    </label>
    <datalist id="shelves">{#each shelves as shelf (shelf)}<option value={shelf}></option>{/each}</datalist>
    <span class="note">used in {line.recipe.trays} {line.recipe.trays === 1 ? 'tray' : 'trays'}</span>
    <Panel label={aim ? `For ${aim.outlet}` : 'Outlet'} wide={330} kind="dim">{#snippet children(close)}<ForOutlet {line} {id} {close} />{/snippet}</Panel>
    <Panel label="Note and versions" wide={380} kind="dim">
      {#snippet children(close)}
        <textarea rows="3" placeholder="A note for those who use it" aria-label="Note" maxlength="500" value={String(line.content['note'] ?? '')} oninput={(event) => setText('note', event.currentTarget.value)}></textarea>
        <Versions {line} {close} />
      {/snippet}
    </Panel>
    <a class="plain" href="/api/recipes/{id}/file" download>Save as a file</a>
    <div class="samples" role="group" aria-label="Sample photo">
      {#if line.samples.length > 1}<div class="both"><Checkbox labelText="Compare two" bind:checked={line.both} /></div>{/if}
      <Actions label="Sample…" kind="dim" actions={line.photos.map((each) => ({ text: `${each.name}, ${pixels(each.width, each.height)}`, do: () => void trying(() => line.take(each.id)) }))} />
      {#each line.samples as each (each.id)}
        <button aria-pressed={line.sample === each.id} class:on={line.sample === each.id || (line.both && line.beside === each.id)} title={each.name} onclick={(event) => pick(each.id, event)}>
          <img src={photoPicture(each, 200)} alt={each.name} height="32" />
        </button>
      {/each}
    </div>
  </div>
  {#if line.theirs}
    <div class="choose" role="alert">
      <p class="strong">This recipe was changed somewhere else while you changed it here.</p>
      <dl>
        <dt>There</dt><dd><span class="strong">{line.theirs.title}.</span> {line.theirs.sentence.map((phrase) => phrase.text).join('')}</dd>
        <dt>Here</dt><dd><span class="strong">{String(line.content['title'])}.</span> {line.answer?.sentence.map((phrase) => phrase.text).join('') ?? ''}</dd>
      </dl>
      <div>
        <button class="quiet" onclick={() => void trying(() => line.choose(false))}>Take theirs</button>
        <button class="quiet" onclick={() => void trying(() => line.choose(true))}>Keep mine</button>
      </div>
    </div>
  {/if}
  <p class="sentence">
    {#each line.answer?.sentence ?? [] as phrase, i (i)}{#if phrase.station}<button class="phrase" class:open={line.open === phrase.station} onclick={() => (line.open = phrase.station as StationName)}>{phrase.text}</button>{:else}{phrase.text}{/if}{/each}
  </p>
  <div class="line" bind:this={track}>
    {#each STATIONS as each (each.name)}
      {@const open = line.open === each.name}
      {@const idle = each.name !== 'name' && each.name !== 'place' && !station(line.good, each.name)}
      <section class="station" class:open class:idle={idle && !open} class:wrong={Object.keys(line.problems).some((field) => field.startsWith(each.name))} aria-label={each.title} data-station={each.name}>
        {#if open}
          <header><h2>{each.title} <span class="dim">{each.about}</span></h2><Follows {line} name={each.name} /></header>
          {#if has(each.name)}
            <div class="pictures" class:large={each.name === 'finish'} bind:clientWidth={room.width} bind:clientHeight={room.height}>
              {#if photo && line.plan}
                {#if double}
                  <figure class="cut-out">
                    <Steady src={draftPicture(photo.id, upTo(withStation(line.good, 'sharpen', undefined), 'sharpen'), edge, line.id)} alt="before sharpening" {...wide} />
                    <figcaption>before</figcaption>
                  </figure>
                  <figure class="cut-out">
                    <Steady src={picture(each.name, edge)} alt="{photo.name} after {each.title}" {...wide} />
                    {#if look('sharpness')}<a class="closer" href={look('sharpness')}>Judge at 100 %</a>{/if}
                    <figcaption>after · {String(station(line.good, 'sharpen')?.['strength'] ?? 0)} %, seen at {seen} % of its size</figcaption>
                  </figure>
                {:else}
                  {#each shown as sample (sample.photo.id)}
                    {@const place = { width: (room.width - 10 * (across - 1)) / across, height: room.height }}
                    {@const source = framed && sample.plan.shown < 0.9999 && !(shown.length > 1 && sample.plan.padded)}
                    {#if source}
                      <StationPicture {...sample} {...place} source recipe={line.id} content={line.good} alt="{sample.photo.name}, and what is taken of it" caption="{Math.round(100 * sample.plan.shown)} % of the photo" />
                    {/if}
                    {#if !(source && shown.length > 1)}
                      <StationPicture {...sample} {...place} recipe={line.id} content={upTo(line.good, each.name)} alt="{sample.photo.name} after {each.title}" caption={shown.length > 1 ? pixels(sample.plan.width, sample.plan.height) : ''} over={each.name === 'finish' ? marking : undefined} />
                    {/if}
                  {/each}
                {/if}
              {:else}
                <p class="dim">Add photos to a tray to see them here.</p>
              {/if}
            </div>
          {/if}
          <div class="controls"><Controls {line} name={each.name} look={look('weight')} outline={look('outline')} /></div>
        {:else}
          <button class="closed" onclick={() => (line.open = each.name)}>
            <span class="name">{each.title}</span>
            <span class="small">{#if has(each.name) && photo && !idle}<Steady src={picture(each.name, 200)} alt="" {...small} after={120} />{/if}</span>
            <span class="strong cut">{summary(each.name)[0]}</span>
            <span class="dim">{summary(each.name)[1]}</span>
          </button>
        {/if}
      </section>
    {/each}
  </div>
  <footer class="foot">
    <div class="sums">
      {#if photo && line.plan}
        <span>{pixels(photo.width, photo.height)} → <b>{severalPixels(line.plan)}</b>, {line.plan.rough ? 'roughly' : 'about'} <b>{bytes(line.plan.about)}</b></span>
        <span class="dim">{bytes(photo.bytes)} {photo.format}, {photo.profile ?? 'no profile'}</span>
        {#if line.plan.warnings[0]}<span class="eye" title={line.plan.warnings[0]}>{line.plan.warnings[0]}</span>{/if}
      {/if}
    </div>
    <div class="do">
      {#if wrong}
        <span class="bad kept" role="status">Not saved. {#if wrong.station}<button class="plain" onclick={() => (line.open = wrong.station?.name ?? line.open)}>{wrong.station.title}</button>:{' '}{/if}{wrong.problem}</span>
      {:else}
        <span class="dim kept" role="status">{line.theirs ? 'Not saved: choose above' : line.saving ? 'Saving…' : line.unkept ? `Not saved: ${line.unkept}` : 'Saved'}</span>
      {/if}
      {#if line.unkept && !line.theirs && !line.saving}<button class="quiet" onclick={() => void line.again()}>Try again</button>{/if}
      <button class="press" onclick={() => void back()}>Back to the board <kbd>Esc</kbd></button>
    </div>
  </footer>
{:else}
  <p class="empty dim" aria-busy="true">One moment…</p>
{/if}

<style>
  .top { display: flex; align-items: center; gap: 14px; padding: 10px 16px 0; }
  .top a { text-decoration: none; }
  .title input { font-size: 20px; font-weight: 600; border: 0; background: none; border-bottom: 1px dashed var(--edge-soft); padding: 0; field-sizing: content; min-width: 80px; max-width: 300px; }
  .title input:hover, .title input:focus { border-bottom-color: var(--dim); outline: none; }
  .note { background: var(--sheet); border-radius: 12px; padding: 3px 10px; white-space: nowrap; }
  .samples { margin-left: auto; display: flex; gap: 5px; align-items: center; }
  .samples button { line-height: 0; padding: 2px; border: 2px solid transparent; }
  .samples button.on { border-color: var(--accent); }
  .samples img { height: 32px; width: auto; max-width: 72px; object-fit: cover; }
  .shelf input { border: 0; background: none; border-bottom: 1px dashed var(--edge-soft); padding: 0; width: 108px; color: var(--dim); }
  .shelf input:hover, .shelf input:focus { border-bottom-color: var(--dim); outline: none; }
  .shelf input::placeholder { color: var(--dim); }
  textarea { font: inherit; border: 1px solid var(--edge); border-radius: 4px; background: var(--field); padding: 6px 8px; resize: vertical; }
  .both { margin-right: 6px; white-space: nowrap; }
  .closer { position: absolute; right: 8px; bottom: 8px; background: rgb(30 30 29 / 0.82); color: #f1f1ef; border-radius: 10px; padding: 2px 10px; line-height: 17px; font-size: 11px; }
  .choose { margin: 10px 16px 0; padding: 12px 14px; background: var(--sheet); border-left: 4px solid var(--eye); border-radius: var(--radius); display: grid; gap: 8px; }
  .choose dl { display: grid; grid-template-columns: 48px 1fr; gap: 4px 8px; max-width: 1200px; }
  .choose dt { color: var(--dim); }
  .choose div { display: flex; gap: 10px; }
  .sentence { font-size: 16px; line-height: 25px; padding: 8px 16px 10px; max-width: 1500px; }
  .phrase { border-bottom: 1.5px dotted var(--accent); line-height: 22px; display: inline; }
  .phrase:hover, .phrase.open { color: var(--accent-deep); border-bottom-style: solid; }
  .line { flex: 1; min-height: 0; display: flex; gap: var(--gap); padding: 0 16px 10px; }
  .station { flex: 0 0 82px; background: var(--bench); border-radius: var(--radius); min-width: 0; overflow: hidden; display: flex; flex-direction: column; }
  .station.open { flex: 1; background: var(--sheet); padding: 12px 16px; gap: 10px; }
  .station.wrong { box-shadow: inset 0 0 0 2px var(--bad); }
  header { display: flex; justify-content: space-between; align-items: center; gap: 12px; min-height: 24px; }
  h2 { font-weight: 600; font-size: 14px; }
  h2 .dim { font-weight: 400; font-size: 12px; margin-left: 6px; }
  .pictures { flex: 1 1 0; min-height: 150px; display: flex; gap: 10px; justify-content: center; align-items: center; overflow: hidden; }
  .pictures.large { min-height: min(290px, 42vh); }
  figure { margin: 0; position: relative; line-height: 0; }
  figcaption { position: absolute; left: 8px; bottom: 8px; background: rgb(30 30 29 / 0.82); color: #f1f1ef; border-radius: 10px; padding: 2px 10px; line-height: 17px; font-size: 11px; }
  .cut-out { flex: 1; min-width: 0; height: 100%; overflow: hidden; display: grid; place-items: center; }
  .cut-out :global(.holder) { max-width: none; }
  .controls { flex: 0 1 auto; display: grid; gap: 9px; align-content: start; overflow: auto; padding: 4px; margin: -4px; }
  .closed { flex: 1; padding: 12px 10px; display: flex; flex-direction: column; gap: 2px; align-items: flex-start; min-width: 0; }
  .closed:hover { background: var(--hover); }
  .closed .name { font-weight: 600; font-size: 13px; }
  /* What does nothing leaves its room to what is open. */
  .station.idle { flex-basis: 40px; background: none; box-shadow: inset 0 0 0 1px var(--edge-soft); border-radius: var(--radius); }
  .idle .closed { writing-mode: vertical-rl; flex-direction: row; align-items: center; gap: 14px; padding: 12px 6px; white-space: nowrap; }
  .idle .closed .small { display: none; }
  .idle .closed .cut { display: inline; width: auto; font-weight: 400; color: var(--dim); }
  .small { height: 112px; width: 100%; display: grid; place-items: center; margin: 6px 0; }
  .cut { width: 100%; overflow-wrap: anywhere; display: -webkit-box; -webkit-line-clamp: 4; line-clamp: 4; -webkit-box-orient: vertical; overflow: hidden; }
  .eye { color: var(--eye); overflow: hidden; text-overflow: ellipsis; }
  .kept { align-self: center; max-width: 520px; }
  .bad { color: var(--bad); }
  .empty { margin: auto; font-size: 13px; }
  @media (max-width: 900px) {
    .top { flex-wrap: wrap; row-gap: 6px; }
    .line { position: relative; overflow-x: auto; min-height: 430px; }
    .station.open { flex: 1 0 420px; }
    .sentence { font-size: 15px; line-height: 24px; }
  }
</style>
