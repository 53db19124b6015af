import { api, taken, type Bench, type Framing, type Lists, type Schemas } from '../api/client';
import { studio } from '../shell/studio.svelte';
import { undo, type Call } from '../shell/undo.svelte';
import { count } from '../words/numbers';

/** Changing the framings of photos; every change can be undone by giving them back the lists they had. */
export class Framings {
  private readonly path: { number: number };
  private readonly changed: () => Promise<void>;

  constructor(tray: number, changed: () => Promise<void>) {
    this.path = { number: tray };
    this.changed = changed;
  }

  /** One cell with its framings: what it follows now, or a proposal. */
  bench(photo: number, recipe: number): Promise<Bench> {
    return taken(api.GET('/api/trays/{number}/bench/{photo}/{recipe}', { params: { path: { ...this.path, photo, recipe } } }));
  }

  private call(method: Call['method'], path: string, body: unknown): Call {
    return { method, path: `/api/trays/${this.path.number}/${path}`, body };
  }

  /** Undoing is there as soon as the change is; what is shown comes anew after that. */
  private async done(what: string, before: Lists, redo: Call): Promise<void> {
    const place = studio.trays?.find((each) => each.id === this.path.number)?.name ?? 'the tray';
    const undoing = [this.call('PUT', 'framings', { photos: before.photos })];
    undo.push({ what, at: `/trays/${this.path.number}`, place, undo: undoing, redo: [redo] });
    await this.changed();
  }

  /** Give one photo exactly these framings, those chosen last first. */
  async keep(photo: number, framings: Framing[], what: string): Promise<void> {
    const body = { photos: { [photo]: framings } };
    const before = await taken(api.PUT('/api/trays/{number}/framings', { params: { path: this.path }, body }));
    await this.done(what, before, this.call('PUT', 'framings', body));
  }

  /** Frame cells by a place in the picture; says how many it framed. */
  async byAnchor(chosen: Schemas['ChosenIn'], anchor: string, name: string): Promise<string> {
    const body = { ...chosen, anchor };
    const made = await taken(api.POST('/api/trays/{number}/anchor', { params: { path: this.path }, body }));
    await this.done(`framed ${count(made.framed, 'cell')} by the ${name}`, made, this.call('POST', 'anchor', body));
    return `${made.framed} framed${made.uncropped ? `, ${made.uncropped} ${made.uncropped === 1 ? 'has' : 'have'} no crop` : ''}`;
  }

  /** Use a framing of one photo for others; says how many it framed. */
  async carry(source: number, framing: Framing, photos: Schemas['ChosenIn'] & { photos?: number[] }): Promise<string> {
    const body = { ...photos, source, framing };
    const made = await taken(api.POST('/api/trays/{number}/carry', { params: { path: this.path }, body }));
    await this.done(`framed ${count(made.framed, 'photo')} alike`, made, this.call('POST', 'carry', body));
    return `${made.framed} framed`;
  }
}

export const ANCHORS: readonly (readonly [string, string])[] = [
  ['interest', 'interesting part'],
  ['middle', 'middle'],
  ['top', 'top'],
  ['bottom', 'bottom'],
  ['left', 'left'],
  ['right', 'right'],
  ['top-left', 'top left'],
  ['top-right', 'top right'],
  ['bottom-left', 'bottom left'],
  ['bottom-right', 'bottom right'],
];
