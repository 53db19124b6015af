import { untrack } from 'svelte';
import { SvelteMap } from 'svelte/reactivity';
import { api, taken, type Schemas } from '../api/client';
import { undo } from '../shell/undo.svelte';
import { count } from '../words/numbers';
import { COLUMNS, textOf, typedWith, type Column, type Word, type WordsRow } from './columns';
import { kept } from './kept';
import { fromTable, toTable } from './table';

type Edit = Schemas['EditIn'];
type Edits = Schemas['EditsIn'];
export interface Spot {
  row: number;
  column: number;
}

const WINDOW = 60;
const UNKEPT = 'upper-tray.sheet.unkept';

function unkept(tray: number): [string, string][] {
  try {
    return JSON.parse(sessionStorage.getItem(`${UNKEPT}.${tray}`) ?? '[]') as [string, string][];
  } catch {
    return [];
  }
}

/** The words of one tray: an order of photos, rows as they are looked at, and what somebody does with them. */
export class SheetState {
  readonly tray: number;
  order = $state.raw<Schemas['SheetOut']>();
  readonly rows = new SvelteMap<number, WordsRow>();
  words = $state.raw<readonly Word[]>([]);
  /** The recipe whose names are shown. */
  recipe = $state<number>();
  missing = $state('');
  name = $state('');
  focus = $state.raw<Spot>({ row: 0, column: 0 });
  /** The other corner of what is chosen. */
  from = $state.raw<Spot>({ row: 0, column: 0 });
  /** What is being typed into the cell in focus; undefined while nobody types. */
  draft = $state<string>();
  /** What was typed and is not kept yet, by photo and word: it is shown, and survives a reload and a lost network. */
  readonly pending = new SvelteMap<string, string>();
  private wanted = new Set<number>();
  private stale = new Set<number>();
  private fetching = new Set<number>();
  private timer: ReturnType<typeof setTimeout> | undefined;
  private turn = 0;
  /** One change after the other: each says the version that the one before left. */
  private last: Promise<unknown> = Promise.resolve();

  constructor(tray: number) {
    this.tray = tray;
    const before = kept(tray);
    this.words = before.words;
    this.recipe = before.recipe;
    for (const [cell, text] of unkept(tray)) this.pending.set(cell, text);
  }

  photos = $derived<number[]>(this.order?.photos ?? []);
  columns = $derived<Column[]>(COLUMNS.filter((column) => this.words.includes(column.word)));
  chosen = $derived({
    top: Math.min(this.focus.row, this.from.row),
    bottom: Math.max(this.focus.row, this.from.row),
    left: Math.min(this.focus.column, this.from.column),
    right: Math.max(this.focus.column, this.from.column),
  });

  async load(): Promise<void> {
    const turn = ++this.turn;
    const query = { missing: this.missing, name: this.name };
    const order = await taken(api.GET('/api/trays/{number}/sheet', { params: { path: { number: this.tray }, query } }));
    if (turn !== this.turn) return;
    this.order = order;
    for (const photo of this.rows.keys()) this.stale.add(photo);
    const row = Math.min(this.focus.row, Math.max(0, order.photos.length - 1));
    if (row !== this.focus.row) this.stand({ row, column: this.focus.column });
    await this.fetch();
  }

  /** Words were typed, here or elsewhere: rows and counts come anew. Their order only where it is another: a row that a
   * filter would hide now stays where it is until somebody filters again. */
  async refresh(): Promise<void> {
    const counts = await taken(api.GET('/api/trays/{number}/sheet/counts', { params: { path: { number: this.tray } } }));
    if (!this.order) return;
    if (counts.stamp !== this.order.stamp) return this.load();
    this.order = { ...this.order, ...counts };
    for (const photo of this.rows.keys()) this.stale.add(photo);
    await this.fetch();
  }

  /** A row came into view; the returned function says that it left. */
  want(photo: number): () => void {
    this.wanted.add(photo);
    untrack(() => this.ask());
    return () => this.wanted.delete(photo);
  }

  private ask(): void {
    this.timer ??= setTimeout(() => {
      this.timer = undefined;
      void this.fetch();
    }, 12);
  }

  private async fetch(): Promise<void> {
    const photos = [...this.wanted].filter((each) => !this.fetching.has(each) && (!this.rows.has(each) || this.stale.has(each)));
    if (!photos.length) return;
    await this.get(photos.slice(0, WINDOW));
    this.ask();
  }

  private async get(photos: number[]): Promise<void> {
    for (const each of photos) {
      this.fetching.add(each);
      this.stale.delete(each);
    }
    try {
      const body = { photos, recipe: this.recipe ?? null };
      const rows = await taken(api.POST('/api/trays/{number}/sheet/rows', { params: { path: { number: this.tray } }, body }));
      for (const row of rows) {
        // What was typed meanwhile is newer than this answer.
        if (row.version >= (this.rows.get(row.photo)?.version ?? 0)) this.rows.set(row.photo, row);
      }
    } finally {
      for (const each of photos) this.fetching.delete(each);
    }
  }

  rowAt(row: number): WordsRow | undefined {
    const photo = this.photos[row];
    return photo === undefined ? undefined : this.rows.get(photo);
  }

  text(spot: Spot): string {
    const photo = this.photos[spot.row];
    const column = this.columns[spot.column];
    return photo !== undefined && column ? this.shown(photo, column.word) : '';
  }

  /** What a cell shows: what somebody typed just now, or what is kept. */
  private shown(photo: number, word: Word): string {
    const row = this.rows.get(photo);
    return this.pending.get(`${photo}:${word}`) ?? (row ? textOf(row, word) : '');
  }

  isChosen(row: number, column: number): boolean {
    const { top, bottom, left, right } = this.chosen;
    return row >= top && row <= bottom && column >= left && column <= right;
  }

  /** Go to a cell; with `stretch` what is chosen reaches there. */
  stand(spot: Spot, stretch = false): void {
    const row = Math.min(Math.max(0, spot.row), Math.max(0, this.photos.length - 1));
    const column = Math.min(Math.max(0, spot.column), Math.max(0, this.columns.length - 1));
    this.focus = { row, column };
    if (!stretch) this.from = this.focus;
  }

  /** On to the next cell of a row, or the first of the next one; and back. */
  next(by: 1 | -1): void {
    const column = this.focus.column + by;
    if (column >= 0 && column < this.columns.length) this.stand({ row: this.focus.row, column });
    else if (by > 0 && this.focus.row + 1 < this.photos.length) this.stand({ row: this.focus.row + 1, column: 0 });
    else if (by < 0 && this.focus.row > 0) this.stand({ row: this.focus.row - 1, column: this.columns.length - 1 });
  }

  /** Keep what is being typed, if anything is. What cannot be kept now stays in its cell, and is tried again. */
  async keepDraft(): Promise<void> {
    const text = this.draft;
    const column = this.columns[this.focus.column];
    const photo = this.photos[this.focus.row];
    const row = this.rowAt(this.focus.row);
    this.draft = undefined;
    if (text === undefined || !column || photo === undefined) return;
    const cell = `${photo}:${column.word}`;
    if (row && text.trim() === textOf(row, column.word)) this.wait(cell, undefined);
    else {
      this.wait(cell, text);
      await this.keep(cell);
    }
  }

  private async keep(cell: string): Promise<void> {
    const text = this.pending.get(cell);
    const [photo, word] = cell.split(':') as [string, Word];
    const name = COLUMNS.find((column) => column.word === word)?.name.toLowerCase() ?? word;
    if (text === undefined) return;
    await this.put(new Map([[Number(photo), new Map([[word, text]])]]), `typed the ${name}`);
    if (this.pending.get(cell) === text) this.wait(cell, undefined);
  }

  /** Try again what could not be kept. */
  async keepPending(): Promise<void> {
    for (const cell of [...this.pending.keys()]) await this.keep(cell);
  }

  private wait(cell: string, text: string | undefined): void {
    if (text === undefined) this.pending.delete(cell);
    else this.pending.set(cell, text);
    sessionStorage.setItem(`${UNKEPT}.${this.tray}`, JSON.stringify([...this.pending]));
  }

  /** Give cells these texts: by photo, and by word. Typed as empty, a photo has no such word. */
  put(texts: Map<number, Map<Word, string>>, what: string): Promise<void> {
    return this.inTurn(async () => {
      await this.have([...texts.keys()]);
      const edits: Edit[] = [];
      for (const [photo, words] of texts) {
        const row = this.rows.get(photo);
        if (!row) continue;
        let typed = row.typed as Record<string, string | string[]>;
        for (const [word, text] of words) if (text.trim() !== textOf(row, word)) typed = typedWith(typed, word, text);
        if (typed !== row.typed) edits.push({ photo, typed, version: row.version });
      }
      await this.send({ edits }, what);
    });
  }

  /** Say again what the files say, where somebody typed something else. */
  forget(): Promise<void> {
    const words = this.chosenWords();
    const photos = this.chosenPhotos();
    return this.inTurn(async () => {
      await this.have(photos);
      const edits = photos.flatMap((photo): Edit[] => {
        const row = this.rows.get(photo);
        if (!row || !words.some((word) => word in row.typed)) return [];
        const rest = Object.entries(row.typed).filter(([word]) => !words.includes(word as Word));
        return [{ photo, typed: Object.fromEntries(rest) as Edit['typed'], version: row.version }];
      });
      await this.send({ edits }, `went back to what ${count(edits.length, 'file')} ${edits.length === 1 ? 'says' : 'say'}`);
    });
  }

  chosenPhotos(): number[] {
    return this.photos.slice(this.chosen.top, this.chosen.bottom + 1);
  }

  private chosenWords(): Word[] {
    return this.columns.slice(this.chosen.left, this.chosen.right + 1).map((column) => column.word);
  }

  /** The first chosen row's texts, or those of the row above where one row is chosen, into all chosen rows. */
  async fillDown(): Promise<void> {
    const { top, bottom } = this.chosen;
    const source = top === bottom ? top - 1 : top;
    const from = this.photos[source];
    if (from === undefined) return;
    await this.have([from]);
    const texts = new Map(this.chosenWords().map((word) => [word, this.shown(from, word)] as const));
    const into = this.photos.slice(source + 1, bottom + 1);
    await this.put(new Map(into.map((photo) => [photo, texts])), `filled down ${count(into.length, 'photo')}`);
  }

  clear(): Promise<void> {
    const texts = new Map(this.chosenWords().map((word) => [word, ''] as const));
    const photos = this.chosenPhotos();
    return this.put(new Map(photos.map((photo) => [photo, texts])), `cleared words of ${count(photos.length, 'photo')}`);
  }

  /** What is chosen, as spreadsheets take it. */
  async copied(): Promise<string> {
    await this.have(this.chosenPhotos());
    return this.copiedNow();
  }

  /** The same of rows that are here. */
  copiedNow(): string {
    return toTable(this.chosenPhotos().map((photo) => this.chosenWords().map((word) => this.shown(photo, word))));
  }

  /** Cells from a spreadsheet, from the first chosen cell on; one alone goes into all that is chosen. */
  async paste(text: string): Promise<void> {
    const cells = fromTable(text);
    const { top, bottom, left, right } = this.chosen;
    const single = cells.length === 1 && cells[0]?.length === 1;
    const rows = single ? bottom - top + 1 : cells.length;
    const columns = single ? right - left + 1 : Math.max(...cells.map((each) => each.length));
    const texts = new Map<number, Map<Word, string>>();
    this.photos.slice(top, top + rows).forEach((photo, row) => {
      const words = this.columns.slice(left, left + columns).map((column, at): [Word, string | undefined] => [column.word, single ? cells[0]?.[0] : cells[row]?.[at]]);
      texts.set(photo, new Map(words.filter((each): each is [Word, string] => each[1] !== undefined)));
    });
    if (!single) {
      this.from = { row: top, column: left };
      this.stand({ row: top + rows - 1, column: left + columns - 1 }, true);
    }
    await this.put(texts, `pasted into ${count(texts.size, 'photo')}`);
  }

  /** Put the chosen photos before the row `to`: an order of the tray's own, which counters follow. */
  async move(to: number): Promise<void> {
    const { top, bottom } = this.chosen;
    if (to >= top && to <= bottom + 1) return;
    const [start, stop] = to < top ? [to, bottom + 1] : [top, to];
    const span = this.photos.slice(start, stop);
    const moving = this.photos.slice(top, bottom + 1);
    const rest = span.filter((photo) => !moving.includes(photo));
    const photos = to < top ? [...moving, ...rest] : [...rest, ...moving];
    const path = { number: this.tray };
    const before = await taken(api.PUT('/api/trays/{number}/order', { params: { path }, body: { photos } }));
    const call = { method: 'PUT' as const, path: `/api/trays/${this.tray}/order`, body: before, feeds: true };
    undo.push({ what: `moved ${count(moving.length, 'photo')}`, at: `/trays/${this.tray}/words`, place: this.order?.name ?? 'the tray', undo: [call], redo: [{ ...call, body: { photos } }] });
    await this.load();
    const by = (to < top ? to : to - moving.length) - top;
    this.from = { row: this.from.row + by, column: this.from.column };
    this.focus = { row: this.focus.row + by, column: this.focus.column };
  }

  /** Take a whole table with headings; nothing of it where a line is not right. Returns how many photos it changed. */
  takeTable(text: string): Promise<number> {
    return this.inTurn(async () => {
      const path = { number: this.tray };
      const before = await taken(api.POST('/api/trays/{number}/words/table', { params: { path }, body: { text } }));
      this.did(before, `took words of ${count(before.edits.length, 'photo')} from a table`);
      await this.refresh();
      return before.edits.length;
    });
  }

  /** Find and replace in all rows that are shown. Returns how many photos it changed. */
  replace(how: { find: string; put: string; regex: boolean; case: boolean; words: Word[] }): Promise<number> {
    return this.inTurn(async () => {
      const path = { number: this.tray };
      const body = { ...how, photos: this.photos };
      const before = await taken(api.POST('/api/trays/{number}/words/replace', { params: { path }, body }));
      this.did(before, `replaced “${how.find}” in ${count(before.edits.length, 'photo')}`);
      await this.refresh();
      return before.edits.length;
    });
  }

  private inTurn<T>(work: () => Promise<T>): Promise<T> {
    const done = this.last.then(work, work);
    this.last = done.catch(() => undefined);
    return done;
  }

  /** Have the rows of photos, whether they were looked at or not. */
  private async have(photos: number[]): Promise<void> {
    const absent = photos.filter((photo) => !this.rows.has(photo));
    for (let at = 0; at < absent.length; at += 200) await this.get(absent.slice(at, at + 200));
  }

  private async send(body: Edits, what: string): Promise<void> {
    if (!body.edits.length) return;
    const before = await taken(api.PUT('/api/trays/{number}/words', { params: { path: { number: this.tray } }, body }));
    const versions = new Map(before.edits.map((each) => [each.photo, each.version]));
    for (const { photo, typed } of body.edits) {
      const row = this.rows.get(photo);
      // An answer of before that is still on its way must not come over it: its version is older.
      if (row) this.rows.set(photo, { ...row, version: versions.get(photo) ?? row.version, typed, words: { ...row.words, ...typed } });
      this.stale.add(photo);
    }
    this.did(before, what);
    void this.refresh();
  }

  private did(before: Edits, what: string): void {
    if (!before.edits.length) return;
    const call = { method: 'PUT' as const, path: `/api/trays/${this.tray}/words`, body: before, feeds: true };
    // What an undo answers is what doing it again sends.
    undo.push({ what, at: `/trays/${this.tray}/words`, place: `the words of ${this.order?.name ?? 'the tray'}`, undo: [call], redo: [{ ...call, body: undefined }] });
  }
}
