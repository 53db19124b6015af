import { SvelteMap, SvelteSet } from 'svelte/reactivity';
import { api, taken, type Board, type Cell, type Overview, type Photo, type Recipe, type Row, type Run } from '../api/client';
import { studio } from '../shell/studio.svelte';
import { undo } from '../shell/undo.svelte';
import { count } from '../words/numbers';
import { Framings } from './framings';
import { Weighing } from './weighing';
import { everything, moved, rectangle, wholeColumn, wholeRow, type Extent, type Spot } from './selection';

/** What is shown, and in which order. */
export interface How {
  sort: string;
  name: string;
  shape: string;
  format: string;
  state: string;
}

export type Item =
  | { kind: 'folder'; key: string; name: string; photos: number }
  | { kind: 'row'; key: string; photo: number; index: number };

const ALL: How = { sort: 'folder', name: '', shape: '', format: '', state: '' };
const OPEN = ['waiting', 'making'];
const TO_MAKE = ['planned', 'outdated', 'failed'];
const WINDOW = 60;
const KEPT = 400;

/**
 * The board of one tray. The server plans it; its order is known here as a list of photos, its rows come as they
 * are looked at, its sums on their own.
 */
export class BoardState {
  board = $state.raw<Board>();
  overview = $state.raw<Overview>();
  how = $state.raw<How>(ALL);
  focus = $state<Spot>({ row: 0, column: 0 });
  selected = new SvelteSet<string>();
  readonly rows = new SvelteMap<number, Row>();
  readonly tray: number;
  readonly framings: Framings;
  private anchor: Spot = { row: 0, column: 0 };
  private asked = 0;
  private shown = 0;
  private wanted = new Set<number>();
  private readonly weighing: Weighing;
  private stale = new Set<number>();
  private fetching = new Set<number>();
  private timer: ReturnType<typeof setTimeout> | undefined;
  private turn = 0;
  private clock = 0;
  private readonly askedAt = new Map<number, number>();

  constructor(tray: number) {
    this.tray = tray;
    this.weighing = new Weighing(tray);
    this.framings = new Framings(tray, () => this.load());
  }

  recipes = $derived<Recipe[]>(this.board?.recipes ?? []);
  photos = $derived<number[]>(this.board?.photos ?? []);
  extent = $derived<Extent>({ rows: this.photos.length, columns: this.recipes.length });
  items = $derived<Item[]>(this.board ? itemsOf(this.board) : []);
  reading = $derived(this.overview?.states['reading'] ?? 0);
  unreadable = $derived((this.overview?.states['unreadable'] ?? 0) + (this.overview?.states['gone'] ?? 0));
  chosen = $derived.by(() => [...this.selected].map((each) => this.pair(each)));
  filtered = $derived(Object.entries(this.how).some(([name, value]) => name !== 'sort' && value !== ''));
  /** Of what is chosen, or of everything: how many renditions there are to make. */
  toMake = $derived(
    this.selected.size > 0
      ? this.chosen.reduce((sum, [, , cell]) => sum + (cell === undefined ? 1 : TO_MAKE.includes(cell.state) ? cell.parts : 0), 0)
      : (this.overview?.to_make ?? 0),
  );
  making = $derived(
    this.selected.size > 0
      ? this.chosen.filter(([, , cell]) => cell && OPEN.includes(cell.state)).length
      : (this.overview?.open ?? 0),
  );

  number(state: string): number {
    return state === '' ? (this.board?.total ?? 0) : (this.overview?.states[state] ?? 0);
  }

  async load(): Promise<void> {
    const turn = ++this.asked;
    const asked = ++this.clock;
    const params = { path: { number: this.tray }, query: this.how };
    const early = turn === 1 ? askedEarly.get(this.tray) : undefined;
    const board = await (early ?? taken(api.GET('/api/trays/{number}/board', { params })));
    askedEarly.delete(this.tray);
    if (turn < this.shown) return; // a newer answer was faster
    this.shown = turn;
    this.board = board;
    // What is shown stays until its new state has come.
    for (const photo of this.rows.keys()) this.stale.add(photo);
    for (const row of board.rows) {
      // Of answers on their way together nobody knows which saw more: such a row is asked for once more.
      const sure = this.place(row, asked) && !this.fetching.has(row.photo.id);
      if (sure) this.stale.delete(row.photo.id);
      else this.stale.add(row.photo.id);
    }
    // The sums are a lot of work for the server: what is looked at comes first.
    await this.fetch();
    const overview = await taken(api.GET('/api/trays/{number}/overview', { params: { path: { number: this.tray } } }));
    if (turn < this.shown) return;
    this.overview = overview;
    if (!this.filtered) {
      // What is no longer on the board cannot stay chosen.
      const photos = new Set(board.photos);
      const recipes = new Set(board.recipes.map((recipe) => recipe.id));
      for (const each of this.selected) {
        const [photo, recipe] = parts(each);
        if (!photos.has(photo) || !recipes.has(recipe)) this.selected.delete(each);
      }
    }
  }

  async show(how: Partial<How>): Promise<void> {
    this.how = { ...this.how, ...how };
    this.focus = this.anchor = { row: 0, column: this.focus.column };
    await this.load();
  }

  /** A row came into view; the returned function says that it left. */
  want(photo: number): () => void {
    this.wanted.add(photo);
    this.ask();
    return () => this.wanted.delete(photo);
  }

  private ask(): void {
    this.timer ??= setTimeout(() => {
      this.timer = undefined;
      void this.fetch();
    }, 12);
  }

  private async fetch(): Promise<void> {
    this.weighing.stir(() => this.inView(), () => studio.active.length > 0);
    const photos = [...this.wanted].filter((each) => !this.fetching.has(each) && (!this.rows.has(each) || this.stale.has(each)));
    if (photos.length === 0) return;
    clearTimeout(this.timer);
    this.timer = undefined;
    const now = photos.slice(0, WINDOW);
    const turn = ++this.turn;
    const asked = ++this.clock;
    for (const each of now) {
      this.fetching.add(each);
      this.stale.delete(each);
    }
    try {
      const path = { number: this.tray };
      const rows = await taken(api.POST('/api/trays/{number}/rows', { params: { path }, body: { photos: now } }));
      for (const row of rows) if (!this.place(row, asked)) this.stale.add(row.photo.id);
    } finally {
      for (const each of now) this.fetching.delete(each);
    }
    if (turn === this.turn) this.forget();
    this.ask(); // what was asked for meanwhile, or is stale again
  }

  private inView(): [number, Cell][] {
    return this.photos.filter((photo) => this.wanted.has(photo)).flatMap((photo) => (this.rows.get(photo)?.cells ?? []).map((cell): [number, Cell] => [photo, cell]));
  }

  /** Show a row, unless one that was asked for later is here already: answers overtake each other. True when shown. */
  private place(row: Row, asked: number): boolean {
    const { id } = row.photo;
    if (asked < (this.askedAt.get(id) ?? 0)) return false;
    this.askedAt.set(id, asked);
    this.rows.set(id, row);
    return true;
  }

  /** Rows that left the view long ago are let go of, the oldest first. */
  private forget(): void {
    for (const photo of this.rows.keys()) {
      if (this.rows.size <= KEPT) break;
      if (!this.wanted.has(photo)) this.rows.delete(photo);
    }
  }

  at(spot: Spot): [Photo, Cell] | undefined {
    const photo = this.photos[spot.row];
    const recipe = this.recipes[spot.column];
    const row = photo === undefined ? undefined : this.rows.get(photo);
    const cell = row?.cells.find((each) => each.recipe === recipe?.id);
    return row && cell ? [row.photo, cell] : undefined;
  }

  keyAt(spot: Spot): string | undefined {
    const photo = this.photos[spot.row];
    const recipe = this.recipes[spot.column];
    return photo !== undefined && recipe ? key(photo, recipe.id) : undefined;
  }

  /** Choose the cells at these spots; `add` keeps what is chosen already. */
  choose(spots: Spot[], add = false): void {
    if (!add) this.selected.clear();
    for (const spot of spots) {
      const found = this.keyAt(spot);
      if (found) this.selected.add(found);
    }
  }

  click(spot: Spot, how: { shift: boolean; add: boolean }): void {
    this.focus = spot;
    if (how.shift) this.choose(rectangle(this.anchor, spot), how.add);
    else {
      this.anchor = spot;
      const found = this.keyAt(spot);
      if (how.add && found && this.selected.has(found)) this.selected.delete(found);
      else this.choose([spot], how.add);
    }
  }

  /** Draw the rectangle from where the mouse was pressed to `spot`. */
  drag(spot: Spot): void {
    this.focus = spot;
    this.choose(rectangle(this.anchor, spot));
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

  /** Choose by rule: every cell of the photos of one shape, or what is in one state. */
  async chooseBy(rule: 'shape' | 'state', value: string): Promise<void> {
    if (value === 'eye') {
      this.selected.clear();
      for (const { photo, recipe } of this.overview?.eye ?? []) this.selected.add(key(photo, recipe));
      return;
    }
    const query = { ...ALL, [rule]: value };
    const found = await taken(api.GET('/api/trays/{number}/board', { params: { path: { number: this.tray }, query } }));
    this.selected.clear();
    for (const photo of found.photos) for (const recipe of this.recipes) this.selected.add(key(photo, recipe.id));
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

  /** (photo, recipe) of what is chosen, or of the cell in focus. */
  pairs(): [number, number][] {
    const keys = this.selected.size ? [...this.selected] : [this.keyAt(this.focus) ?? ''];
    return keys.filter(Boolean).map(parts);
  }

  /** Leave the chosen cells out, or take them in again when all of them are out. */
  async toggleIncluded(): Promise<void> {
    const pairs = this.pairs();
    if (pairs.length === 0) return;
    const cells = new Map(pairs.map((pair) => [key(...pair), this.rows.get(pair[0])?.cells.find((each) => each.recipe === pair[1])]));
    const included = [...cells.values()].every((cell) => cell?.state === 'excluded');
    const changed = pairs.filter((pair) => (cells.get(key(...pair))?.state === 'excluded') === included);
    await this.include(changed, included);
    // Undoing is there as soon as the change is: the board comes anew after that, and its sums take their time.
    undo.push(`${included ? 'included' : 'left out'} ${count(changed.length, 'rendition')}`, async () => {
      await this.include(changed, !included);
      await this.load();
    });
    await this.load();
  }

  private async include(cells: [number, number][], included: boolean): Promise<void> {
    const path = { number: this.tray };
    await taken(api.POST('/api/trays/{number}/include', { params: { path }, body: { cells, included } }));
  }

  async light(recipes: number[]): Promise<void> {
    const before = this.recipes.map((recipe) => recipe.id);
    await this.setRecipes(recipes);
    undo.push('changed the recipes of the tray', async () => {
      await this.setRecipes(before);
      await this.load();
    });
    await this.load();
  }

  private async setRecipes(recipes: number[]): Promise<void> {
    await taken(api.PUT('/api/trays/{number}/recipes', { params: { path: { number: this.tray } }, body: { recipes } }));
  }

  /** Put a column somewhere else. */
  async moveColumn(from: number, to: number): Promise<void> {
    const order = this.recipes.map((recipe) => recipe.id);
    const [moving] = order.splice(from, 1);
    if (moving === undefined || to < 0 || to > order.length || from === to) return;
    order.splice(to, 0, moving);
    await this.light(order);
    this.focus = { ...this.focus, column: to };
  }

  async takeOut(photos: number[]): Promise<void> {
    const path = { number: this.tray };
    const found = await taken(api.POST('/api/trays/{number}/take-out', { params: { path }, body: { photos } }));
    this.clear();
    undo.push(`took ${count(photos.length, 'photo')} out of the tray`, async () => {
      await taken(api.POST('/api/trays/{number}/put-back', { params: { path }, body: found }));
      await this.load();
    });
    await this.load();
  }

  async lookAgain(): Promise<string> {
    const found = await taken(api.POST('/api/trays/{number}/look-again', { params: { path: { number: this.tray } } }));
    await this.load();
    const said = [
      found.new ? `${count(found.new, 'new photo')}` : '',
      found.changed ? `${count(found.changed, 'photo')} changed` : '',
      found.gone ? `${count(found.gone, 'photo')} gone` : '',
    ].filter(Boolean);
    return said.length ? said.join(', ') : 'Nothing has changed in the folders.';
  }

  /** Start making what is chosen, or all. again: also what is made already. */
  async make(again = false): Promise<Run> {
    const cells = this.selected.size ? this.pairs() : null;
    const run = await taken(api.POST('/api/runs', { body: { tray: this.tray, cells, again } }));
    await this.load();
    return run;
  }

  private pair(name: string): [number, number, Cell | undefined] {
    const [photo, recipe] = parts(name);
    return [photo, recipe, this.rows.get(photo)?.cells.find((each) => each.recipe === recipe)];
  }
}

const askedEarly = new Map<number, Promise<Board>>();

/** Ask for a board before anything else of the page is there. */
export function askEarly(tray: number): void {
  const answer = taken(api.GET('/api/trays/{number}/board', { params: { path: { number: tray }, query: ALL } }));
  answer.catch(() => undefined); // told when the board is laid out
  askedEarly.set(tray, answer);
}

export function key(photo: number, recipe: number): string {
  return `${photo}:${recipe}`;
}

function parts(name: string): [number, number] {
  const [photo, recipe] = name.split(':').map(Number);
  return [photo ?? 0, recipe ?? 0];
}

function itemsOf(board: Board): Item[] {
  const items: Item[] = [];
  const starts = new Map(board.groups.map((group) => [group.start, group]));
  board.photos.forEach((photo, index) => {
    const group = starts.get(index);
    if (group) items.push({ kind: 'folder', key: `folder ${group.folder} ${index}`, name: group.folder, photos: group.count });
    items.push({ kind: 'row', key: `photo ${photo}`, photo, index });
  });
  return items;
}

/** The address of a cell's picture; its key changes with the photo, the recipe and the framing. */
export function cellPicture(photo: { id: number }, cell: { version: number; key: string }, edge: number): string {
  return `/api/pictures/cells/${photo.id}/${cell.version}?edge=${edge}&k=${cell.key}`;
}

export function photoPicture(photo: { id: number; digest: string }, edge = 960): string {
  return `/api/pictures/photos/${photo.id}?edge=${edge}&d=${photo.digest}`;
}
