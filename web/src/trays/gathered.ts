import { undo } from '../shell/undo.svelte';
import { count } from '../words/numbers';

/** Photos that came into a tray can be taken out again, and put back in their places. */
export function gathered(tray: { id: number; name: string }, photos: number[]): void {
  if (!photos.length) return;
  const path = `/api/trays/${tray.id}`;
  undo.push({
    what: `added ${count(photos.length, 'photo')}`,
    at: `/trays/${tray.id}`,
    place: tray.name,
    undo: [{ method: 'POST', path: `${path}/take-out`, body: { photos }, feeds: true }],
    redo: [{ method: 'POST', path: `${path}/put-back` }],
  });
}
