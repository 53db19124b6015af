<script lang="ts">
  import { TextInput } from 'carbon-components-svelte';
  import type { Schemas } from '../api/client';
  import { cellPicture, photoPicture } from '../ui/pictures';
  import { bytes, pixels, when } from '../words/numbers';

  interface Props {
    item: Schemas['QuestionOut'];
    here: boolean;
    onhere: () => void;
    onanswer: (said: Schemas['AnswerIn']['answer']) => void;
    ontyped: (word: string, text: string) => void;
  }
  /** What one rendition waits for: what is there, what would come, and the answers. */
  let { item, here, onhere, onanswer, ontyped }: Props = $props();

  let text = $state('');
  const word = $derived(item.words[0] ?? 'title');
  const there = $derived(item.there);
  const would = $derived(cellPicture({ id: item.photo }, { version: item.version, key: item.key }, 280));
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<article class:here class:simple={item.kind !== 'name'} tabindex={here ? 0 : -1} onfocusin={onhere} aria-label="{item.name || item.photo_name}, {item.recipe_title}">
  {#if item.kind === 'name'}
    <div class="what">
      <p class="strong name">{item.name}</p>
      <p class="dim name">{item.folder || 'output folder'}</p>
    </div>
    <div class="pair">
      {#if there?.shown}<img src="/api/questions/{item.id}/there" alt="The file that is there" />{:else}<span class="none dim">no preview</span>{/if}
      <div>
        <p class="strong">there</p>
        {#if there}
          <p>{there.width ? `${pixels(there.width, there.height)} · ` : ''}{bytes(there.bytes)}</p>
          <p class="dim">{when(there.changed)}{there.ours ? '' : ', not made here'}</p>
        {:else}<p class="dim">nothing any more</p>{/if}
      </div>
    </div>
    <div class="pair">
      <img src={would} alt="What would come" />
      <div>
        <p class="strong">would come</p>
        <p>{pixels(item.width, item.height)} · about {bytes(item.about)}</p>
        {#if there?.same}<p class="dim">the same as what is there</p>{/if}
      </div>
    </div>
    <div class="answers">
      <button class="pill ring" onclick={() => onanswer('new-name')}>New name <kbd>N</kbd></button>
      <button class="pill ring" onclick={() => onanswer('replace')}>Replace <kbd>R</kbd></button>
      <button class="pill ring" onclick={() => onanswer('keep')}>Keep the old <kbd>K</kbd></button>
    </div>
  {:else if item.kind === 'word'}
    <div class="pair"><img src={photoPicture({ id: item.photo, digest: item.photo_digest }, 200)} alt="" /><p class="dim name">{item.photo_name}</p></div>
    <form class="typing" onsubmit={(event) => { event.preventDefault(); ontyped(word, text); }}>
      <TextInput labelText="{word} of {item.photo_name}" hideLabel placeholder={word} bind:value={text} maxlength={200} />
      <button class="quiet small" disabled={!text.trim()}>Keep <kbd>Enter</kbd></button>
    </form>
    <p class="dim name">its name waits for its {item.words.join(' and ') || 'words'}</p>
    <div class="answers"><button class="pill ring" onclick={() => onanswer('own-name')}>Name it {item.name}</button></div>
  {:else}
    <div class="pair"><img src={photoPicture({ id: item.photo, digest: item.photo_digest }, 200)} alt="" /><p class="dim name">{item.photo_name}</p></div>
    <p class="name">{item.name}</p>
    <p class="dim">{item.tray_name}</p>
    <div class="answers">{#if item.tray}<a class="pill ring" href="/trays/{item.tray}/bench/{item.photo}/{item.recipe}{item.kind === 'outline' ? '/outline' : ''}">{item.kind === 'outline' ? 'Look at the outline' : 'Place the crop'}</a>{:else}<span class="dim">its tray is archived</span>{/if}</div>
  {/if}
</article>

<style>
  article { display: grid; grid-template-columns: minmax(150px, 1.1fr) minmax(230px, 2fr) minmax(210px, 2fr) max-content; gap: 16px; align-items: center; background: var(--bench); border-radius: var(--radius); padding: 8px 14px; min-height: 92px; outline: 2px solid transparent; outline-offset: -2px; }
  article.simple { grid-template-columns: minmax(280px, 1.2fr) minmax(260px, 1.4fr) minmax(120px, 0.7fr) max-content; }
  article.here { background: var(--sheet); outline-color: var(--accent); }
  .pair { display: flex; gap: 14px; align-items: center; min-width: 0; }
  img { width: 112px; height: 76px; object-fit: contain; flex: none; }
  .none { width: 112px; height: 76px; display: grid; place-items: center; background: var(--room); flex: none; }
  .name { overflow-wrap: anywhere; }
  .answers { display: flex; gap: 6px; justify-self: end; }
  .answers .pill { text-decoration: none; background: none; }
  .answers .pill:hover { background: var(--ink); color: var(--on-ink); }
  .typing { display: flex; gap: 8px; align-items: center; }
  .typing :global(.bx--form-item) { flex: 1; }
</style>
