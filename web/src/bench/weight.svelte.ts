import { api, Problem, taken, type Schemas } from '../api/client';
import { same } from '../api/same';
import type { Content } from '../recipes/draft';
import { station, withStation } from '../recipes/draft';
import type { CloserState } from './closer.svelte';

export type Format = 'jpeg' | 'thorough' | 'webp' | 'avif';
export type Point = Schemas['PointOut'];
export interface Candidate {
  format: Format;
  quality: number;
}

export const FORMATS: readonly (readonly [Format, string])[] = [
  ['jpeg', 'JPEG'],
  ['thorough', 'JPEG, thorough'],
  ['webp', 'WebP'],
  ['avif', 'AVIF'],
];

/** Connections whose load times are told: name, bytes a second. */
export const CONNECTIONS: readonly (readonly [string, number])[] = [
  ['slow phone', 200_000],
  ['phone', 1_250_000],
  ['home', 6_250_000],
];

/** The score from which nobody sees a difference side by side. */
export const SAME = 88;
/** One alone, so that there is something to see soonest. */
const FIRST = [84];
const REST: Record<Format, readonly number[]> = {
  jpeg: [50, 70, 93, 30, 60, 76, 90, 97, 100],
  thorough: [50, 76, 84, 92, 100],
  webp: [30, 60, 78, 88, 95, 100],
  avif: [35, 55, 70, 85, 93, 100],
};

/** Bytes against quality of one cell, format by format: a few points at once, the rest as they come. */
export class WeightState {
  readonly closer: CloserState;
  shown = $state.raw<readonly Format[]>(['jpeg', 'webp', 'avif']);
  curves = $state.raw<Partial<Record<Format, readonly Point[]>>>({});
  made = $state.raw<Schemas['MadeOut']>();
  /** Why the recipe makes no file of this photo: a limit that cannot be met, mostly. */
  refused = $state('');
  busy = $state(0);
  /** Whether the second candidate has been looked for. */
  proposed = $state(false);
  candidates = $state.raw<readonly Candidate[]>([]);
  private turn = 0;
  /** What was weighed last: all that decides the pixels, and the file station. */
  private weighed: { pixels: unknown; file: unknown } | undefined;

  constructor(closer: CloserState) {
    this.closer = closer;
  }

  private get path(): { number: number; photo: number; recipe: number } {
    return { number: this.closer.tray, photo: this.closer.photo, recipe: this.closer.recipe };
  }

  /** The format of the recipe as a curve of this chart, where it is one. */
  get own(): Candidate | undefined {
    const file = station(this.closer.content, 'file') ?? {};
    const format = String(file['format']);
    const quality = this.made?.quality;
    if (quality == null) return undefined;
    if (format === 'jpeg') return { format: file['coder'] === 'thorough' ? 'thorough' : 'jpeg', quality };
    return format === 'webp' || format === 'avif' ? { format, quality } : undefined;
  }

  /** The score that is looked for: the recipe's, where it asks for one. */
  get look(): number {
    return Number(station(this.closer.content, 'file')?.['looks'] ?? SAME);
  }

  /** Weigh the cell as the recipe has it now, if that is another way than before: by a choice here or somewhere else. */
  async follow(): Promise<void> {
    const { content, strength } = this.closer;
    const wanted = { pixels: [withStation(content, 'file', undefined), strength], file: station(content, 'file') };
    if (same(wanted, this.weighed)) return;
    if (!same(wanted.pixels, this.weighed?.pixels)) this.curves = {};
    this.weighed = wanted;
    const turn = ++this.turn;
    try {
      await this.fillAll(turn);
    } catch (error) {
      if (turn === this.turn) this.weighed = undefined; // asked anew when the server is back
      throw error;
    }
  }

  /** What is known stays known: another file station changes none of the pixels that were encoded. */
  private async fillAll(turn: number): Promise<void> {
    // Bytes alone are there soonest; what they look like follows.
    await this.ask('jpeg', FIRST, turn, false);
    if (turn !== this.turn) return;
    void this.ask('jpeg', FIRST, turn);
    const body = this.closer.body();
    this.refused = '';
    try {
      this.made = await taken(api.POST('/api/trays/{number}/closer/{photo}/{recipe}/made', { params: { path: this.path }, body }));
    } catch (error) {
      // The curves say what would fit: they are wanted all the more.
      if (!(error instanceof Problem) || error.status !== 409) throw error;
      this.made = undefined;
      this.refused = error.message;
    }
    if (turn !== this.turn) return;
    const own = this.own;
    if (own && !this.shown.includes(own.format)) this.shown = [...this.shown, own.format];
    // First, though somebody may have asked for others while it was on its way.
    if (own && !this.has(own)) this.candidates = [own, ...this.candidates].slice(0, 4);
    else if (!this.candidates.length) this.candidates = [{ format: 'jpeg', quality: 84 }];
    if (own) void this.ask(own.format, [own.quality], turn);
    await Promise.all(this.shown.map((format) => this.fill(format, turn)));
    if (turn === this.turn) await this.propose(turn);
  }

  /** Beside the recipe's choice, the lightest that has the look: of its own format, or else of one that gets there. */
  private async propose(turn: number): Promise<void> {
    const formats = this.shown.toSorted((a, b) => Number(b === this.own?.format) - Number(a === this.own?.format));
    for (const format of formats) {
      const quality = await this.same(format, turn);
      if (turn !== this.turn) return;
      if (quality === undefined) continue;
      if (this.candidates.length === 1) await this.add({ format, quality });
      break;
    }
    this.proposed = true;
  }

  /** Where a curve reaches the look, measured: what lies between two points is only a guess, and chroma makes a step. */
  private async same(format: Format, turn: number): Promise<number | undefined> {
    let quality: number | undefined;
    for (let tries = 0; tries < 3 && turn === this.turn; tries++) {
      const guess = reaching(this.curves[format] ?? [], this.look);
      if (guess === undefined || guess === quality) return guess;
      quality = guess;
      await this.ask(format, [quality], turn);
    }
    return quality;
  }

  /** The rest of a curve, two points at a time so that it grows before one's eyes. */
  private async fill(format: Format, turn: number): Promise<void> {
    const wanted = [...REST[format]];
    while (wanted.length && turn === this.turn) await this.ask(format, wanted.splice(0, 2), turn);
  }

  toggle(format: Format): void {
    if (this.shown.includes(format)) this.shown = this.shown.filter((each) => each !== format);
    else {
      this.shown = [...this.shown, format];
      void this.fill(format, this.turn);
    }
  }

  async ask(format: Format, qualities: readonly number[], turn = this.turn, scored = true): Promise<void> {
    const known = new Map(this.curves[format]?.map((each) => [each.quality, each]));
    const missing = qualities.filter((each) => !known.has(each) || (scored && known.get(each)?.score == null));
    if (!missing.length) return;
    this.busy += 1;
    try {
      const body = { ...this.closer.body(), format, qualities: missing, scored };
      const points = await taken(api.POST('/api/trays/{number}/closer/{photo}/{recipe}/points', { params: { path: this.path }, body }));
      if (turn !== this.turn) return;
      // The same point may have been asked for twice at once.
      const all = new Map([...(this.curves[format] ?? []), ...points].map((each) => [each.quality, each]));
      this.curves = { ...this.curves, [format]: [...all.values()].sort((a, b) => a.quality - b.quality) };
    } finally {
      this.busy -= 1;
    }
  }

  point(candidate: Candidate): Point | undefined {
    return this.curves[candidate.format]?.find((each) => each.quality === candidate.quality);
  }

  private has(candidate: Candidate): boolean {
    return this.candidates.some((each) => each.format === candidate.format && each.quality === candidate.quality);
  }

  /** Up to four stand side by side; a fifth takes the place of the oldest but one. */
  async add(candidate: Candidate): Promise<void> {
    if (this.has(candidate)) return;
    const kept = this.candidates.length > 3 ? [...this.candidates.slice(0, 1), ...this.candidates.slice(-2)] : this.candidates;
    this.candidates = [...kept, candidate];
    await this.ask(candidate.format, [candidate.quality]);
  }

  remove(candidate: Candidate): void {
    this.candidates = this.candidates.filter((each) => each !== candidate);
  }

  /** The file station that makes a candidate, with what the recipe says besides. */
  static file(own: Content, candidate: Candidate): Content {
    const format = candidate.format === 'thorough' ? 'jpeg' : candidate.format;
    const { under_kb: _, looks: __, lowest: ___, coder: ____, lossless: _____, ...rest } = own;
    const kept = own['format'] === format ? { ...rest, ...(format === 'webp' && own['looks'] !== undefined ? { sharp: own['sharp'] ?? true } : {}) } : {};
    return { ...kept, format, quality: candidate.quality, ...(candidate.format === 'thorough' ? { coder: 'thorough', progressive: true } : {}) };
  }

  async choose(candidate: Candidate): Promise<void> {
    this.closer.set('file', WeightState.file(station(this.closer.content, 'file') ?? {}, candidate));
    await this.closer.keepInRecipe('file');
  }
}

/** The quality between two known points at which a curve's score reaches `target`; undefined where it never does. */
export function reaching(points: readonly Point[], target: number): number | undefined {
  const scored = points.filter((each) => each.score != null);
  for (const [i, point] of scored.entries()) {
    const score = point.score ?? 0;
    if (score < target) continue;
    const before = scored[i - 1];
    // One point alone is no curve yet.
    if (!before) return scored.length > 1 ? point.quality : undefined;
    const low = before.score ?? 0;
    return Math.ceil(before.quality + ((target - low) / (score - low)) * (point.quality - before.quality));
  }
  return undefined;
}

/** How the recipe's own file came to its quality, and whether it looks as was asked for. */
export function foundHow(made: Schemas['MadeOut']): { words: string; short: boolean } {
  const quality = `quality ${made.quality}`;
  if (made.limit) return { words: `${quality}, the best under ${made.limit / 1000} kB`, short: false };
  if (!made.looks || made.score == null) return { words: quality, short: false };
  if (made.score >= made.looks) return { words: `${quality}, the lightest with a score of ${made.looks}`, short: false };
  return { words: `${quality}, a score of ${made.score.toFixed(1)}: ${made.looks} cannot be reached in this format`, short: true };
}

/** Bytes between known points: they grow with quality nearly as an exponential. */
export function bytesAt(points: readonly Point[], quality: number): number | undefined {
  const above = points.findIndex((each) => each.quality >= quality);
  const right = points[above];
  if (!right) return undefined;
  const left = points[above - 1] ?? right;
  if (right.quality === quality || right.quality === left.quality) return right.bytes;
  const share = (quality - left.quality) / (right.quality - left.quality);
  return Math.exp(Math.log(left.bytes) * (1 - share) + Math.log(right.bytes) * share);
}
