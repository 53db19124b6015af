import { describe, expect, it } from 'vitest';
import { moved, named, pickedBy, sizeOf, type Area, type Picked } from './selection';

const extent = { rows: 5, columns: 3 };
const shown = [11, 12, 13, 14, 15];
const recipes = [1, 2, 3];
const pick = (areas: Area[], order = shown): Picked => pickedBy(areas, order, new Map(order.map((photo, place) => [photo, place])), recipes);
const flat = (picked: Picked) => [...picked].map(([photo, columns]) => [photo, [...columns].toSorted()]);

describe('choosing by areas', () => {
  it('takes the rectangle between two corners, whichever comes first', () => {
    const one = pick([{ first: 14, last: 12, recipes: [2, 3] }]);
    expect(sizeOf(one)).toBe(6);
    expect(flat(one)).toEqual(flat(pick([{ first: 12, last: 14, recipes: [2, 3] }])));
  });

  it('takes everything, columns, rows, and takes away', () => {
    expect(sizeOf(pick([{}]))).toBe(15);
    expect(flat(pick([{ recipes: [1] }]))).toEqual(shown.map((photo) => [photo, [1]]));
    expect(flat(pick([{ photos: [13] }, { photos: [13], recipes: [2], out: true }]))).toEqual([[13, [1, 3]]]);
    expect(sizeOf(pick([{}, { out: true }]))).toBe(0);
    expect(sizeOf(pick([{ first: 99, last: 12 }]))).toBe(0);
    expect(sizeOf(pick([{ recipes: [9] }]))).toBe(0);
  });

  it('is the same choice photo by photo, in whatever order photos are shown', () => {
    for (let seed = 1; seed < 80; seed++) {
      const chance = (most: number) => Math.floor((Math.abs(Math.sin(seed * 7919 + most * 31 + areas.length * 17)) * 1e4) % most);
      const areas: Area[] = [];
      for (let i = 0; i < 4; i++) areas.push({ first: shown[chance(5)]!, last: shown[chance(4)]!, recipes: recipes.slice(chance(3)), out: chance(7) === 0 });
      const before = pick(areas);
      expect(flat(pick(named(before), shown.toReversed())).toSorted()).toEqual(flat(before).toSorted());
    }
  });
});

describe('keys', () => {
  it('move and stay on the board', () => {
    const from = { row: 1, column: 1 };
    expect(moved(from, 'ArrowUp', extent)).toEqual({ row: 0, column: 1 });
    expect(moved({ row: 0, column: 0 }, 'ArrowLeft', extent)).toEqual({ row: 0, column: 0 });
    expect(moved(from, 'PageDown', extent)).toEqual({ row: 4, column: 1 });
    expect(moved(from, 'End', extent)).toEqual({ row: 1, column: 2 });
    expect(moved(from, 'Control+End', extent)).toEqual({ row: extent.rows - 1, column: extent.columns - 1 });
    expect(moved(from, 'Control+Home', extent)).toEqual({ row: 0, column: 0 });
    expect(moved(from, 'x', extent)).toBeUndefined();
    expect(moved({ row: 0, column: 0 }, 'ArrowDown', { rows: 0, columns: 0 })).toEqual({ row: 0, column: 0 });
  });
});
