import { api, taken, type Board, type Cell, type Photo, type Schemas } from '../api/client';
import { countHere, type Counts } from './counting';
import { BoardData } from './data.svelte';
import { ALL, type How } from './kept';
import { moved, named, pickedBy, sizeOf, type Area, type Picked, type Spot } from './selection';

/** How long the choice rests before the server is asked what it is; arrows held down ask once. */
const CALM = 80;
/** Areas after which they are written down photo by photo. */
const MANY = 100;

/** The board with what is chosen on it. Only what is shown is chosen: what a filter hides is not acted on. */
export class Choosing extends BoardData {
  focus = $state<Spot>({ row: 0, column: 0 });
  private areas = $state.raw<Area[]>([]);
  private anchor: Spot = { row: 0, column: 0 };
  private answer = $state.raw<{ of: unknown; counts: Counts }>();
  private counting: ReturnType<typeof setTimeout> | undefined;

  private places = $derived(new Map(this.photos.map((photo, place) => [photo, place])));
  private columns = $derived(this.recipes.map((recipe) => recipe.id));
  /** Hidden photos included, where they were chosen before a filter hid them. */
  private every = $derived(pickedBy(this.areas, this.photos, this.places, this.columns));
  picked = $derived.by((): Picked => (this.filtered ? new Map([...this.every].filter(([photo]) => this.places.has(photo))) : this.every));
  size = $derived(sizeOf(this.picked));
  hidden = $derived(this.filtered ? sizeOf(this.every) - this.size : 0);
  /** What is acted on: what is chosen, or all that is shown. */
  private subject = $derived(this.size ? this.picked : pickedBy([{}], this.photos, this.places, this.columns));
  private here = $derived(this.size || this.filtered ? countHere(this.subject, this.hidden, this.rows, this.columns.length) : undefined);
  /** Changes with whatever could change the counts. */
  private key = $derived([this.areas, this.board, this.how]);
  /** What making would do now; undefined until the server has said. Of the whole tray where nothing is chosen. */
  counts = $derived.by((): Counts | undefined => {
    if (!this.size && !this.filtered) {
      const all = this.overview;
      if (!all) return undefined;
      const made = { to_make: all.to_make, open: all.open, made: all.made, eye: all.eye, renditions: all.renditions, about: all.about };
      return { ...made, cells: 0, hidden: 0, photos: this.photos.length, whole: false, unread: this.unreadable, excluded: 0 };
    }
    return this.here ?? (this.answer && sameKey(this.answer.of, this.key) ? this.answer.counts : undefined);
  });

  /** What is chosen, for the server. */
  chosen(): Schemas['ChosenIn'] {
    return { how: this.how, areas: this.size ? this.areas : this.filtered ? [{}] : null } as Schemas['ChosenIn'];
  }

  /** The same; of the cell in focus where nothing is chosen. */
  chosenOrFocus(): Schemas['ChosenIn'] | undefined {
    if (this.size) return this.chosen();
    const [photo, recipe] = [this.photos[this.focus.row], this.columns[this.focus.column]];
    return photo === undefined || recipe === undefined ? undefined : ({ areas: [{ photos: [photo], recipes: [recipe] }] } as Schemas['ChosenIn']);
  }

  isChosen(photo: number, recipe: number): boolean {
    return this.picked.get(photo)?.has(recipe) ?? false;
  }

  override async load(): Promise<void> {
    await super.load();
    this.recount();
  }

  /** A rectangle whose corner goes is written down photo by photo first. */
  protected override renewing(board: Board): void {
    const there = new Set(board.photos);
    const corners = this.areas.flatMap(({ first, last }) => [first, last]).filter((each) => each !== undefined);
    if (corners.some((each) => !there.has(each))) this.areas = named(this.every);
    const focused = this.photos[this.focus.row];
    const place = focused === undefined ? -1 : board.photos.indexOf(focused);
    if (place >= 0 && place !== this.focus.row) this.stand({ ...this.focus, row: place });
  }

  async show(how: Partial<How>): Promise<void> {
    this.areas = named(this.every); // in another order a rectangle would be another one
    this.how = { ...this.how, ...how };
    this.stand({ row: 0, column: this.focus.column });
    await this.load();
  }

  /** Be at a cell: what is chosen with Shift from here on begins there. */
  stand(spot: Spot): void {
    this.focus = this.anchor = spot;
  }

  at(spot: Spot): [Photo, Cell] | undefined {
    return this.cell(this.photos[spot.row], this.columns[spot.column]);
  }

  keyAt(spot: Spot): string | undefined {
    const photo = this.photos[spot.row];
    const recipe = this.columns[spot.column];
    return photo !== undefined && recipe !== undefined ? key(photo, recipe) : undefined;
  }

  /** Choose these areas; `add` keeps what is chosen already. */
  choose(areas: Area[], add = false): void {
    const before = this.areas.length > MANY ? named(this.every) : this.areas;
    this.areas = add ? [...before, ...areas] : areas;
    this.recount();
  }

  click(spot: Spot, how: { shift: boolean; add: boolean }): void {
    this.focus = spot;
    if (how.shift) this.choose([this.between(this.anchor, spot)], how.add);
    else {
      this.anchor = spot;
      const photo = this.photos[spot.row];
      const recipe = this.columns[spot.column];
      if (photo === undefined || recipe === undefined) return;
      this.choose([{ photos: [photo], recipes: [recipe], out: how.add && this.isChosen(photo, recipe) }], how.add);
    }
  }

  /** Draw the rectangle from where the mouse was pressed to `spot`. */
  drag(spot: Spot): void {
    this.focus = spot;
    this.choose([this.between(this.anchor, spot)]);
  }

  clickRow(row: number, how: { shift: boolean; add: boolean }): void {
    const from = how.shift ? this.anchor.row : row;
    this.choose([this.between({ row: from, column: 0 }, { row, column: Math.max(0, this.extent.columns - 1) })], how.add);
    this.focus = { row, column: 0 };
    if (!how.shift) this.anchor = this.focus;
  }

  clickColumn(column: number, how: { shift: boolean; add: boolean }): void {
    const from = how.shift ? this.anchor.column : column;
    const recipes = this.columns.slice(Math.min(from, column), Math.max(from, column) + 1);
    this.choose([{ recipes }], how.add);
    this.focus = { row: 0, column };
    if (!how.shift) this.anchor = this.focus;
  }

  all(): void {
    this.choose([{}]);
  }

  clear(): void {
    this.choose([]);
  }

  /** Choose by rule: every cell of the photos of one shape or in one state, or what needs a crop. */
  async chooseBy(rule: 'shape' | 'state', value: string): Promise<void> {
    if (value === 'eye') {
      const spots = new Map<number, Set<number>>();
      for (const { photo, recipe } of await this.waiting()) spots.set(photo, (spots.get(photo) ?? new Set()).add(recipe));
      this.choose(named(spots));
      return;
    }
    const query = { ...ALL, [rule]: value };
    const found = await taken(api.GET('/api/trays/{number}/board', { params: { path: { number: this.tray }, query } }));
    this.choose([{ photos: found.photos }]);
  }

  /** Follow an arrow key; true when it led somewhere. */
  move(pressed: string, extend: boolean): boolean {
    const spot = moved(this.focus, pressed, this.extent);
    if (!spot) return false;
    if (this.size === 0) this.anchor = this.focus;
    this.focus = spot;
    if (extend) this.choose([this.between(this.anchor, spot)]);
    else {
      this.anchor = spot;
      this.click(spot, { shift: false, add: false });
    }
    return true;
  }

  private between(one: Spot, other: Spot): Area {
    const recipes = this.columns.slice(Math.min(one.column, other.column), Math.max(one.column, other.column) + 1);
    const [first, last] = [this.photos[one.row], this.photos[other.row]];
    return first === undefined || last === undefined ? { photos: [] } : { first, last, recipes };
  }

  /** Ask the server what the choice is, where not all of it is here. */
  private recount(): void {
    clearTimeout(this.counting);
    if (!this.size && !this.filtered) return;
    this.counting = setTimeout(() => {
      if (!this.here) void this.askCounts().catch(() => undefined); // asked again with the next change
    }, CALM);
  }

  private async askCounts(): Promise<void> {
    const of = this.key;
    const path = { number: this.tray };
    const counts = await taken(api.POST('/api/trays/{number}/chosen', { params: { path }, body: this.chosen() }));
    this.answer = { of, counts };
  }
}

function sameKey(one: unknown, other: unknown): boolean {
  return (one as unknown[]).every((each, i) => each === (other as unknown[])[i]);
}

export function key(photo: number, recipe: number): string {
  return `${photo}:${recipe}`;
}
