import { describe, expect, it } from 'vitest';
import { everything, moved, rectangle, wholeColumn, wholeRow } from './selection';

const extent = { rows: 5, columns: 3 };

describe('selecting', () => {
  it('takes the rectangle between two corners, whichever comes first', () => {
    const one = rectangle({ row: 3, column: 2 }, { row: 1, column: 1 });
    expect(one).toHaveLength(6);
    expect(one).toEqual(rectangle({ row: 1, column: 1 }, { row: 3, column: 2 }));
  });

  it('takes rows, columns and everything', () => {
    expect(wholeRow(2, extent)).toHaveLength(3);
    expect(wholeColumn(0, extent).map((spot) => spot.row)).toEqual([0, 1, 2, 3, 4]);
    expect(everything(extent)).toHaveLength(15);
    expect(everything({ rows: 0, columns: 3 })).toEqual([]);
  });

  it('moves by keys and stays on the board', () => {
    const from = { row: 1, column: 1 };
    expect(moved(from, 'ArrowUp', extent)).toEqual({ row: 0, column: 1 });
    expect(moved({ row: 0, column: 0 }, 'ArrowLeft', extent)).toEqual({ row: 0, column: 0 });
    expect(moved(from, 'PageDown', extent)).toEqual({ row: 4, column: 1 });
    expect(moved(from, 'End', extent)).toEqual({ row: 1, column: 2 });
    expect(moved(from, 'x', extent)).toBeUndefined();
    expect(moved({ row: 0, column: 0 }, 'ArrowDown', { rows: 0, columns: 0 })).toEqual({ row: 0, column: 0 });
  });
});
