<script lang="ts">
  import type { Tray } from '../api/client';
  import { photoPicture } from '../board/board.svelte';
  import { trying } from '../shell/notices.svelte';
  import { router } from '../shell/router.svelte';
  import { bytes, pixels } from '../words/numbers';
  import Controls from './Controls.svelte';
  import { STATIONS, station, upTo, withStation, type StationName } from './draft';
  import { draftPicture, LineState } from './line.svelte';
  import Steady from './Steady.svelte';

  let { id, tray }: { id: number; tray: Tray | undefined } = $props();

  // The recipe never changes in the life of this component: it is keyed by it.
  // svelte-ignore state_referenced_locally
  const line = new LineState(id);
  const WORKING_EDGE = 960;
  let failed = $state('');
  let room = $state({ width: 560, height: 300 });

  // The list of trays comes anew with every hint; only another tray is a reason to begin anew.
  const trayId = $derived(tray?.id);
  $effect(() => {
    line.load(trayId).catch((error: Error) => (failed = error.message));
    return () => void trying(() => line.leave());
  });

  const photo = $derived(line.photo);
  const double = $derived(line.open === 'sharpen');
  const wide = $derived.by(() => {
    const plan = line.plan;
    if (!plan) return { width: 0, height: 0 };
    // Sharpening is judged pixel for pixel, as far as the working copy goes, and cut to the room there is.
    if (double) {
      const scale = Math.min(1, WORKING_EDGE / Math.max(plan.width, plan.height));
      return { width: Math.round(plan.width * scale), height: Math.round(plan.height * scale) };
    }
    const scale = Math.min(room.width / plan.width, room.height / plan.height, 1);
    return { width: Math.round(plan.width * scale), height: Math.round(plan.height * scale) };
  });
  const small = $derived.by(() => {
    const plan = line.plan;
    if (!plan) return { width: 0, height: 0 };
    const scale = Math.min(84 / plan.width, 96 / plan.height);
    return { width: Math.round(plan.width * scale), height: Math.round(plan.height * scale) };
  });
  const edge = $derived(
    Math.min(WORKING_EDGE, Math.round(Math.max(wide.width, wide.height) * (double ? 1 : Math.min(devicePixelRatio, 2)))),
  );
  const seen = $derived(line.plan && double ? Math.round((100 * wide.width) / line.plan.width) : 100);

  function has(name: StationName): boolean {
    return name !== 'name' && name !== 'place';
  }

  function picture(name: StationName, at: number): string {
    return photo ? draftPicture(photo.id, upTo(line.good, name), at) : '';
  }

  function summary(name: StationName): [string, string] {
    const content = line.good;
    const here = station(content, name);
    switch (name) {
      case 'size':
        return [line.plan ? pixels(line.plan.width, line.plan.height) : '', here ? 'never enlarged' : 'its own size'];
      case 'sharpen':
        return here ? [`${String(here['strength'])} %`, 'for screen'] : ['as it is', 'not sharpened'];
      case 'color':
        return here ? ['sRGB', 'profile embedded'] : ['its own', 'not converted'];
      case 'file':
        return here?.['format'] === 'jpeg' ? [`JPEG ${String(here['quality'])}`, 'no metadata'] : ['PNG', 'lossless'];
      case 'name':
        return [line.plan?.name ?? '', ''];
      case 'place': {
        const taken: Record<string, string> = { 'new-name': 'taken: new name', replace: 'taken: replace', keep: 'taken: keep' };
        if (here?.['to'] === 'download') return ['download', 'from its run'];
        return [`${line.plan?.folder || 'output folder'}/`, taken[String(here?.['taken'])] ?? ''];
      }
    }
  }

  async function back(): Promise<void> {
    await trying(() => line.leave());
    router.go(tray ? `/trays/${tray.id}` : '/recipes');
  }

  function pressed(event: KeyboardEvent): void {
    const target = event.target as Element;
    if (event.key === 'Escape' && !target.closest('.bx--modal.is-visible')) {
      void back();
      return;
    }
    if (target.closest('input, textarea, select') || event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === 'ArrowRight') line.step(1);
    else if (event.key === 'ArrowLeft') line.step(-1);
    else return;
    event.preventDefault();
  }
</script>

<svelte:window onkeydown={pressed} />
{#if failed}
  <p class="empty">{failed}</p>
{:else if line.recipe}
  <div class="top">
    <a class="dim" href="/recipes">Recipes</a>
    <label class="title">
      <span class="visually-hidden">Title</span>
      <input value={String(line.content['title'] ?? '')} maxlength="80" aria-invalid={line.problems['title'] ? 'true' : undefined} oninput={(event) => line.change({ ...line.content, title: event.currentTarget.value })} />
    </label>
    {#if line.problems['title']}<span class="bad" role="alert">{line.problems['title']}</span>{/if}
    <span class="note">used in {line.recipe.trays} {line.recipe.trays === 1 ? 'tray' : 'trays'} · version {line.recipe.version}</span>
    <div class="samples" role="group" aria-label="Sample photo">
      <span class="dim">sample</span>
      {#each line.samples as each (each.id)}
        <button aria-pressed={line.sample === each.id} class:on={line.sample === each.id} title={each.name} onclick={() => (line.sample = each.id)}>
          <img src={photoPicture(each)} alt={each.name} height="32" />
        </button>
      {/each}
    </div>
  </div>
  <p class="sentence">
    {#each line.answer?.sentence ?? [] as phrase, i (i)}{#if phrase.station}<button class="phrase" class:open={line.open === phrase.station} onclick={() => (line.open = phrase.station as StationName)}>{phrase.text}</button>{:else}{phrase.text}{/if}{/each}
  </p>
  <div class="line">
    {#each STATIONS as each (each.name)}
      {@const open = line.open === each.name}
      {@const idle = each.name !== 'name' && each.name !== 'place' && !station(line.good, each.name)}
      <section class="station" class:open class:idle={idle && !open} class:wrong={Object.keys(line.problems).some((field) => field.startsWith(each.name))} aria-label={each.title} data-station={each.name}>
        {#if open}
          <h2>{each.title} <span class="dim">{each.about}</span></h2>
          {#if has(each.name)}
            <div class="pictures" bind:clientWidth={room.width} bind:clientHeight={room.height}>
              {#if photo && line.plan}
                {#if double}
                  <figure class="cut-out">
                    <Steady src={draftPicture(photo.id, upTo(withStation(line.good, 'sharpen', undefined), 'sharpen'), edge)} alt="before sharpening" {...wide} />
                    <figcaption>before</figcaption>
                  </figure>
                {/if}
                <figure class:cut-out={double}>
                  <Steady src={picture(each.name, edge)} alt="{photo.name} after {each.title}" {...wide} />
                  {#if double}<figcaption>after · {String(station(line.good, 'sharpen')?.['strength'] ?? 0)} %, seen at {seen} % of its size</figcaption>{/if}
                </figure>
              {:else}
                <p class="dim">Add photos to a tray to see them here.</p>
              {/if}
            </div>
          {/if}
          <div class="controls"><Controls {line} name={each.name} /></div>
        {:else}
          <button class="closed" onclick={() => (line.open = each.name)}>
            <span class="name">{each.title}</span>
            <span class="small">{#if has(each.name) && photo && !idle}<Steady src={picture(each.name, 200)} alt="" {...small} />{/if}</span>
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
        <span>{pixels(photo.width, photo.height)} → <b>{pixels(line.plan.width, line.plan.height)}</b></span>
        <span class="dim">{bytes(photo.bytes)} {photo.format}, {photo.profile ?? 'no profile'}</span>
        {#if line.plan.warnings[0]}<span class="eye" title={line.plan.warnings[0]}>{line.plan.warnings[0]}</span>{/if}
      {/if}
    </div>
    <div class="do">
      <span class="dim kept" role="status">{Object.keys(line.problems).length ? 'not kept: something is not right' : line.saving ? 'keeping…' : 'kept'}</span>
      <button class="press" onclick={() => void back()}>Back to the board <kbd>Esc</kbd></button>
    </div>
  </footer>
{:else}
  <p class="empty dim" aria-busy="true">One moment…</p>
{/if}

<style>
  .top { display: flex; align-items: center; gap: 14px; padding: 10px 16px 0; }
  .top a { text-decoration: none; }
  .title input { font-size: 20px; font-weight: 600; border: 0; background: none; border-bottom: 1px dashed transparent; padding: 0; field-sizing: content; min-width: 80px; max-width: 380px; }
  .title input:hover, .title input:focus { border-bottom-color: var(--dim); outline: none; }
  .note { background: var(--sheet); border-radius: 12px; padding: 3px 10px; white-space: nowrap; }
  .samples { margin-left: auto; display: flex; gap: 5px; align-items: center; }
  .samples button { line-height: 0; padding: 2px; border: 2px solid transparent; }
  .samples button.on { border-color: var(--accent); }
  .samples img { height: 32px; width: auto; max-width: 72px; object-fit: cover; }
  .sentence { font-size: 17px; line-height: 26px; padding: 10px 16px 12px; max-width: 1180px; }
  .phrase { border-bottom: 1.5px dotted var(--accent); line-height: 22px; display: inline; }
  .phrase:hover, .phrase.open { color: var(--accent); border-bottom-style: solid; }
  .line { flex: 1; min-height: 0; display: flex; gap: var(--gap); padding: 0 16px 10px; }
  .station { flex: 0 0 116px; background: var(--bench); border-radius: var(--radius); min-width: 0; overflow: hidden; display: flex; flex-direction: column; }
  .station.open { flex: 1; background: var(--sheet); padding: 12px 16px; gap: 10px; }
  .station.idle { background: none; box-shadow: inset 0 0 0 1px #a6a6a2; border-radius: var(--radius); }
  .station.wrong { box-shadow: inset 0 0 0 2px var(--bad); }
  h2 { font-weight: 600; font-size: 14px; }
  h2 .dim { font-weight: 400; font-size: 12px; margin-left: 6px; }
  .pictures { flex: 1; min-height: 120px; display: flex; gap: 10px; justify-content: center; align-items: center; overflow: hidden; }
  figure { margin: 0; position: relative; line-height: 0; }
  figcaption { position: absolute; left: 8px; bottom: 8px; background: rgb(30 30 29 / 0.82); color: #f1f1ef; border-radius: 10px; padding: 2px 10px; line-height: 17px; font-size: 11px; }
  .cut-out { flex: 1; min-width: 0; height: 100%; overflow: hidden; display: grid; place-items: center; }
  .cut-out :global(.holder) { max-width: none; }
  .controls { display: grid; gap: 12px; align-content: start; min-height: 132px; overflow: auto; padding: 4px; margin: -4px; }
  .closed { flex: 1; padding: 12px 10px; display: flex; flex-direction: column; gap: 2px; align-items: flex-start; min-width: 0; }
  .closed:hover { background: #e4e4e2; }
  .closed .name { font-weight: 600; font-size: 13px; }
  .small { height: 112px; width: 100%; display: grid; place-items: center; margin: 6px 0; }
  .cut { width: 100%; overflow-wrap: anywhere; display: -webkit-box; -webkit-line-clamp: 4; line-clamp: 4; -webkit-box-orient: vertical; overflow: hidden; }
  .eye { color: var(--eye); overflow: hidden; text-overflow: ellipsis; }
  .kept { align-self: center; }
  .bad { color: var(--bad); }
  .empty { margin: auto; font-size: 13px; }
</style>
