import { api, csrf, problemOf, taken, type Schemas } from '../api/client';
import { Drafts } from './drafts';
import { Steps } from './steps.svelte';
import { undo, type Call } from '../shell/undo.svelte';
import { count } from '../words/numbers';

export type Points = [number, number][];
export type Values = Record<string, number | Points>;

export interface Number {
  name: string;
  title: string;
  most: number;
  step: number;
  coarse: number;
  places: number;
}

const of = (name: string, title: string): Number => ({ name, title, most: 100, step: 1, coarse: 10, places: 0 });

/** The numbers beside the pad, as they stand on the screen. */
export const NUMBERS: Number[] = [
  { name: 'exposure', title: 'Exposure', most: 5, step: 0.05, coarse: 0.5, places: 2 },
  of('light', 'Light tones'),
  of('contrast', 'Contrast'),
  of('dark', 'Dark tones'),
  of('saturation', 'Saturation'),
  of('white', 'White end'),
  of('muted', 'Muted colors'),
  of('black', 'Black end'),
  of('local', 'Local contrast'),
];

/** By the photos' numbers, each with the version that it was tried on. */
const drafts = new Drafts<{ values: Values; version: number }>('tone');

export function within(number: { most: number; places: number }, value: number): number {
  return +Math.min(number.most, Math.max(-number.most, value)).toFixed(number.places) + 0;
}

export function told(number: Number, value: number): string {
  return (value > 0 ? '+' : value < 0 ? '−' : '') + Math.abs(value).toFixed(number.places);
}

/** One photo's tone as it is tried here, until it is kept. Every change can be taken back before it is kept, too. */
export class ToneState {
  readonly tray: number;
  readonly photo: number;
  found = $state.raw<Schemas['ToneOut']>();
  values = $state.raw<Values>({});
  light = $state.raw<Schemas['LightOut']>();
  /** Whether what is lost at the ends is painted over the picture. */
  lost = $state(false);
  readonly steps = new Steps(() => this.values, (values: Values) => this.to(values));
  private turn = 0;
  /** The one that is being changed. */
  private version = 0;
  private readonly page = Math.random().toString(36).slice(2);

  constructor(tray: number, photo: number) {
    this.tray = tray;
    this.photo = photo;
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
    if (draft?.version === this.version) this.values = draft.values;
    else if (!this.changed || !this.steps.past) this.values = this.kept;
  }

  get kept(): Values {
    return { ...(this.found?.neutral as Values | undefined), ...(this.found?.tone as Values | undefined) };
  }

  number(name: string): number {
    const value = this.values[name];
    return typeof value === 'number' ? value : 0;
  }

  get curve(): Points {
    const value = this.values['curve'];
    return Array.isArray(value) ? value : [];
  }

  get changed(): boolean {
    return JSON.stringify(this.tone) !== JSON.stringify(this.found?.tone ?? {});
  }

  get neutral(): boolean {
    return Object.keys(this.tone).length === 0;
  }

  /** Without what is neutral, in the order in which the server writes it. */
  get tone(): Values {
    const usual = (this.found?.neutral ?? {}) as Values;
    return Object.fromEntries(Object.keys(usual).filter((name) => JSON.stringify(this.values[name]) !== JSON.stringify(usual[name])).map((name) => [name, this.values[name] ?? 0]));
  }

  set(changes: Values): void {
    this.steps.set({ ...this.values, ...changes }, Object.keys(changes).join());
  }

  private to(values: Values): void {
    this.values = values;
    if (this.changed) drafts.write(this.photo, { values, version: this.version });
    else drafts.forget(this.photo);
  }

  /** The picture with what is tried, or with nothing. */
  async picture(edge: number, signal: AbortSignal, plain = false): Promise<string> {
    const body = JSON.stringify({ tone: plain ? {} : this.tone, edge, lost: this.lost && !plain, page: plain ? '' : this.page, turn: ++this.turn });
    const headers = { 'X-CSRFToken': csrf(), 'Content-Type': 'application/json' };
    const answer = await fetch(`/api/trays/${this.tray}/tone/${this.photo}/picture`, { method: 'POST', body, signal, headers });
    if (!answer.ok) throw problemOf(answer.status, await answer.json().catch(() => undefined));
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
    const cast = await taken(api.POST('/api/trays/{number}/tone/{photo}/grey', { params: { path: this.path }, body: { x, y } }));
    this.set({ temperature: cast.temperature, tint: cast.tint });
  }

  async propose(): Promise<void> {
    const proposal = await taken(api.GET('/api/trays/{number}/tone/{photo}/proposal', { params: { path: this.path } }));
    this.set({ ...this.kept, ...((this.found?.neutral ?? {}) as Values), ...(proposal as Values) });
  }

  async keep(): Promise<void> {
    if (!this.found || !this.changed) return;
    const name = this.found.photo.name;
    const body = { edits: [{ photo: this.photo, tone: this.tone, version: this.version }] };
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
