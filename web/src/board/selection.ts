/** Cells of the board by their place: row and column in the order shown. */
export interface Spot {
  row: number;
  column: number;
}

export interface Extent {
  rows: number;
  columns: number;
}

/**
 * Cells of some photos by some recipes, as the server takes them. first, last: the corners of a rectangle, by photo, in
 * the order shown; or photos, one by one; or neither, for all that are shown. recipes: left out for all. out: taken away
 * from what the areas before choose.
 */
export interface Area {
  first?: number;
  last?: number;
  photos?: number[];
  recipes?: number[];
  out?: boolean;
}

/** The chosen recipes of each chosen photo. */
export type Picked = Map<number, ReadonlySet<number>>;

/** What areas choose, photos that are not shown included where they are named. places: of those shown, in order. */
export function pickedBy(areas: readonly Area[], shown: readonly number[], places: ReadonlyMap<number, number>, recipes: readonly number[]): Picked {
  const picked: Picked = new Map();
  for (const area of areas) {
    const columns = new Set(area.recipes?.filter((each) => recipes.includes(each)) ?? recipes);
    for (const photo of rowsOf(area, shown, places)) {
      const before = picked.get(photo);
      const now = area.out ? without(before, columns) : before && before !== columns ? new Set([...before, ...columns]) : columns;
      if (now?.size) picked.set(photo, now);
      else picked.delete(photo);
    }
  }
  return picked;
}

function without(some: ReadonlySet<number> | undefined, others: ReadonlySet<number>): ReadonlySet<number> | undefined {
  return some && new Set([...some].filter((each) => !others.has(each)));
}

function rowsOf(area: Area, shown: readonly number[], places: ReadonlyMap<number, number>): readonly number[] {
  if (area.photos) return area.photos;
  if (area.first === undefined || area.last === undefined) return shown;
  const [one, other] = [places.get(area.first), places.get(area.last)];
  if (one === undefined || other === undefined) return [];
  return shown.slice(Math.min(one, other), Math.max(one, other) + 1);
}

/** The same choice photo by photo, whatever is shown and in whatever order: those with the same recipes together. */
export function named(picked: Picked): Area[] {
  const groups = new Map<string, Area & { photos: number[] }>();
  for (const [photo, recipes] of picked) {
    const key = [...recipes].toSorted((one, other) => one - other).join();
    const group = groups.get(key);
    if (group) group.photos.push(photo);
    else groups.set(key, { photos: [photo], recipes: [...recipes] });
  }
  return [...groups.values()];
}

/** How many cells are chosen. */
export function sizeOf(picked: Picked): number {
  let cells = 0;
  for (const recipes of picked.values()) cells += recipes.size;
  return cells;
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
  else if (key === 'Control+Home') [row, column] = [0, 0];
  else if (key === 'Control+End') [row, column] = [extent.rows - 1, extent.columns - 1];
  else return undefined;
  return { row: clamp(row, extent.rows), column: clamp(column, extent.columns) };
}
