<script lang="ts">
  import { weight, type Link, type Room, type Thing } from './room.svelte';

  let { link, room }: { link: Link; room: Room } = $props();

  /** Finished files, made for a phone: look, save, share, copy the words that go with them. */
  const there = $derived(room.things.filter((each) => each.there));
  const whole = $derived(there.reduce((sum, each) => sum + each.bytes, 0));
  let said = $state('');
  let sharing = $state<number>();
  const canShare = 'share' in navigator && 'canShare' in navigator;
  const until = $derived(new Date(room.expires).toLocaleDateString(undefined, { day: 'numeric', month: 'long', year: 'numeric' }));

  function tell(text: string): void {
    said = '';
    setTimeout(() => (said = text), 20);
  }

  async function share(thing: Thing): Promise<void> {
    if (sharing !== undefined) return;
    sharing = thing.id;
    try {
      const answer = await fetch(link.file(thing));
      if (!answer.ok) throw new Error('The file is gone. Ask whoever sent you the link.');
      const blob = await answer.blob();
      const file = new File([blob], thing.name, { type: blob.type });
      if (!navigator.canShare({ files: [file] })) throw new Error('This browser cannot share such a file. Save it instead.');
      await navigator.share({ files: [file], title: thing.title || thing.name });
    } catch (error) {
      if (!(error instanceof DOMException && error.name === 'AbortError')) tell(error instanceof Error ? error.message : String(error));
    } finally {
      sharing = undefined;
    }
  }

  async function copy(text: string, what: string): Promise<void> {
    try {
      await navigator.clipboard.writeText(text);
      tell(`${what} copied.`);
    } catch {
      tell('The browser did not let it be copied. Press and hold the text instead.');
    }
  }
</script>

<main>
  <header>
    <p class="dim">{room.studio}</p>
    <h1>{room.name}</h1>
    {#if there.length > 1}<a class="press" href="/guest/{link.number}/all" download>Save all {there.length} <span class="light">{weight(whole)}, as a zip</span></a>{/if}
  </header>
  <ul>
    {#each room.things as thing (thing.id)}
      <li>
        {#if thing.there}
          <a class="picture" href={link.file(thing)} download={thing.name} aria-label="Save {thing.name}"><img src={link.picture(thing)} alt={thing.alt || thing.title || thing.name} width={thing.width} height={thing.height} loading="lazy" /></a>
          <p class="name">{thing.name}</p>
          <p class="dim">{thing.width} × {thing.height} · {thing.format} · {weight(thing.bytes)}</p>
          <div class="do">
            <a class="quiet" href={link.file(thing)} download={thing.name}>Save</a>
            {#if canShare}<button class="quiet" disabled={sharing !== undefined} onclick={() => void share(thing)}>{sharing === thing.id ? 'One moment…' : 'Share'}</button>{/if}
          </div>
          {#if thing.title}<div class="words"><p><span class="dim">Title</span> {thing.title}</p><button class="quiet small" onclick={() => void copy(thing.title, 'Title')}>Copy title</button></div>{/if}
          {#if thing.alt}<div class="words"><p><span class="dim">Alt text</span> {thing.alt}</p><button class="quiet small" onclick={() => void copy(thing.alt, 'Alt text')}>Copy alt text</button></div>{/if}
        {:else}
          <p class="name">{thing.name}</p>
          <p class="dim">It was moved or deleted. Ask whoever sent you the link.</p>
        {/if}
      </li>
    {/each}
  </ul>
  <footer class="dim">This page can be opened until {until}.</footer>
</main>
<p class="said" role="status" class:on={said}>{said}</p>

<style>
  main { max-width: 640px; margin: 0 auto; padding: 18px 16px 40px; display: grid; gap: 22px; }
  header { display: grid; gap: 6px; }
  h1 { font-size: 24px; font-weight: 600; line-height: 1.2; overflow-wrap: anywhere; }
  header .press { margin-top: 8px; }
  .light { font-weight: 400; }
  ul { display: grid; gap: 30px; }
  li { display: grid; gap: 4px; }
  .picture { display: block; background: var(--empty); line-height: 0; }
  img { width: 100%; height: auto; }
  .name { margin-top: 6px; font-weight: 600; overflow-wrap: anywhere; }
  .do { display: grid; grid-auto-flow: column; grid-auto-columns: 1fr; gap: 10px; margin: 6px 0; }
  .words { display: grid; grid-template-columns: 1fr auto; gap: 12px; align-items: center; }
  .small { min-height: 44px; padding: 0 12px; font-size: 14px; }
  .said { position: fixed; left: 16px; right: 16px; bottom: 16px; background: var(--ink); color: var(--on-ink); border-radius: 8px; padding: 12px 16px; opacity: 0; transition: opacity 0.2s; pointer-events: none; }
  .said.on { opacity: 1; }
</style>
