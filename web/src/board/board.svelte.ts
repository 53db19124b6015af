import { SvelteSet } from 'svelte/reactivity';
import { api, taken, type Board, type Cell, type Photo, type Recipe, type Row, type Run } from '../api/client';
import { undo } from '../shell/undo.svelte';
import { count } from '../words/numbers';
import { everything, moved, rectangle, wholeColumn, wholeRow, type Extent, type Spot } from './selection';

export type Filter = 'all' | 'unreadable' | 'failed' | 'outdated';

export type Item = { kind: 'folder'; key: string; name: string; photos: number } | { kind: 'row'; key: string; row: Row; index: number };

const OPEN = ['waiting', 'making'];
const TO_MAKE = ['planned', 'outdated', 'failed'];

/** The board of one tray: what the server planned, and what is chosen on it. */
export class BoardState {
  board = $state.raw<Board>();
  filter = $state<Filter>('all');
  focus = $state<Spot>({ row: 0, column: 0 });
  selected = new SvelteSet<string>();
  private anchor: Spot = { row: 0, column: 0 };
  private asked = 0;
  private shown = 0;
  readonly tray: number;

  constructor(tray: number) {
    this.tray = tray;
  }

  recipes = $derived<Recipe[]>(this.board?.recipes ?? []);
  rows = $derived<Row[]>((this.board?.rows ?? []).filter((row) => this.passes(row)));
  extent = $derived<Extent>({ rows: this.rows.length, columns: this.recipes.length });
  cells = $derived<Cell[]>((this.board?.rows ?? []).flatMap((row) => row.cells));
  items = $derived<Item[]>(grouped(this.rows));
  reading = $derived((this.board?.rows ?? []).filter((row) => row.photo.state === 'waiting').length);
  unreadable = $derived((this.board?.rows ?? []).filter((row) => row.photo.state === 'unreadable').length);
  originals = $derived((this.board?.rows ?? []).reduce((sum, row) => sum + row.photo.bytes, 0));
  included = $derived(this.cells.filter((cell) => cell.state !== 'excluded'));
  made = $derived(this.cells.filter((cell) => cell.state === 'done' || cell.state === 'kept'));
  making = $derived(this.cells.filter((cell) => OPEN.includes(cell.state)).length);
  chosen = $derived(this.pairs([...this.selected]));
  toMake = $derived(
    (this.selected.size > 0 ? this.chosen.map(([, , cell]) => cell) : this.cells).filter((cell) =>
      TO_MAKE.includes(cell.state),
    ).length,
  );

  number(state: Filter): number {
    if (state === 'all') return this.board?.rows.length ?? 0;
    if (state === 'unreadable') return this.unreadable;
    return this.cells.filter((cell) => cell.state === state).length;
  }

  private passes(row: Row): boolean {
    if (this.filter === 'all') return true;
    if (this.filter === 'unreadable') return row.photo.state === 'unreadable';
    return row.cells.some((cell) => cell.state === this.filter);
  }

  async load(): Promise<void> {
    const turn = ++this.asked;
    const board = await taken(api.GET('/api/trays/{number}/board', { params: { path: { number: this.tray } } }));
    if (turn < this.shown) return; // a newer answer was faster
    this.shown = turn;
    this.board = board;
    // What is no longer on the board cannot stay chosen.
    const there = new Set(board.rows.flatMap((row) => row.cells.map((cell) => key(row.photo.id, cell.recipe))));
    for (const each of this.selected) if (!there.has(each)) this.selected.delete(each);
  }

  at(spot: Spot): [Photo, Cell] | undefined {
    const row = this.rows[spot.row];
    const recipe = this.recipes[spot.column];
    const cell = row?.cells.find((each) => each.recipe === recipe?.id);
    return row && cell ? [row.photo, cell] : undefined;
  }

  /** Choose the cells at these spots; `add` keeps what is chosen already. */
  choose(spots: Spot[], add = false): void {
    if (!add) this.selected.clear();
    for (const spot of spots) {
      const found = this.at(spot);
      if (found) this.selected.add(key(found[0].id, found[1].recipe));
    }
  }

  click(spot: Spot, how: { shift: boolean; add: boolean }): void {
    this.focus = spot;
    if (how.shift) this.choose(rectangle(this.anchor, spot), how.add);
    else {
      this.anchor = spot;
      const found = this.at(spot);
      const name = found && key(found[0].id, found[1].recipe);
      if (how.add && name && this.selected.has(name)) this.selected.delete(name);
      else this.choose([spot], how.add);
    }
  }

  clickRow(row: number, how: { shift: boolean; add: boolean }): void {
    const from = how.shift ? this.anchor.row : row;
    const last = Math.max(0, this.extent.columns - 1);
    this.choose(how.shift ? rectangle({ row: from, column: 0 }, { row, column: last }) : wholeRow(row, this.extent), how.add);
    this.focus = { row, column: 0 };
    if (!how.shift) this.anchor = this.focus;
  }

  clickColumn(column: number, how: { shift: boolean; add: boolean }): void {
    const last = Math.max(0, this.extent.rows - 1);
    const from = how.shift ? this.anchor.column : column;
    const spots = how.shift ? rectangle({ row: 0, column: from }, { row: last, column }) : wholeColumn(column, this.extent);
    this.choose(spots, how.add);
    this.focus = { row: 0, column };
    if (!how.shift) this.anchor = this.focus;
  }

  all(): void {
    this.choose(everything(this.extent));
  }

  clear(): void {
    this.selected.clear();
  }

  /** Follow an arrow key; true when it led somewhere. */
  move(pressed: string, extend: boolean): boolean {
    const spot = moved(this.focus, pressed, this.extent);
    if (!spot) return false;
    if (this.selected.size === 0 && !extend) this.anchor = this.focus;
    this.focus = spot;
    if (extend) this.choose(rectangle(this.anchor, spot));
    else {
      this.anchor = spot;
      this.choose([spot]);
    }
    return true;
  }

  /** Leave the chosen cells out, or take them in again when all of them are out. */
  async toggleIncluded(): Promise<void> {
    const pairs = this.selected.size ? this.chosen : this.pairs([this.keyAt(this.focus)]);
    if (pairs.length === 0) return;
    const included = pairs.every(([, , cell]) => cell.state === 'excluded');
    const changed = pairs.filter(([, , cell]) => (cell.state === 'excluded') === included);
    const cells = changed.map(([photo, recipe]): [number, number] => [photo, recipe]);
    await this.include(cells, included);
    undo.push(`${included ? 'included' : 'left out'} ${count(cells.length, 'rendition')}`, () => this.include(cells, !included));
  }

  private async include(cells: [number, number][], included: boolean): Promise<void> {
    const path = { number: this.tray };
    await taken(api.POST('/api/trays/{number}/include', { params: { path }, body: { cells, included } }));
    await this.load();
  }

  async light(recipes: number[]): Promise<void> {
    const before = this.recipes.map((recipe) => recipe.id);
    await this.setRecipes(recipes);
    undo.push('changed the recipes of the tray', () => this.setRecipes(before));
  }

  private async setRecipes(recipes: number[]): Promise<void> {
    await taken(api.PUT('/api/trays/{number}/recipes', { params: { path: { number: this.tray } }, body: { recipes } }));
    await this.load();
  }

  /** Start making what is chosen, or all. again: also what is made already. */
  async make(again = false): Promise<Run> {
    const cells = this.selected.size ? this.chosen.map(([photo, recipe]): [number, number] => [photo, recipe]) : null;
    const run = await taken(api.POST('/api/runs', { body: { tray: this.tray, cells, again } }));
    await this.load();
    return run;
  }

  private keyAt(spot: Spot): string {
    const found = this.at(spot);
    return found ? key(found[0].id, found[1].recipe) : '';
  }

  private pairs(keys: string[]): [number, number, Cell][] {
    const wanted = new Set(keys);
    return (this.board?.rows ?? []).flatMap((row) =>
      row.cells
        .filter((cell) => wanted.has(key(row.photo.id, cell.recipe)))
        .map((cell): [number, number, Cell] => [row.photo.id, cell.recipe, cell]),
    );
  }
}

export function key(photo: number, recipe: number): string {
  return `${photo}:${recipe}`;
}

function grouped(rows: Row[]): Item[] {
  const items: Item[] = [];
  let current: Extract<Item, { kind: 'folder' }> | undefined;
  rows.forEach((row, index) => {
    if (!current || current.name !== row.photo.folder) {
      current = { kind: 'folder', key: `folder ${row.photo.folder} ${index}`, name: row.photo.folder, photos: 0 };
      items.push(current);
    }
    current.photos += 1;
    items.push({ kind: 'row', key: `photo ${row.photo.id}`, row, index });
  });
  return items;
}

/** The address of a cell's picture; it changes with the photo's content and the recipe's version. */
export function cellPicture(photo: Photo, version: number, edge: number): string {
  return `/api/pictures/cells/${photo.id}/${version}?edge=${edge}&d=${photo.digest}`;
}

export function photoPicture(photo: { id: number; digest: string }): string {
  return `/api/pictures/photos/${photo.id}?d=${photo.digest}`;
}
