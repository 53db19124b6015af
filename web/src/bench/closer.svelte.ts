import { untrack } from 'svelte';
import { answered, api, taken, type Bench, type Schemas } from '../api/client';
import { same } from '../api/same';
import { detached, follows, station, withStation, type Content } from '../recipes/draft';
import { draftPicture } from '../recipes/line.svelte';
import { changedRecipe, undo, type Call } from '../shell/undo.svelte';
import { Drafts } from './drafts';

export type View = 'after' | 'before' | 'mask' | 'difference';
export interface Window {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** What is tried of cells and not kept. number: the recipe's version that it began from. */
const tries = new Drafts<{ content: Content; strength?: number | undefined; number: number }>('look');

/** One cell looked at closely: the recipe as it is tried here, until it is kept for the photo, the recipe or the part. */
export class CloserState {
  readonly tray: number;
  readonly photo: number;
  readonly recipe: number;
  bench = $state.raw<Bench>();
  content = $state.raw<Content>({});
  /** The photo's own strength of sharpening, as tried; undefined for the recipe's. */
  strength = $state<number>();
  /** Which of several renditions, from 1; undefined for the one that the server takes. */
  which = $state<number>();
  facts = $state.raw<Schemas['CloserOut']>();
  part = $state.raw<Schemas['SavedPartOut']>();
  private kept: Content = {};
  private number = 0;
  /** Whether what is tried began from what the server has. */
  private loaded = false;
  private turn = 0;
  private readonly page = Math.random().toString(36).slice(2);

  constructor(tray: number, photo: number, recipe: number) {
    this.tray = tray;
    this.photo = photo;
    this.recipe = recipe;
  }

  private get path(): { number: number; photo: number; recipe: number } {
    return { number: this.tray, photo: this.photo, recipe: this.recipe };
  }

  private get key(): string {
    return `${this.tray}.${this.photo}.${this.recipe}`;
  }

  private get at(): string {
    return `/api/trays/${this.tray}/closer/${this.photo}/${this.recipe}`;
  }

  /** What is tried now, to tell whether it changed meanwhile; an effect that loads must not follow what loading changes. */
  private get tried(): string {
    return untrack(() => JSON.stringify([this.content, this.strength]));
  }

  /** As the server has it; but what somebody tries while the answers are on their way stays. */
  async load(): Promise<void> {
    let before = this.tried;
    const bench = await taken(api.GET('/api/trays/{number}/bench/{photo}/{recipe}', { params: { path: this.path } }));
    if (this.tried !== before) return void (this.loaded = true);
    this.bench = bench;
    this.number = bench.number;
    this.content = this.kept = bench.content;
    before = this.tried;
    const facts = await this.asked();
    if (this.tried !== before) return void (this.loaded = true);
    // Together: a strength that is not the photo's any more would be taken for a draft.
    this.facts = facts;
    this.strength = facts.own ?? undefined;
    this.takeDraft();
    this.loaded = true;
    const name = follows(this.content, 'sharpen');
    if (name === undefined) this.part = undefined;
    else this.part = (await taken(api.GET('/api/parts'))).find((each) => each.station === 'sharpen' && each.name === name);
  }

  /** What was tried of this cell and not kept, here before a reload or at another look. */
  private takeDraft(): void {
    const draft = tries.read(this.key);
    if (!draft || draft.number !== this.number) return;
    this.content = draft.content;
    this.strength = draft.strength;
  }

  /** Note what is tried, for the other looks and for coming back. */
  note(): void {
    const changed = this.changed; // read first: whoever follows this follows what is tried
    if (!this.loaded) return;
    if (changed) tries.write(this.key, { content: this.content, strength: this.strength, number: this.number });
    else tries.forget(this.key);
  }

  /** Nothing is tried any more: what is here is loaded anew. */
  private settle(): void {
    this.loaded = false;
    tries.forget(this.key);
  }

  /** The sizes of the rendition as it is tried now. */
  async ask(): Promise<void> {
    this.facts = await this.asked();
  }

  private asked(): Promise<Schemas['CloserOut']> {
    return taken(api.POST('/api/trays/{number}/closer/{photo}/{recipe}', { params: { path: this.path }, body: this.body() }));
  }

  body(): { content: Content; strength: number | null; part: number | null; page: string; turn: number } {
    return { content: this.content, strength: this.strength ?? null, part: this.which ?? null, page: '', turn: 0 };
  }

  /** Look at another of several renditions. */
  async look(which: number): Promise<void> {
    this.which = which;
    await this.ask();
  }

  /** A picture that the server makes of the cell; the address of the answer, to be revoked by whoever shows it. */
  async picture(what: string, more: Record<string, unknown>, signal: AbortSignal): Promise<string> {
    const body = JSON.stringify({ ...this.body(), ...more });
    const answer = await answered(`${this.at}/${what}`, { body, signal });
    return URL.createObjectURL(await answer.blob());
  }

  /** A number that only grows: the server drops what this page asked for before. */
  next(view: string): { page: string; turn: number } {
    return { page: `${this.page}-${view}`, turn: ++this.turn };
  }

  /** The cell from a working copy: there at once, and soft. */
  soft(edge: number): string {
    return draftPicture(this.photo, this.content, edge, this.recipe);
  }

  set(name: 'sharpen' | 'file' | 'color', value: Content): void {
    this.content = withStation(this.content, name, value);
  }

  get changed(): boolean {
    return !same(this.content, this.kept) || (this.strength ?? null) !== (this.facts?.own ?? null);
  }

  /** Keep what is tried in the recipe; a part that it follows changes with it, unless `alone`. */
  async keepInRecipe(name: 'sharpen' | 'file' | 'color', alone = false): Promise<void> {
    const content = alone ? detached(this.content, name) : this.content;
    await this.put(content);
    this.settle();
    if (name === 'sharpen' && this.facts?.own != null) await this.keepForPhoto(undefined);
    await this.load();
  }

  private async put(content: Content): Promise<void> {
    const body = { content, version: this.number };
    const recipe = await taken(api.PUT('/api/recipes/{number}', { params: { path: { number: this.recipe } }, body }));
    changedRecipe(recipe, this.bench?.content);
    this.number = recipe.version;
    this.kept = content;
  }

  /** Keep a strength for this photo alone; undefined follows the recipe again. */
  async keepForPhoto(strength: number | undefined): Promise<void> {
    const path = { number: this.tray, recipe: this.recipe };
    const strengths = { [this.photo]: strength ?? null };
    const before = await taken(api.PUT('/api/trays/{number}/sharpness/{recipe}', { params: { path }, body: { strengths } }));
    const call = (strengths: unknown): Call => ({ method: 'PUT', path: `/api/trays/${this.tray}/sharpness/${this.recipe}`, body: { strengths } });
    undo.push({
      what: `sharpened ${this.bench?.photo.name ?? 'a photo'} on its own`,
      at: `/trays/${this.tray}`,
      place: this.bench?.photo.name ?? 'a photo',
      undo: [call(before.strengths)],
      redo: [call(strengths)],
    });
    this.settle();
    this.content = this.kept;
    await this.load();
  }

  /** What the recipe says of sharpening, as it is kept. */
  sharpenKept(): Content {
    return station(this.kept, 'sharpen') ?? { strength: 0 };
  }

  sharpen(): Content {
    return station(this.content, 'sharpen') ?? { strength: 0 };
  }
}

/** Shows the newest picture that was asked for: older answers are dropped, and their requests ended. */
export class Fresh {
  src = $state('');
  exact = $state(false);
  private asked: AbortController | undefined;

  async show(make: (signal: AbortSignal) => Promise<string>): Promise<void> {
    this.asked?.abort();
    const turn = new AbortController();
    this.asked = turn;
    this.exact = false;
    try {
      const src = await make(turn.signal);
      if (this.asked !== turn) {
        URL.revokeObjectURL(src);
        return;
      }
      const old = this.src;
      this.src = src;
      this.exact = true;
      if (old) setTimeout(() => URL.revokeObjectURL(old), 500);
    } catch (error) {
      if (this.asked === turn && !turn.signal.aborted) throw error;
    }
  }

  drop(): void {
    this.asked?.abort();
    this.asked = undefined;
    if (this.src) URL.revokeObjectURL(this.src);
  }
}
