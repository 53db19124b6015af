import { answered, api, taken, type Schemas } from '../api/client';
import { Drafts } from './drafts';
import { keptLooks, sameLooks, sentLooks, tied, toneOf, type Look, type Points, type Values } from './looks';
import { Steps } from './steps.svelte';
import { undo, type Call } from '../shell/undo.svelte';
import { unused } from '../words/names';
import { count } from '../words/numbers';

export interface Number {
  name: string;
  title: string;
  least: number;
  most: number;
  step: number;
  coarse: number;
  places: number;
}

const of = (name: string, title: string, least = -100): Number => ({ name, title, least, most: 100, step: 1, coarse: 10, places: 0 });

/** The numbers beside the pad, as they stand on the screen. */
export const NUMBERS: Number[] = [
  { name: 'exposure', title: 'Exposure', least: -5, most: 5, step: 0.05, coarse: 0.5, places: 2 },
  of('light', 'Light tones'),
  of('contrast', 'Contrast'),
  of('dark', 'Dark tones'),
  of('saturation', 'Saturation'),
  of('white', 'White end'),
  of('muted', 'Muted colors'),
  of('black', 'Black end'),
  of('local', 'Local contrast'),
  of('recover', 'Highlights', 0),
  of('vignette', 'Corners'),
];

/** Those of camera raw. */
export const RAW_NUMBERS: Number[] = [of('noise', 'Noise', 0), of('color_noise', 'Color noise', 0)];

export const BALANCES: [string, string][] = [['shot', 'as shot'], ['daylight', 'daylight'], ['shade', 'shade'], ['lamp', 'lamp']];

/** By the photos' numbers, each with the version that it was tried on. */
const drafts = new Drafts<{ looks: Look[]; version: number }>('looks');

export function within(number: { least: number; most: number; places: number }, value: number): number {
  return +Math.min(number.most, Math.max(number.least, value)).toFixed(number.places) + 0;
}

export function told(number: Number, value: number): string {
  return (value > 0 ? '+' : value < 0 ? '−' : '') + Math.abs(value).toFixed(number.places);
}

/** One photo's tones as they are tried here, until they are kept. Every change can be taken back before that, too. */
export class ToneState {
  readonly tray: number;
  readonly photo: number;
  private recipe: number;
  found = $state.raw<Schemas['ToneOut']>();
  looks = $state.raw<Look[]>([]);
  /** The look that is seen and changed; the photo's own is the first. */
  at = $state(0);
  light = $state.raw<Schemas['LightOut']>();
  /** Whether what is lost at the ends is painted over the picture. */
  lost = $state(false);
  readonly steps = new Steps(() => this.looks, (looks: Look[]) => this.to(looks));
  private turn = 0;
  /** The one that is being changed. */
  private version = 0;
  private readonly page = Math.random().toString(36).slice(2);

  /** recipe: that the page is opened for; the look that it follows comes first. */
  constructor(tray: number, photo: number, recipe = 0) {
    this.tray = tray;
    this.photo = photo;
    this.recipe = recipe;
  }

  get path(): { number: number; photo: number } {
    return { number: this.tray, photo: this.photo };
  }

  async load(): Promise<void> {
    this.found = await taken(api.GET('/api/trays/{number}/tone/{photo}', { params: { path: this.path } }));
    const draft = drafts.read(this.photo);
    // Somebody else's is not taken over what is being tried; keeping that says that there is a newer one.
    if (this.steps.past && this.version !== this.found.version) return;
    this.version = this.found.version;
    if (draft?.version === this.version) this.looks = draft.looks;
    else if (!this.changed || !this.steps.past) this.looks = keptLooks(this.found);
    if (this.recipe) this.at = Math.max(0, this.looks.findIndex((look) => look.recipes.includes(this.recipe)));
    this.recipe = 0;
    this.at = Math.min(this.at, this.looks.length - 1);
  }

  private get neutrals(): Values {
    return (this.found?.neutral ?? {}) as Values;
  }

  get look(): Look {
    return this.looks[this.at] ?? { title: '', recipes: [], values: {} };
  }

  get values(): Values {
    return this.look.values;
  }

  number(name: string): number {
    const value = this.values[name];
    return typeof value === 'number' ? value : 0;
  }

  get curve(): Points {
    const value = this.values['curve'];
    return Array.isArray(value) ? value : [];
  }

  /** A word or a switch. */
  choice(name: string): string | boolean {
    const value = this.values[name];
    return typeof value === 'string' || typeof value === 'boolean' ? value : '';
  }

  get changed(): boolean {
    return !!this.found && this.looks.length > 0 && !sameLooks(this.looks, keptLooks(this.found), this.neutrals);
  }

  get neutral(): boolean {
    return Object.keys(this.tone).length === 0;
  }

  get tone(): Values {
    return toneOf(this.values, this.neutrals);
  }

  set(changes: Values): void {
    this.change({ values: { ...this.values, ...changes } }, Object.keys(changes).join());
  }

  setNeutral(): void {
    this.set(this.neutrals);
  }

  /** Change the look that is seen. name: of what is changed, where changes that follow each other are one step. */
  change(changes: Partial<Look>, name = ''): void {
    this.steps.set(this.looks.map((look, at) => (at === this.at ? { ...look, ...changes } : look)), name && `${name} ${this.at}`);
  }

  tie(recipe: number, on: boolean): void {
    this.steps.set(tied(this.looks, this.at, recipe, on));
  }

  /** One more, which begins as the one that is seen. */
  add(): void {
    this.steps.set([...this.looks, { title: unused('Look', this.looks.map((look) => look.title)), recipes: [], values: this.values }]);
    this.at = this.looks.length - 1;
  }

  remove(): void {
    const gone = this.at;
    this.at = 0;
    this.steps.set(this.looks.filter((_, at) => at !== gone));
  }

  private to(looks: Look[]): void {
    this.looks = looks;
    this.at = Math.min(this.at, looks.length - 1);
    if (this.changed) drafts.write(this.photo, { looks, version: this.version });
    else drafts.forget(this.photo);
  }

  /** The picture with what is tried, or with nothing. */
  async picture(edge: number, signal: AbortSignal, plain = false): Promise<string> {
    const body = JSON.stringify({ tone: plain ? {} : this.tone, edge, lost: this.lost && !plain, page: plain ? '' : this.page, turn: ++this.turn });
    const answer = await answered(`/api/trays/${this.tray}/tone/${this.photo}/picture`, { body, signal });
    return URL.createObjectURL(await answer.blob());
  }

  async measure(): Promise<void> {
    const turn = ++this.turn;
    const body = { tone: this.tone, edge: 256, lost: false, page: this.page, turn };
    const light = await api.POST('/api/trays/{number}/tone/{photo}/light', { params: { path: this.path }, body });
    if (light.data) this.light = light.data;
  }

  /** What lies there becomes grey. */
  async grey(x: number, y: number): Promise<void> {
    const body = { x, y, tone: this.tone };
    const cast = await taken(api.POST('/api/trays/{number}/tone/{photo}/grey', { params: { path: this.path }, body }));
    this.set({ temperature: cast.temperature, tint: cast.tint });
  }

  async propose(): Promise<void> {
    const proposal = await taken(api.GET('/api/trays/{number}/tone/{photo}/proposal', { params: { path: this.path } }));
    this.set({ ...this.neutrals, ...(proposal as Values) });
  }

  async keep(): Promise<void> {
    if (!this.found || !this.changed) return;
    const name = this.found.photo.name;
    const body = { edits: [{ photo: this.photo, ...sentLooks(this.looks, this.neutrals), version: this.version }] };
    const before = await taken(api.PUT('/api/trays/{number}/tones', { params: { path: { number: this.tray } }, body }));
    this.did(before, `gave ${name} its tone`);
    drafts.forget(this.photo);
    this.steps.forget();
    await this.load();
  }

  /** Give some values to other photos, which keep their others. */
  async give(photos: number[], names: string[]): Promise<number> {
    const values = Object.fromEntries(names.map((name) => [name, this.values[name] ?? 0]));
    const before = await taken(api.POST('/api/trays/{number}/tones/given', { params: { path: { number: this.tray } }, body: { photos, values } }));
    this.did(before, `gave its tone to ${count(before.edits.length, 'photo')}`);
    return before.edits.length;
  }

  private did(before: Schemas['ToneEditsIn'], what: string): void {
    if (!before.edits.length) return;
    const call: Call = { method: 'PUT', path: `/api/trays/${this.tray}/tones`, body: before, feeds: true };
    undo.push({ what, at: `/trays/${this.tray}`, place: this.found?.photo.name ?? 'a photo', undo: [call], redo: [{ ...call, body: undefined }] });
  }
}
