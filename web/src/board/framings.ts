import { api, taken, type Bench, type Framing, type Lists } from '../api/client';
import { undo } from '../shell/undo.svelte';
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

  private put(lists: Lists): Promise<Lists> {
    return taken(api.PUT('/api/trays/{number}/framings', { params: { path: this.path }, body: lists }));
  }

  /** Undoing is there as soon as the change is; what is shown comes anew after that. */
  private async done(what: string, before: Lists): Promise<void> {
    undo.push(what, async () => {
      await this.put(before);
      await this.changed();
    });
    await this.changed();
  }

  /** Give one photo exactly these framings, those chosen last first. */
  async keep(photo: number, framings: Framing[], what: string): Promise<void> {
    await this.done(what, await this.put({ photos: { [photo]: framings } }));
  }

  /** Frame cells by a place in the picture. */
  async byAnchor(cells: [number, number][], anchor: string, name: string): Promise<void> {
    const before = await taken(api.POST('/api/trays/{number}/anchor', { params: { path: this.path }, body: { cells, anchor } }));
    await this.done(`framed ${count(cells.length, 'cell')} by the ${name}`, before);
  }

  /** Use a framing of one photo for others. */
  async carry(source: number, framing: Framing, photos: number[]): Promise<void> {
    const body = { source, framing, photos };
    const before = await taken(api.POST('/api/trays/{number}/carry', { params: { path: this.path }, body }));
    await this.done(`used a framing for ${count(photos.length, 'photo')}`, before);
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
