import { above, typing } from './keys.svelte';

/** What Escape closes: returns false where there was nothing to close, and the next one out is asked. */
type Close = () => boolean | void;

const open: Close[] = [];

/** Close this by Escape, before all that was open already, until the returned function is called. */
export function onEscape(close: Close): () => void {
  open.push(close);
  return () => {
    const at = open.lastIndexOf(close);
    if (at >= 0) open.splice(at, 1);
  };
}

/** Escape leaves a field and keeps what is in it: library and browser would empty a search field. For a parent of theirs, when it captures keys. */
export function leaveField(event: KeyboardEvent): void {
  if (event.key !== 'Escape') return;
  event.stopPropagation();
  event.preventDefault();
  (event.target as HTMLElement).blur();
}

/** Escape closes the innermost thing alone: a field is left, a panel closed, a choice cleared, a page left. */
export function escape(event: KeyboardEvent): void {
  if (event.key !== 'Escape' || event.defaultPrevented) return;
  const inDialog = above(event);
  if (typing(event) && !inDialog) {
    (event.target as HTMLElement).blur();
    event.preventDefault();
    return;
  }
  for (const close of [...open].reverse()) {
    if (close() === false) continue;
    event.preventDefault();
    return;
  }
}
