import { api, taken, type Bench, type Framing, type Numbers } from '../api/client';
import { Framings } from '../board/framings';
import { draftPicture } from '../recipes/line.svelte';
import { drafts } from './drafts';

interface Spot {
  photo: number;
  recipe: number;
}

const AT_ONCE = 50;
const FRESH = 60_000;

/** Drawn within this many milliseconds of each other: one step, as of a hand that moves on. */
const ONE_STEP = 350;

/**
 * The cells of each tray that need a crop, as they were last counted: going on to the next must not wait for a count.
 * done: how many have got theirs since somebody began with the list.
 */
const lists = new Map<number, { spots: Spot[]; counted: number; done: number }>();

export function forgetLists(): void {
  lists.clear();
}

/** One cell on the bench: what the server says of it, and the framing that is being drawn. */
export class BenchState {
  readonly tray: number;
  readonly spot: Spot;
  readonly framings: Framings;
  bench = $state.raw<Bench>();
  framing = $state.raw<Framing>();
  numbers = $state.raw<Numbers>();
  /** Which kept framing is being changed; none for a new one. */
  editing = $state.raw<Framing>();
  tied = $state(false);
  changed = $state(false);
  /** What was drawn before, and what was taken back of it; nothing of it is kept yet. */
  private before = $state.raw<Framing[]>([]);
  private after = $state.raw<Framing[]>([]);
  private drawn = 0;
  /** Crops of the list that are placed, since somebody began with it. */
  done = $state(0);
  waiting = $state.raw<Spot[]>([]);
  /** Settled once the list of those that need a crop is there. */
  listed: Promise<void> = Promise.resolve();
  place = $derived(this.waiting.findIndex((each) => each.photo === this.spot.photo && each.recipe === this.spot.recipe));
  /** Going on to another cell: what is kept now need not be shown here any more. */
  leaving = false;
  private asked = 0;
  private loaded = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(tray: number, photo: number, recipe: number) {
    this.tray = tray;
    this.spot = { photo, recipe };
    this.waiting = lists.get(tray)?.spots ?? [];
    this.done = lists.get(tray)?.done ?? 0;
    this.framings = new Framings(tray, () => (this.leaving ? Promise.resolve() : this.load()));
  }

  async load(): Promise<void> {
    const turn = ++this.loaded;
    if (Date.now() - (lists.get(this.tray)?.counted ?? 0) > FRESH) this.listed = this.count();
    const bench = await this.framings.bench(this.spot.photo, this.spot.recipe);
    if (turn !== this.loaded) return; // asked for again meanwhile
    this.bench = bench;
    if (bench.asks === false) this.drop([this.spot]);
    this.start(bench.framing, bench.numbers, bench.proposed ? undefined : bench.framings.find((each) => each.used)?.framing);
    this.takeDraft(bench);
  }

  /** What was drawn and not kept when somebody left. */
  private takeDraft(bench: Bench): void {
    const draft = drafts.read(this.key);
    if (!draft) return;
    const editing = bench.framings.find((each) => same(each.framing, draft.editing))?.framing;
    this.start(draft.framing, undefined, editing);
    this.tied = draft.tied;
    this.changed = true;
  }

  private get key(): string {
    return `${this.tray}.${this.spot.photo}.${this.spot.recipe}`;
  }

  /** Something was drawn, or tied: it is here when somebody leaves and comes back. */
  noteDraft(): void {
    this.changed = true;
    if (this.framing) drafts.write(this.key, { framing: this.framing, editing: this.editing ?? null, tied: this.tied });
  }

  /** Count anew which cells need a crop: beside everything else, since it takes a while in a large tray. */
  private async count(): Promise<void> {
    // Not of `waiting`: an effect that loads must not follow what loading changes.
    const done = lists.get(this.tray)?.done ?? 0;
    lists.set(this.tray, { spots: lists.get(this.tray)?.spots ?? [], counted: Date.now(), done });
    try {
      const path = { number: this.tray };
      const eye = await taken(api.GET('/api/trays/{number}/eye', { params: { path } }));
      lists.set(this.tray, { spots: eye, counted: Date.now(), done: this.done });
      this.waiting = eye;
    } catch {
      lists.delete(this.tray); // the next one asks again
    }
  }

  private drop(spots: Spot[]): void {
    const gone = new Set(spots.map((each) => `${each.photo} ${each.recipe}`));
    const before = this.waiting.length;
    this.waiting = this.waiting.filter((each) => !gone.has(`${each.photo} ${each.recipe}`));
    this.done += before - this.waiting.length;
    const list = lists.get(this.tray);
    if (list) lists.set(this.tray, { ...list, spots: this.waiting, done: this.done });
  }

  private start(framing: Framing, numbers: Numbers | undefined, editing: Framing | undefined): void {
    this.framing = framing;
    this.editing = editing;
    this.tied = framing.recipe !== null || this.bench?.ratio === null;
    this.changed = false;
    this.before = this.after = [];
    if (numbers) this.numbers = numbers;
    else this.ask(framing);
  }

  /** Draw another framing; its numbers follow. */
  draw(framing: Framing): void {
    if (this.framing && Date.now() - this.drawn > ONE_STEP) this.before = [...this.before.slice(-99), this.framing];
    this.drawn = Date.now();
    this.after = [];
    this.show(framing);
  }

  private show(framing: Framing): void {
    this.framing = framing;
    this.noteDraft();
    this.ask(framing);
  }

  /** What is drawn goes back and forth by itself, until it is kept. */
  get past(): boolean {
    return this.before.length > 0;
  }

  get future(): boolean {
    return this.after.length > 0;
  }

  back(): void {
    const [to, now] = [this.before.at(-1), this.framing];
    if (!to || !now) return;
    [this.before, this.after] = [this.before.slice(0, -1), [...this.after, now]];
    this.drawn = 0;
    this.show(to);
    if (this.past) return;
    // Back where it began: there is nothing to keep.
    this.changed = false;
    drafts.forget(this.key);
  }

  forth(): void {
    const [to, now] = [this.after.at(-1), this.framing];
    if (!to || !now) return;
    [this.after, this.before] = [this.after.slice(0, -1), [...this.before, now]];
    this.drawn = 0;
    this.show(to);
  }

  private ask(framing: Framing): void {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.numbersOf(framing), 40);
  }

  private async numbersOf(framing: Framing): Promise<void> {
    const turn = ++this.asked;
    const path = { number: this.tray, ...this.spot };
    const numbers = await taken(api.POST('/api/trays/{number}/bench/{photo}/{recipe}', { params: { path }, body: framing }));
    if (turn === this.asked) this.numbers = numbers;
  }

  /** The rendition as this framing gives it. */
  picture(edge: number): string {
    if (!this.bench || !this.framing) return '';
    const address = draftPicture(this.spot.photo, this.bench.content, edge, this.spot.recipe);
    return `${address}&framing=${encodeURIComponent(JSON.stringify(this.framing))}`;
  }

  /** Keep what is drawn: as the framing that is being changed, or as a new one, chosen from now on. */
  async keep(name?: string): Promise<void> {
    if (!this.bench || !this.framing) return;
    const all = this.bench.framings.map((each) => each.framing);
    const said = name ?? (this.framing.name || this.freeName(all));
    const made: Framing = { ...this.framing, name: said, recipe: this.tied ? this.spot.recipe : null };
    const rest = all.filter((each) => !same(each, this.editing));
    const draft = drafts.read(this.key);
    drafts.forget(this.key); // what is shown comes anew with the answer, and as it was kept
    try {
      await this.framings.keep(this.spot.photo, [made, ...rest], `framed ${this.bench.photo.name}`);
      this.changed = false;
    } catch (error) {
      if (draft) drafts.write(this.key, draft);
      throw error;
    }
  }

  private freeName(all: Framing[], base = this.bench?.title ?? 'framing'): string {
    const names = new Set(all.map((each) => each.name));
    let name = base;
    for (let number = 2; names.has(name); number++) name = `${base} ${number}`;
    return name;
  }

  /** Begin a new framing from what is drawn now. */
  begin(): void {
    if (!this.framing) return;
    this.editing = undefined;
    this.framing = { ...this.framing, name: '' };
    this.noteDraft();
  }

  /**
   * Follow another of the photo's framings from now on. Where this recipe follows one of its own, the other becomes its
   * own as well: as a copy, since other recipes may follow it too.
   */
  async choose(framing: Framing): Promise<void> {
    const all = this.all();
    const tied = this.bench?.framings.some((each) => each.used && each.framing.recipe !== null) && framing.recipe === null;
    const [chosen, rest] = tied
      ? [{ ...framing, recipe: this.spot.recipe, name: this.freeName(all, framing.name) }, all]
      : [framing, all.filter((each) => !same(each, framing))];
    drafts.forget(this.key);
    await this.framings.keep(this.spot.photo, [chosen, ...rest], `chose ${framing.name}`);
  }

  private all(): Framing[] {
    return this.bench?.framings.map((each) => each.framing) ?? [];
  }

  /** Rename a framing; a name that another has gets a number. */
  async rename(framing: Framing, name: string): Promise<void> {
    const all = this.all();
    const unique = this.freeName(all.filter((each) => !same(each, framing)), name);
    const next = all.map((each) => (same(each, framing) ? { ...each, name: unique } : each));
    await this.framings.keep(this.spot.photo, next, `renamed ${framing.name} to ${unique}`);
  }

  /** Whether a framing may be followed by this recipe alone, or by all. */
  async tie(framing: Framing, tied: boolean): Promise<void> {
    const next = this.all().map((each) => (same(each, framing) ? { ...each, recipe: tied ? this.spot.recipe : null } : each));
    await this.framings.keep(this.spot.photo, next, `${tied ? 'tied' : 'untied'} ${framing.name}`);
  }

  async remove(framing: Framing): Promise<void> {
    await this.framings.keep(this.spot.photo, this.all().filter((each) => !same(each, framing)), `deleted ${framing.name}`);
  }

  /**
   * The cell that needs a crop next, behind this one; from the first again at the end.
   * placed: this one has its crop now.
   */
  async next(placed = false): Promise<Spot | undefined> {
    const others = this.waiting.filter((each) => each.photo !== this.spot.photo || each.recipe !== this.spot.recipe);
    const at = Math.max(0, this.place);
    let left = [...others.slice(at), ...others.slice(0, at)];
    if (placed) this.drop([this.spot]);
    // What was kept for one cell may have answered others: asked of a few at a time, not of the whole tray.
    while (left.length) {
      const some = left.slice(0, AT_ONCE);
      const body = { cells: some.map((each): [number, number] => [each.photo, each.recipe]) };
      const path = { number: this.tray };
      const still = await taken(api.POST('/api/trays/{number}/asking', { params: { path }, body }));
      const first = still[0];
      const settled = first ? some.findIndex((each) => each.photo === first.photo && each.recipe === first.recipe) : some.length;
      this.drop(some.slice(0, settled));
      if (first) return first;
      left = left.slice(AT_ONCE);
    }
    return undefined;
  }
}

function same(one: Framing, other: Framing | null | undefined): boolean {
  return other != null && JSON.stringify(one) === JSON.stringify(other);
}
