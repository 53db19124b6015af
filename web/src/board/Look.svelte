<script lang="ts">
  import { Modal } from 'carbon-components-svelte';
  import { api, taken } from '../api/client';
  import { onEscape } from '../shell/escape';
  import { trying } from '../shell/notices.svelte';
  import { bytes, pixels } from '../words/numbers';
  import { stateWords } from '../words/states';
  import { foundHow } from '../bench/weight.svelte';
  import { cellPicture } from '../ui/pictures';
  import type { BoardState } from './board.svelte';
  import StateMark from '../ui/StateMark.svelte';

  /** One cell, large: the picture as its recipe makes it, and all that is known of it. */
  let { open = $bindable(), board }: { open: boolean; board: BoardState } = $props();

  const found = $derived(open ? board.at(board.focus) : undefined);
  const recipe = $derived(found && board.recipes.find((each) => each.id === found[1].recipe));

  /** Browsers show neither TIFF nor PDF in place. */
  const shows = $derived(!['tiff', 'pdf'].includes(String((recipe?.content['file'] as Record<string, unknown> | undefined)?.['format'])));
  let names = $state.raw<{ name: string; folder: string }[]>([]);
  const asked = $derived(found ? `${found[0].id}/${found[1].recipe}/${found[1].key}` : '');
  /** The exact bytes of a cell whose weight is a forecast, once somebody asks. */
  let weighed = $state.raw<{ cell: string; bytes?: number; short?: string }>();
  async function weigh(): Promise<void> {
    const cell = asked;
    const [photo = 0, recipe = 0] = cell.split('/').map(Number);
    weighed = { cell };
    try {
      const made = await taken(api.POST('/api/trays/{number}/closer/{photo}/{recipe}/made', { params: { path: { number: board.tray, photo, recipe } }, body: { strength: found?.[1].strength ?? null, page: '', turn: 0 } }));
      if (weighed?.cell === cell) weighed = { cell, bytes: made.bytes, short: foundHow(made).short ? foundHow(made).words : undefined };
    } catch (error) {
      weighed = undefined;
      throw error;
    }
  }
  const exact = $derived(weighed?.cell === asked ? weighed : undefined);
  $effect(() => {
    names = [];
    const [photo, recipe] = asked.split('/').map(Number);
    if (!photo || !recipe) return;
    const path = { number: board.tray, photo, recipe };
    void taken(api.GET('/api/trays/{number}/names/{photo}/{recipe}', { params: { path } })).then((all) => (names = all));
  });

  // The modal hears Escape only while something in it has the focus, and what was pressed may be gone.
  $effect(() => (open ? onEscape(() => void (open = false)) : undefined));

  function pressed(event: KeyboardEvent): void {
    if (!open || !['ArrowUp', 'ArrowDown', 'ArrowLeft', 'ArrowRight'].includes(event.key)) return;
    event.preventDefault();
    board.move(event.key, false);
  }
</script>

<svelte:window onkeydown={pressed} />
<Modal bind:open passiveModal size="lg" modalHeading={found ? found[1].name : ''} modalLabel={recipe?.title ?? ''} on:close={() => (open = false)}>
  {#if found && recipe}
    {@const [photo, cell] = found}
    <div class="look">
      <div class="picture" class:checker={photo.alpha}>
        <img src={cell.state === 'done' && cell.parts === 1 && shows ? `/api/renditions/${cell.renditions[0]}/file` : cellPicture(photo, cell, 960)} alt="{cell.name} as {recipe.title} makes it" />
      </div>
      <dl>
        <dt>state</dt>
        <dd class="state"><StateMark state={cell.state} /> {stateWords(cell.state)}</dd>
        <dt>pixels</dt>
        <dd>{cell.parts > 1 ? `${cell.parts} × ` : ''}{pixels(cell.width, cell.height)}<br /><span class="dim">from {pixels(photo.width, photo.height)}</span></dd>
        {#if cell.strength !== null}<dt>sharpened</dt><dd>{cell.strength} %, for this photo alone</dd>{/if}
        <dt>file</dt>
        <dd>{recipe.file_line}<br />{cell.about && !exact?.bytes ? 'about ' : ''}{bytes(exact?.bytes ?? cell.bytes)} <span class="dim">of {bytes(photo.bytes)}</span>
          {#if cell.about && cell.parts === 1}<br />{#if exact?.bytes}<span class="dim">{exact.bytes.toLocaleString('en-US')} bytes exactly</span>{#if exact.short}<br /><span class="eye">{exact.short}</span>{/if}{:else}<button class="plain" disabled={exact !== undefined} onclick={() => void trying(weigh)}>{exact ? 'Calculating…' : 'Calculate exact size'}</button>{/if}{/if}
        </dd>
        <dt>goes to</dt>
        <dd class="path">{#each names as each (each.name)}{each.folder ? `${each.folder}/` : ''}{each.name}<br />{/each}</dd>
        {#if cell.error}<dt>failed</dt><dd class="bad">{cell.error}</dd>{/if}
        {#each cell.warnings as warning (warning.text)}<dt>note</dt><dd>{warning.text}</dd>{/each}
        <dt><span class="visually-hidden">to do</span></dt>
        <dd class="links">
          <a class="plain" href="/recipes/{recipe.id}" onclick={() => (open = false)}>Change the recipe</a>
          <a class="plain" href="/trays/{board.tray}/bench/{photo.id}/{recipe.id}" onclick={() => (open = false)}>Place the crop</a>
          <span>
            {#each [['tone', 'Tone'], ['outline', 'Outline'], ['sharpness', 'Sharpness'], ['weight', 'Weight'], ['color', 'Color']] as [look, title] (look)}<a class="plain" href="/trays/{board.tray}/bench/{photo.id}/{recipe.id}/{look}" onclick={() => (open = false)}>{title}</a>{' '}{/each}
          </span>
          {#each cell.renditions as rendition, i (rendition)}
            <a class="plain" href="/api/renditions/{rendition}/file?download=true" download>Download{cell.parts > 1 ? ` ${i + 1}` : ''}</a>
          {/each}
        </dd>
      </dl>
    </div>
  {/if}
</Modal>

<style>
  .look { display: grid; grid-template-columns: 1fr 230px; gap: 20px; }
  .picture { display: grid; place-items: center; background-color: var(--room); height: 56vh; min-height: 0; }
  img { max-width: 100%; max-height: 56vh; display: block; }
  dl { display: grid; grid-template-columns: 58px 1fr; gap: 8px 10px; align-content: start; font-size: 12px; line-height: 17px; }
  dt { color: var(--dim); }
  .state { display: flex; gap: 6px; align-items: center; }
  .path { overflow-wrap: anywhere; }
  .bad { color: var(--bad); }
  .eye { color: var(--eye); }
  .links { display: grid; gap: 6px; }
  .links a { text-decoration: none; }
</style>
