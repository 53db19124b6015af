import { untrack } from 'svelte';
import { SvelteMap, SvelteSet } from 'svelte/reactivity';
import { api, taken, type Board, type Cell, type Overview, type Photo, type Recipe, type Row } from '../api/client';
import { studio } from '../shell/studio.svelte';
import { ALL, howOf, kept, type How } from './kept';
import type { Extent } from './selection';
import { Weighing } from './weighing';

export type Item =
  | { kind: 'folder'; key: string; name: string; photos: number }
  | { kind: 'row'; key: string; photo: number; index: number };

const WINDOW = 60;
const KEPT = 400;

/**
 * What the server says of a tray: its order as a list of photos, its rows as they are looked at, its sums on their
 * own.
 */
export class BoardData {
  board = $state.raw<Board>();
  overview = $state.raw<Overview>();
  how = $state.raw<How>(ALL);
  readonly rows = new SvelteMap<number, Row>();
  readonly tray: number;
  private asked = 0;
  private shown = 0;
  private wanted = new Set<number>();
  /** Photos whose rows are in the page: a long list has only those near what is seen. */
  readonly inPage = new SvelteSet<number>();
  private readonly weighing: Weighing;
  private stale = new Set<number>();
  private fetching = new Set<number>();
  private timer: ReturnType<typeof setTimeout> | undefined;
  private turn = 0;
  private clock = 0;
  private readonly askedAt = new Map<number, number>();

  constructor(tray: number, how: How = ALL) {
    this.tray = tray;
    this.how = how;
    this.weighing = new Weighing(tray);
  }

  recipes = $derived<Recipe[]>(this.board?.recipes ?? []);
  photos = $derived<number[]>(this.board?.photos ?? []);
  extent = $derived<Extent>({ rows: this.photos.length, columns: this.recipes.length });
  items = $derived<Item[]>(this.board ? itemsOf(this.board) : []);
  reading = $derived(this.overview?.states['reading'] ?? 0);
  unreadable = $derived((this.overview?.states['unreadable'] ?? 0) + (this.overview?.states['gone'] ?? 0));
  filtered = $derived(Object.entries(this.how).some(([name, value]) => name !== 'sort' && value !== ''));

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
    this.renewing(board);
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
  }

  /** Called with a board that is about to be shown. */
  protected renewing(_: Board): void {}

  /** The cells that need a crop, in order. */
  async waiting(): Promise<{ photo: number; recipe: number }[]> {
    return taken(api.GET('/api/trays/{number}/eye', { params: { path: { number: this.tray } } }));
  }

  /** A row came into view; the returned function says that it left. */
  want(photo: number): () => void {
    this.wanted.add(photo);
    untrack(() => this.inPage.add(photo));
    this.ask();
    return () => {
      this.wanted.delete(photo);
      this.inPage.delete(photo);
    };
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

  /** What is known of a cell, while its row is here. */
  cell(photo: number | undefined, recipe: number | undefined): [Photo, Cell] | undefined {
    const row = photo === undefined ? undefined : this.rows.get(photo);
    const cell = row?.cells.find((each) => each.recipe === recipe);
    return row && cell ? [row.photo, cell] : undefined;
  }
}

const askedEarly = new Map<number, Promise<Board>>();

/** Ask for a board before anything else of the page is there. */
export function askEarly(tray: number): void {
  const query = howOf(location.search) ?? kept(tray).how;
  const answer = taken(api.GET('/api/trays/{number}/board', { params: { path: { number: tray }, query } }));
  answer.catch(() => undefined); // told when the board is laid out
  askedEarly.set(tray, answer);
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
