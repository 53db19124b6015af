/** Cells of the board by their place: row and column in the order shown. */
export interface Spot {
  row: number;
  column: number;
}

export interface Extent {
  rows: number;
  columns: number;
}

/** All spots of the rectangle between two corners, both included. */
export function rectangle(one: Spot, other: Spot): Spot[] {
  const spots: Spot[] = [];
  for (let row = Math.min(one.row, other.row); row <= Math.max(one.row, other.row); row++) {
    for (let column = Math.min(one.column, other.column); column <= Math.max(one.column, other.column); column++) {
      spots.push({ row, column });
    }
  }
  return spots;
}

export function wholeRow(row: number, extent: Extent): Spot[] {
  return extent.columns ? rectangle({ row, column: 0 }, { row, column: extent.columns - 1 }) : [];
}

export function wholeColumn(column: number, extent: Extent): Spot[] {
  return extent.rows ? rectangle({ row: 0, column }, { row: extent.rows - 1, column }) : [];
}

export function everything(extent: Extent): Spot[] {
  if (!extent.rows || !extent.columns) return [];
  return rectangle({ row: 0, column: 0 }, { row: extent.rows - 1, column: extent.columns - 1 });
}

const STEPS: Record<string, [number, number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
};

/** Where an arrow, Home, End or page key leads from a spot; undefined for other keys. */
export function moved(from: Spot, key: string, extent: Extent, page = 4): Spot | undefined {
  const clamp = (value: number, top: number) => Math.min(Math.max(value, 0), Math.max(0, top - 1));
  const step = STEPS[key];
  let { row, column } = from;
  if (step) [row, column] = [row + step[0], column + step[1]];
  else if (key === 'Home') column = 0;
  else if (key === 'End') column = extent.columns - 1;
  else if (key === 'PageUp') row -= page;
  else if (key === 'PageDown') row += page;
  else return undefined;
  return { row: clamp(row, extent.rows), column: clamp(column, extent.columns) };
}
