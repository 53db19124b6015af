import type { Cell, Row, Schemas } from '../api/client';
import { OPEN, TO_MAKE } from '../words/states';
import { sizeOf, type Picked } from './selection';

/** What is chosen, of what is shown, and what making it would do: as the server counts it. */
export type Counts = Schemas['ChosenOut'];

/** The same from rows that are here, so that arrows need not wait; undefined where one of them is not. */
export function countHere(picked: Picked, hidden: number, rows: { get(photo: number): Row | undefined }, recipes: number): Counts | undefined {
  const counts: Counts = { cells: sizeOf(picked), hidden, photos: picked.size, whole: false, unread: 0, renditions: 0, to_make: 0, open: 0, made: 0, excluded: 0, eye: 0, about: 0 };
  for (const [photo, columns] of picked) {
    const row = rows.get(photo);
    if (!row) return undefined;
    if (row.cells.length === 0) counts.unread += 1;
    for (const cell of row.cells) if (columns.has(cell.recipe)) count(counts, cell);
  }
  counts.whole = counts.cells > 0 && counts.cells === picked.size * recipes;
  return counts;
}

function count(counts: Counts, cell: Cell): void {
  if (cell.state === 'excluded') counts.excluded += 1;
  else counts.renditions += cell.parts;
  if (TO_MAKE.includes(cell.state)) {
    counts.to_make += cell.parts;
    counts.about += cell.bytes;
  }
  if (OPEN.includes(cell.state)) counts.open += cell.parts;
  if (['done', 'kept'].includes(cell.state)) counts.made += cell.parts;
  if (cell.state === 'eye') counts.eye += 1;
}
