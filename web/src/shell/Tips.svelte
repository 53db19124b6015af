<script lang="ts">
  import { onEscape } from './escape';
  import { placed } from './tips';

  /** Milliseconds that a pointer rests on something before its tip is shown; keys show it at once. */
  const REST = 450;

  /** The tips of everything with a title: by pointer, by focus, gone with Esc. The browser's own show by pointer alone. */
  let tip = $state<{ text: string; left: number; top: number; above: number }>();
  let of: HTMLElement | undefined;
  let later: ReturnType<typeof setTimeout> | undefined;
  let byKeys = false;
  /** What its element was given for as long as the tip is shown. */
  let lent: 'aria-describedby' | 'aria-label' | undefined;
  let element = $state<HTMLElement>();
  let size = $state.raw({ width: 0, height: 0 });

  function show(titled: HTMLElement, keys: boolean): void {
    const text = titled.getAttribute('title')?.trim();
    if (!text || titled === of) return;
    hide();
    of = titled;
    byKeys = keys;
    titled.removeAttribute('title');
    titled.dataset['tip'] = text;
    // Where the title was the only name there is, it stays that.
    lent = named(titled) ? 'aria-describedby' : 'aria-label';
    if (titled.hasAttribute(lent) || titled.getAttribute('aria-label') === text) lent = undefined;
    else titled.setAttribute(lent, lent === 'aria-label' ? text : 'tip');
    const box = titled.getBoundingClientRect();
    tip = { text, left: box.left + box.width / 2, top: box.bottom, above: box.top };
  }

  function hide(): void {
    clearTimeout(later);
    tip = undefined;
    if (!of) return;
    // What has changed meanwhile is not given its old words again.
    if (!of.hasAttribute('title') && of.dataset['tip']) of.setAttribute('title', of.dataset['tip']);
    delete of.dataset['tip'];
    if (lent) of.removeAttribute(lent);
    of = undefined;
  }

  const named = (titled: HTMLElement) => !!titled.textContent?.trim() || ['aria-label', 'aria-labelledby', 'alt'].some((each) => titled.hasAttribute(each)) || !!(titled as HTMLInputElement).labels?.length;
  const titledOf = (event: Event) => (event.target as Element | null)?.closest?.<HTMLElement>('[title], [data-tip]');

  function over(event: PointerEvent): void {
    const titled = titledOf(event);
    if (titled === of && of) return;
    hide();
    if (titled && event.pointerType !== 'touch') later = setTimeout(() => show(titled, false), REST);
  }

  function focused(event: FocusEvent): void {
    const titled = titledOf(event);
    // A press focuses, too: only what keys went to tells at once.
    if (titled && titled === event.target && titled.matches(':focus-visible')) show(titled, true);
    else if (of && !of.contains(event.target as Node)) hide();
  }

  $effect(() => {
    if (!tip) return;
    // One that the pointer happens to rest on is in nobody's way: Escape goes on to what was meant.
    return onEscape(() => {
      const keys = byKeys;
      hide();
      return keys;
    });
  });
  $effect(() => {
    if (tip && element) size = { width: element.offsetWidth, height: element.offsetHeight };
  });
  const at = $derived(tip && placed(tip, size, { width: innerWidth, height: innerHeight }));
</script>

<svelte:document onpointerover={over} onpointerdown={hide} onfocusin={focused} onfocusout={hide} onscrollcapture={hide} />
{#if tip}
  <div id="tip" role="tooltip" bind:this={element} style:left="{at?.left ?? 0}px" style:top="{at?.top ?? 0}px">{tip.text}</div>
{/if}

<style>
  div { position: fixed; z-index: 10000; max-width: 320px; padding: 5px 9px; border-radius: 4px; background: #1c1c1b; color: #f1f1ef; font-size: 12px; line-height: 17px; overflow-wrap: anywhere; pointer-events: none; box-shadow: 0 2px 8px rgb(0 0 0 / 0.3); }
</style>
