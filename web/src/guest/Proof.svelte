<script lang="ts">
  import CutName from '../ui/CutName.svelte';
  import Judge from './Judge.svelte';
  import type { Link, Room, Says, Thing } from './room.svelte';

  let { link, room }: { link: Link; room: Room } = $props();

  /** A gallery of proofs: what is chosen is seen by the studio at once. */
  const FILTERS = [['all', 'All'], ['yes', 'Yes'], ['maybe', 'Maybe'], ['no', 'No'], ['open', 'Not judged']] as const;
  const WORDS: Record<Says, string> = { yes: 'yes', maybe: 'maybe', no: 'no' };
  let filter = $state('all');
  let open = $state<number>();
  /** What is walked through: what was shown then, also when an answer would take it off the list. */
  let walk = $state.raw<number[]>([]);
  let failed = $state('');
  const shown = $derived(room.things.filter((each) => filter === 'all' || (filter === 'open' ? each.says === null : each.says === filter)));
  const walked = $derived(walk.flatMap((id) => room.things.find((each) => each.id === id) ?? []));
  const count = (key: string) => room.things.filter((each) => key === 'all' || (key === 'open' ? each.says === null : each.says === key)).length;
  const yes = $derived(count('yes'));
  const over = $derived(room.wanted !== null && yes > room.wanted);

  async function finish(): Promise<void> {
    failed = '';
    try {
      await link.finish(!room.done);
    } catch (error) {
      failed = error instanceof Error ? error.message : String(error);
    }
  }

  function look(thing: Thing): void {
    walk = shown.map((each) => each.id);
    open = shown.indexOf(thing);
  }

  /** The gallery's place is there again, with the picture that was looked at. */
  function close(at: number): void {
    open = undefined;
    const id = walked[at]?.id;
    setTimeout(() => document.getElementById(`thing-${id}`)?.focus(), 0);
  }
</script>

{#if open !== undefined}
  <Judge {link} things={walked} bind:at={open} onclose={close} />
{:else}
  <main>
    <header>
      <div>
        <p class="dim">{room.studio}</p>
        <h1>{room.name}</h1>
      </div>
      <p class="picks" role="status"><b>{yes}</b>{room.wanted === null ? ' chosen' : ` of ${room.wanted} chosen`}{#if over}{' '}<span class="bad">· {yes - (room.wanted ?? 0)} more than agreed</span>{/if}<br /><span class="dim">you are {room.guest}</span></p>
      <button class={room.done ? 'quiet' : 'press'} onclick={() => void finish()}>{room.done ? 'Done. Change something' : 'I am done'}</button>
    </header>
    {#if failed}<p class="bad" role="alert">{failed}</p>{/if}
    <div class="filters" role="group" aria-label="Show">
      {#each FILTERS as [key, title] (key)}<button class="quiet small" class:on={filter === key} aria-pressed={filter === key} onclick={() => (filter = key)}>{title} {count(key)}</button>{/each}
    </div>
    <ul>
      {#each shown as thing (thing.id)}
        <li>
          <button id="thing-{thing.id}" class="thing" onclick={() => look(thing)}>
            {#if thing.there}<img src={link.picture(thing, true)} alt={thing.alt || thing.title} width={thing.width} height={thing.height} loading="lazy" />{:else}<span class="gone">This picture is gone</span>{/if}
            <span class="under"><span class="name"><CutName name={thing.name} /></span><span class="mark {thing.says ?? 'open'}">{thing.says ? WORDS[thing.says] : ''}{thing.comments.length ? ` · ${thing.comments.length} said` : ''}</span></span>
          </button>
        </li>
      {:else}<li class="dim">None.</li>{/each}
    </ul>
  </main>
{/if}

<style>
  main { padding: 18px 16px 60px; max-width: 1400px; margin: 0 auto; display: grid; gap: 14px; }
  header { display: flex; flex-wrap: wrap; gap: 10px 24px; align-items: center; }
  header div { flex: 1 1 200px; }
  h1 { font-size: 22px; font-weight: 600; line-height: 1.2; overflow-wrap: anywhere; }
  .picks { text-align: right; font-size: 14px; }
  .picks b { font-size: 20px; }
  .filters { display: flex; gap: 8px; flex-wrap: wrap; }
  .small { min-height: 44px; padding: 0 14px; font-size: 14px; font-weight: 400; }
  ul { display: grid; grid-template-columns: repeat(auto-fill, minmax(160px, 1fr)); gap: 14px 12px; align-items: end; }
  @media (max-width: 500px) { .filters { gap: 6px; } .small { padding: 0 9px; font-size: 13px; } }
  @media (min-width: 700px) { ul { grid-template-columns: repeat(auto-fill, minmax(230px, 1fr)); } }
  li { min-width: 0; }
  .thing { display: grid; grid-template-columns: minmax(0, 1fr); gap: 4px; width: 100%; }
  /* All of one height, so that rows stay rows; each in its own shape. */
  img { width: 100%; height: auto; aspect-ratio: 1; object-fit: contain; background: var(--bench); padding: 6px; }
  .gone { aspect-ratio: 1; display: grid; place-items: center; background: var(--empty); color: var(--dim); font-size: 14px; }
  .under { display: flex; gap: 8px; font-size: 13px; align-items: baseline; }
  .name { min-width: 0; color: var(--dim); }
  .mark { margin-left: auto; flex: none; font-weight: 600; }
  .yes { color: var(--accent-deep); }
  .no { color: var(--bad); }
  .maybe { color: var(--eye); }
</style>
