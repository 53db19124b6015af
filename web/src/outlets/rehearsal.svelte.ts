import { answered, api, taken, type Schemas } from '../api/client';
import type { Json } from './fields';

export type Rehearsed = Schemas['RehearsedOut'];
export type Variants = Schemas['VariantsOut'];

/** A variant with what became of it; nothing yet while it is on its way. src: the file that people will see. */
export interface Tried {
  key: string;
  variant: Json;
  made?: Rehearsed;
  src?: string;
  failed?: string;
}

/** The winner for one photo, among the variants on the page. by: how much better it is than the page's own winner. */
export interface Verdict {
  photo: number;
  name: string;
  best: string;
  by: number;
  failed?: string;
}

/** Scores closer than this look alike: the lighter upload wins. */
const ALIKE = 0.5;
const AT_ONCE = 2;

/** The best of some: the highest score, or what is lighter to send where others look alike. */
export function winner<T extends { made?: Rehearsed }>(tried: readonly T[]): T | undefined {
  const top = Math.max(...tried.map((each) => each.made?.score ?? -Infinity));
  return tried.filter((each) => each.made && each.made.score >= top - ALIKE).sort((a, b) => (a.made?.sent ?? 0) - (b.made?.sent ?? 0))[0];
}

/** One photo by one recipe, rehearsed for a use of an outlet. */
export class RehearsalState {
  readonly outlet: number;
  readonly use: string;
  tray = 0;
  photo = $state(0);
  recipe: number;
  about = $state.raw<Variants>();
  tried = $state.raw<readonly Tried[]>([]);
  chosen = $state<string>();
  verdicts = $state.raw<readonly Verdict[]>([]);
  /** How many photos are still to be gone through. */
  left = $state(0);
  seconds = $state<number>();
  private turn = 0;
  private readonly page = Math.random().toString(36).slice(2);

  constructor(outlet: number, use: string, recipe: number) {
    this.outlet = outlet;
    this.use = use;
    this.recipe = recipe;
  }

  get best(): Tried | undefined {
    return winner(this.tried);
  }

  /** The winner first, the others by their scores. */
  get ranked(): readonly Tried[] {
    const best = this.best;
    return this.tried.toSorted((a, b) => Number(b === best) - Number(a === best) || (b.made?.score ?? -Infinity) - (a.made?.score ?? -Infinity));
  }

  get waiting(): number {
    return this.tried.filter((each) => !each.made && !each.failed).length;
  }

  private get path(): { number: number } {
    return { number: this.outlet };
  }

  private asking(photo = this.photo): { tray: number; photo: number; recipe: number; use: string; page: string; turn: number } {
    return { tray: this.tray, photo, recipe: this.recipe, use: this.use, page: this.page, turn: this.turn };
  }

  async start(tray: number, photo: number): Promise<void> {
    this.turn += 1;
    const turn = this.turn;
    this.tray = tray;
    this.photo = photo;
    this.drop();
    this.about = undefined;
    const begun = performance.now();
    const about = await taken(api.POST('/api/outlets/{number}/rehearsal', { params: { path: this.path }, body: this.asking() }));
    if (turn !== this.turn) return;
    this.about = about;
    this.tried = about.variants.map((variant) => ({ key: JSON.stringify(variant), variant: variant as Json }));
    await this.run(turn);
    if (turn === this.turn) this.seconds = (performance.now() - begun) / 1000;
  }

  /** The address changes, or the page goes: pictures are let go. */
  drop(): void {
    for (const each of this.tried) if (each.src) URL.revokeObjectURL(each.src);
    this.tried = [];
    this.verdicts = [];
    this.left = 0;
    this.chosen = undefined;
    this.seconds = undefined;
  }

  stop(): void {
    this.turn += 1;
    this.drop();
  }

  private put(key: string, changes: Partial<Tried>): void {
    this.tried = this.tried.map((each) => (each.key === key ? { ...each, ...changes } : each));
  }

  private async run(turn: number): Promise<void> {
    const queue = this.tried.filter((each) => !each.made);
    const work = async () => {
      for (let each = queue.shift(); each; each = queue.shift()) await this.one(each, turn);
    };
    await Promise.all(Array.from({ length: AT_ONCE }, work));
  }

  private async one({ key, variant }: Tried, turn: number): Promise<void> {
    try {
      const body = { ...this.asking(), turn, variant: variant as Record<string, never> };
      const made = await taken(api.POST('/api/outlets/{number}/rehearsal/variant', { params: { path: this.path }, body }));
      if (turn !== this.turn) return;
      this.put(key, { made });
      const src = await this.served(body);
      if (turn === this.turn && this.tried.some((each) => each.key === key)) this.put(key, { src });
      else URL.revokeObjectURL(src);
    } catch (error) {
      if (turn === this.turn) this.put(key, { failed: error instanceof Error ? error.message : String(error) });
    }
  }

  private async served(body: Json): Promise<string> {
    const answer = await answered(`/api/outlets/${this.outlet}/rehearsal/picture`, { body: JSON.stringify(body) });
    return URL.createObjectURL(await answer.blob());
  }

  /** Once more, where the connection was gone or the server was. */
  async again(tried: Tried): Promise<void> {
    this.tried = this.tried.map((each) => (each.key === tried.key ? { key: each.key, variant: each.variant } : each));
    await this.one(tried, this.turn);
  }

  async add(variant: Json): Promise<void> {
    const key = JSON.stringify(variant);
    if (this.tried.some((each) => each.key === key)) return;
    this.tried = [...this.tried, { key, variant }];
    this.verdicts = [];
    await this.one({ key, variant }, this.turn);
  }

  remove(key: string): void {
    const gone = this.tried.find((each) => each.key === key);
    if (gone?.src) URL.revokeObjectURL(gone.src);
    this.tried = this.tried.filter((each) => each.key !== key);
    this.verdicts = [];
    if (this.chosen === key) this.chosen = undefined;
  }

  /** Is the same variant the best for all? One photo after the other; a page that leaves stops it. */
  async goThrough(photos: readonly number[]): Promise<void> {
    const turn = this.turn;
    const variants = this.tried.filter((each) => each.made);
    const own = this.best;
    if (!own) return;
    this.verdicts = [];
    this.left = photos.length;
    for (const photo of photos) {
      const found: Tried[] = [];
      let name = '';
      let failed = '';
      const queue = [...variants];
      const work = async () => {
        for (let each = queue.shift(); each && !failed; each = queue.shift()) {
          try {
            const body = { ...this.asking(photo), turn, variant: each.variant as Record<string, never> };
            const made = await taken(api.POST('/api/outlets/{number}/rehearsal/variant', { params: { path: this.path }, body }));
            name = made.photo;
            found.push({ ...each, made });
          } catch (error) {
            failed = error instanceof Error ? error.message : String(error);
          }
        }
      };
      await Promise.all(Array.from({ length: AT_ONCE }, work));
      if (turn !== this.turn || this.left === 0) return;
      const best = winner(found);
      const by = (best?.made?.score ?? 0) - (found.find((each) => each.key === own.key)?.made?.score ?? 0);
      this.verdicts = [...this.verdicts, { photo, name, best: best?.key ?? '', by, ...(failed ? { failed } : {}) }];
      this.left -= 1;
    }
  }

  /** Not any further; what was found out stays. */
  halt(): void {
    this.left = 0;
  }

  async content(variant: Json): Promise<Schemas['UsedOut']> {
    const body = { ...this.asking(), variant: variant as Record<string, never> };
    return taken(api.POST('/api/outlets/{number}/rehearsal/recipe', { params: { path: this.path }, body }));
  }
}
