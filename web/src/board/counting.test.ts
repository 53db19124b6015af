import { describe, expect, it } from 'vitest';
import type { Row } from '../api/client';
import { countHere } from './counting';
import type { Picked } from './selection';

const cell = (recipe: number, state: string, parts = 1, bytes = 1000) => ({ recipe, state, parts, bytes });
const rows = new Map<number, Row>(
  [
    { photo: { id: 1 }, cells: [cell(7, 'planned'), cell(8, 'done', 6)] },
    { photo: { id: 2 }, cells: [cell(7, 'outdated', 3, 500), cell(8, 'excluded', 6)] },
    { photo: { id: 3 }, cells: [] }, // cannot be read
    { photo: { id: 4 }, cells: [cell(7, 'eye'), cell(8, 'making', 6)] },
  ].map((row) => [row.photo.id, row as unknown as Row]),
);
const picked = (...cells: [number, number[]][]): Picked => new Map(cells.map(([photo, recipes]) => [photo, new Set(recipes)])) as unknown as Picked;

describe('what making a choice would do', () => {
  it('counts renditions rather than cells, and only those that are made by it', () => {
    const counts = countHere(picked([1, [7, 8]], [2, [7, 8]]), 0, rows, 2);
    expect(counts).toMatchObject({ cells: 4, photos: 2, renditions: 1 + 6 + 3, to_make: 1 + 3, made: 6, excluded: 1, about: 1500, whole: true });
  });

  it('counts no photo that cannot be read as something to make', () => {
    expect(countHere(picked([3, [7, 8]]), 0, rows, 2)).toMatchObject({ cells: 2, unread: 1, renditions: 0, to_make: 0 });
  });

  it('tells what needs a crop and what is being made apart', () => {
    expect(countHere(picked([4, [7, 8]]), 0, rows, 2)).toMatchObject({ eye: 1, open: 6, to_make: 0 });
  });

  it('knows when rows are chosen whole', () => {
    expect(countHere(picked([1, [7]], [2, [7, 8]]), 0, rows, 2)?.whole).toBe(false);
    expect(countHere(picked(), 5, rows, 2)).toMatchObject({ whole: false, hidden: 5, cells: 0 });
  });

  it('leaves it to the server where a row is not here', () => {
    expect(countHere(picked([1, [7]], [99, [7]]), 0, rows, 2)).toBeUndefined();
  });
});
