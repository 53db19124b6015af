import { api, taken, type Bench, type Framing, type Numbers } from '../api/client';
import { Framings } from '../board/framings';
import { draftPicture } from '../recipes/line.svelte';

interface Spot {
  photo: number;
  recipe: number;
}

const AT_ONCE = 50;
const FRESH = 60_000;

/** The cells of each tray that need an eye, as they were last counted: going on to the next must not wait for a count. */
const lists = new Map<number, { spots: Spot[]; counted: number }>();

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
  waiting = $state.raw<Spot[]>([]);
  /** Settled once the list of those that need an eye is there. */
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
  }

  /** Count anew which cells need an eye: beside everything else, since it takes a while in a large tray. */
  private async count(): Promise<void> {
    // Not of `waiting`: an effect that loads must not follow what loading changes.
    lists.set(this.tray, { spots: lists.get(this.tray)?.spots ?? [], counted: Date.now() });
    try {
      const path = { number: this.tray };
      const eye = await taken(api.GET('/api/trays/{number}/eye', { params: { path } }));
      lists.set(this.tray, { spots: eye, counted: Date.now() });
      this.waiting = eye;
    } catch {
      lists.delete(this.tray); // the next one asks again
    }
  }

  private drop(spots: Spot[]): void {
    const gone = new Set(spots.map((each) => `${each.photo} ${each.recipe}`));
    this.waiting = this.waiting.filter((each) => !gone.has(`${each.photo} ${each.recipe}`));
    const list = lists.get(this.tray);
    if (list) lists.set(this.tray, { ...list, spots: this.waiting });
  }

  private start(framing: Framing, numbers: Numbers | undefined, editing: Framing | undefined): void {
    this.framing = framing;
    this.editing = editing;
    this.tied = framing.recipe !== null || this.bench?.ratio === null;
    this.changed = false;
    if (numbers) this.numbers = numbers;
    else this.ask(framing);
  }

  /** Draw another framing; its numbers follow. */
  draw(framing: Framing): void {
    this.framing = framing;
    this.changed = true;
    this.ask(framing);
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
    const rest = all.filter((each) => each !== this.editing);
    await this.framings.keep(this.spot.photo, [made, ...rest], `framed ${this.bench.photo.name}`);
  }

  private freeName(all: Framing[]): string {
    const base = this.bench?.title ?? 'framing';
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
    this.changed = true;
  }

  /** Follow another of the photo's framings from now on. */
  async choose(framing: Framing): Promise<void> {
    const all = this.bench?.framings.map((each) => each.framing) ?? [];
    await this.framings.keep(this.spot.photo, [framing, ...all.filter((each) => each !== framing)], `chose ${framing.name}`);
  }

  async rename(framing: Framing, name: string): Promise<void> {
    const all = this.bench?.framings.map((each) => each.framing) ?? [];
    const next = all.map((each) => (each === framing ? { ...each, name } : each));
    await this.framings.keep(this.spot.photo, next, `renamed ${framing.name}`);
  }

  async remove(framing: Framing): Promise<void> {
    const all = this.bench?.framings.map((each) => each.framing) ?? [];
    await this.framings.keep(this.spot.photo, all.filter((each) => each !== framing), `deleted ${framing.name}`);
  }

  /** The cell that needs an eye next, behind this one; from the first again at the end. */
  async next(): Promise<Spot | undefined> {
    const others = this.waiting.filter((each) => each.photo !== this.spot.photo || each.recipe !== this.spot.recipe);
    const at = Math.max(0, this.place);
    let left = [...others.slice(at), ...others.slice(0, at)];
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
