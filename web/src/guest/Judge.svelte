<script lang="ts">
  import CutName from '../ui/CutName.svelte';
  import type { Comment, Link, Says, Thing } from './room.svelte';

  let { link, things, at = $bindable(), onclose }: { link: Link; things: Thing[]; at: number | undefined; onclose: (at: number) => void } = $props();

  /** One proof, as large as the screen: yes, maybe, no by thumb, key or swipe, and words at a spot of it. */
  const SAYS: [Says, string, string][] = [['yes', 'Yes', 'Y'], ['maybe', 'Maybe', 'M'], ['no', 'No', 'N']];
  const place = $derived(at ?? 0);
  const thing = $derived(things[place]);
  let spot = $state<{ x: number; y: number }>();
  let writing = $state(false);
  let text = $state('');
  let failed = $state('');
  let busy = $state(false);
  let field = $state<HTMLTextAreaElement>();
  let start: { x: number; y: number } | undefined;
  const SWIPE = 60;

  function go(by: number): void {
    const next = place + by;
    if (next < 0 || next >= things.length) return;
    at = next;
    stopWriting();
  }

  function stopWriting(): void {
    writing = false;
    spot = undefined;
    text = '';
    failed = '';
  }

  async function trying(work: () => Promise<void>): Promise<boolean> {
    failed = '';
    try {
      await work();
      return true;
    } catch (error) {
      failed = error instanceof Error ? error.message : String(error);
      return false;
    }
  }

  /** The same once more takes it back. */
  async function say(says: Says): Promise<void> {
    if (thing) await trying(() => link.say(thing, thing.says === says ? null : says));
  }

  function write(to?: { x: number; y: number }): void {
    spot = to;
    writing = true;
    setTimeout(() => field?.focus(), 0);
  }

  async function send(event: Event): Promise<void> {
    event.preventDefault();
    if (busy || !thing) return;
    busy = true;
    if (await trying(() => link.write(thing, text, spot))) stopWriting();
    busy = false;
  }

  function pressed(event: KeyboardEvent): void {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const typing = event.target instanceof HTMLTextAreaElement;
    if (event.key === 'Escape') {
      if (writing) stopWriting();
      else onclose(place);
    } else if (typing) return;
    else if (event.key === 'ArrowRight') go(1);
    else if (event.key === 'ArrowLeft') go(-1);
    else if (event.key.toLowerCase() === 'c') write();
    else {
      const found = SAYS.find(([, , key]) => key.toLowerCase() === event.key.toLowerCase());
      if (!found) return;
      void say(found[0]);
    }
    event.preventDefault();
  }

  function tapped(event: MouseEvent): void {
    const box = (event.currentTarget as Element).getBoundingClientRect();
    write({ x: (event.clientX - box.left) / box.width, y: (event.clientY - box.top) / box.height });
  }

  function down(event: TouchEvent): void {
    const touch = event.touches.length === 1 ? event.touches[0] : undefined;
    start = touch && { x: touch.clientX, y: touch.clientY };
  }

  /** To the side for the next one, up for yes, down for no. */
  function up(event: TouchEvent): void {
    const touch = event.changedTouches[0];
    if (!start || !touch || (window.visualViewport?.scale ?? 1) > 1.05) return;
    const [dx, dy] = [touch.clientX - start.x, touch.clientY - start.y];
    start = undefined;
    if (Math.abs(dx) > SWIPE && Math.abs(dx) > 1.5 * Math.abs(dy)) go(dx < 0 ? 1 : -1);
    else if (Math.abs(dy) > SWIPE && Math.abs(dy) > 1.5 * Math.abs(dx)) void say(dy < 0 ? 'yes' : 'no');
  }

  const numbered = $derived(thing?.comments.filter((each) => each.x !== null) ?? []);
  const where = (comment: Comment) => (comment.x === null ? '' : `${numbered.indexOf(comment) + 1}. `);
  // Its own coordinates, set as properties: the page allows no styles in markup.
  function put(node: HTMLElement, spot: { x: number | null; y: number | null }) {
    const set = (to: { x: number | null; y: number | null }) => {
      node.style.left = `${(to.x ?? 0) * 100}%`;
      node.style.top = `${(to.y ?? 0) * 100}%`;
    };
    set(spot);
    return { update: set };
  }
</script>

<svelte:window onkeydown={pressed} />
{#if thing}
  <main aria-label="{thing.name}, {place + 1} of {things.length}">
    <div class="top">
      <button class="quiet small" onclick={() => onclose(place)}>‹ All</button>
      <h1><CutName name={thing.name} /></h1>
      <span class="dim">{place + 1} of {things.length}</span>
    </div>
    <div class="stage" ontouchstart={down} ontouchend={up} role="presentation">
      <button class="step before" disabled={place === 0} aria-label="Picture before" onclick={() => go(-1)}>‹</button>
      {#if thing.there}
        <div class="frame">
          <!-- The same is done by the button Comment; a spot needs a pointer. -->
          <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_noninteractive_element_interactions -->
          {#key thing.id}<img src={link.picture(thing)} alt={thing.alt || thing.title || thing.name} width={thing.width} height={thing.height} onclick={tapped} draggable="false" />{/key}
          {#each numbered as comment, i (comment.id)}<span class="spot" use:put={comment}>{i + 1}</span>{/each}
          {#if spot}<span class="spot now" use:put={spot}>+</span>{/if}
        </div>
      {:else}<p>This picture is gone. Ask whoever sent you the link.</p>{/if}
      <button class="step after" disabled={place === things.length - 1} aria-label="Next picture" onclick={() => go(1)}>›</button>
    </div>
    <div class="says" role="group" aria-label="What you say of it">
      {#each SAYS as [says, title, key] (says)}<button class="quiet {says}" class:on={thing.says === says} aria-pressed={thing.says === says} onclick={() => void say(says)}>{title} <kbd>{key}</kbd></button>{/each}
      <button class="quiet" aria-expanded={writing} onclick={() => (writing ? stopWriting() : write())}>Comment <kbd>C</kbd></button>
    </div>
    {#if failed}<p class="bad" role="alert">{failed}</p>{/if}
    {#if writing}
      <form onsubmit={(event) => void send(event)}>
        <label class="field">{spot ? 'About this spot' : 'About the picture; press on it to mean a spot'} <textarea rows="2" maxlength="1000" bind:value={text} bind:this={field} required></textarea></label>
        <button class="press" disabled={busy || !text.trim()}>Send</button>
      </form>
    {/if}
    {#if thing.comments.length}
      <ul aria-label="What you wrote">
        {#each thing.comments as comment (comment.id)}<li>{where(comment)}{comment.text} <button class="dim" aria-label="Delete: {comment.text}" onclick={() => void trying(() => link.unwrite(thing, comment))}>×</button></li>{/each}
      </ul>
    {/if}
  </main>
{/if}

<style>
  main { min-height: 100dvh; display: flex; flex-direction: column; gap: 10px; padding: 10px 12px 16px; }
  .top { display: flex; gap: 12px; align-items: center; }
  h1 { flex: 1; min-width: 0; font-size: 15px; font-weight: 600; }
  .small { min-height: 44px; padding: 0 14px; font-size: 14px; }
  .stage { flex: 1; min-height: 240px; display: grid; grid-template-columns: auto 1fr auto; gap: 8px; align-items: center; justify-items: center; touch-action: pan-y pinch-zoom; }
  .frame { position: relative; line-height: 0; max-width: 100%; }
  img { max-width: 100%; max-height: calc(100dvh - 190px); width: auto; height: auto; cursor: crosshair; background: var(--empty); }
  .step { min-width: 44px; min-height: 80px; font-size: 26px; text-align: center; color: var(--dim); }
  .step:disabled { opacity: 0.25; }
  @media (max-width: 700px) { .stage { grid-template-columns: 1fr; } .step { display: none; } img { max-height: calc(100dvh - 250px); } kbd { display: none; } }
  .spot { position: absolute; width: 24px; height: 24px; margin: -12px 0 0 -12px; border-radius: 50%; background: var(--ink); color: var(--on-ink); font-size: 13px; line-height: 24px; text-align: center; border: 0; pointer-events: none; }
  .spot.now { background: var(--accent); color: var(--on-accent); }
  .says { display: grid; grid-template-columns: repeat(4, 1fr); gap: 8px; max-width: 620px; width: 100%; margin: 0 auto; }
  .says .quiet { padding: 0 6px; }
  .yes.on { background: var(--accent); border-color: var(--accent); color: var(--on-accent); }
  .no.on { background: var(--bad); border-color: var(--bad); color: var(--room); }
  .maybe.on { background: var(--eye); border-color: var(--eye); color: var(--room); }
  kbd { font: inherit; font-size: 12px; font-weight: 400; border: 1px solid currentColor; border-radius: 3px; padding: 0 5px; }
  form { display: grid; grid-template-columns: 1fr auto; gap: 10px; align-items: end; max-width: 720px; width: 100%; margin: 0 auto; }
  ul { max-width: 720px; width: 100%; margin: 0 auto; display: grid; gap: 6px; font-size: 15px; }
  li button { min-width: 32px; min-height: 32px; text-align: center; }
</style>
