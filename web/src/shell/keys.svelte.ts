const KEY = 'upper-tray.letters';

/** Whether single letters, digits and signs do something: who speaks to their computer may want them off. */
class Letters {
  on = $state(localStorage.getItem(KEY) !== 'off');

  set(on: boolean): void {
    this.on = on;
    localStorage.setItem(KEY, on ? 'on' : 'off');
  }
}

export const letters = new Letters();

const TYPED = 'textarea, select, [contenteditable], input:not([type=range], [type=checkbox], [type=radio], [type=button], [type=file])';
const MOVED = 'input, [role=slider], [role=option], [role=combobox]';
const PRESSED = `${MOVED}, button, a[href], summary`;
const MOVES = new Set(['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown', 'Home', 'End', 'PageUp', 'PageDown']);

/** Whether somebody is typing into what an event comes from. */
export function typing(event: Event): boolean {
  return event.target instanceof Element && event.target.closest(TYPED) !== null;
}

/** Whether an event comes from something that lies over the page. */
export function above(event: Event): boolean {
  return event.target instanceof Element && event.target.closest('.bx--modal, dialog, [role=menu]') !== null;
}

/** Whether a key is one that the control in focus takes for itself: arrows in a slider, Enter on a button. */
export function theirs(event: KeyboardEvent): boolean {
  const takes = MOVES.has(event.key) ? MOVED : [' ', 'Enter'].includes(event.key) ? PRESSED : undefined;
  return takes !== undefined && event.target instanceof Element && event.target.closest(takes) !== null;
}

/** The key that a page may act on, letters as small ones; undefined where it belongs to something else. */
export function pageKey(event: KeyboardEvent): string | undefined {
  if (event.defaultPrevented || event.altKey || typing(event) || above(event) || theirs(event)) return undefined;
  if (event.ctrlKey || event.metaKey) return ['Home', 'End'].includes(event.key) ? `Control+${event.key}` : undefined;
  if (event.key.length > 1 || event.key === ' ') return event.key;
  return letters.on ? event.key.toLowerCase() : undefined;
}

/** The same for pages on which Enter keeps, wherever the focus is but on what is pressed by it. */
export function keepingKey(event: KeyboardEvent): string | undefined {
  const target = event.target as HTMLElement;
  return event.key === 'Enter' && !target.closest('button, a, dialog, [role=dialog]') ? 'Enter' : pageKey(event);
}
