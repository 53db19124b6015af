import { api, taken, type Recipe, type Run } from '../api/client';
import { undo, type Call } from '../shell/undo.svelte';
import { count } from '../words/numbers';
import { Choosing } from './choosing.svelte';
import { Framings } from './framings';
import type { How } from './kept';

/** The board of one tray, with what can be done on it. Every change can be undone, and done again. */
export class BoardState extends Choosing {
  readonly framings: Framings;

  constructor(tray: number, how?: How) {
    super(tray, how);
    this.framings = new Framings(tray, () => this.load());
  }

  /** Undoing is there as soon as the change is: the board comes anew after that, and its sums take their time. */
  private async did(what: string, undoing: Call[], redoing: Call[], run?: number): Promise<void> {
    const place = this.board?.name ?? 'the tray';
    undo.push({ what, at: `/trays/${this.tray}`, place, undo: undoing, redo: redoing, ...(run === undefined ? {} : { run }) });
    await this.load();
  }

  private call(method: Call['method'], path: string, body: unknown): Call {
    return { method, path: `/api/trays/${this.tray}/${path}`, body };
  }

  /** Leave the chosen cells out, or take them in again when all of them are out. */
  async toggleIncluded(): Promise<void> {
    const chosen = this.chosenOrFocus();
    if (!chosen) return;
    const path = { number: this.tray };
    const done = await taken(api.POST('/api/trays/{number}/include', { params: { path }, body: { ...chosen, included: null } }));
    const areas = Object.entries(done.changed).map(([recipe, photos]) => ({ photos, recipes: [Number(recipe)] }));
    if (!areas.length) return;
    const call = (included: boolean) => [this.call('POST', 'include', { areas, included })];
    await this.did(`${done.included ? 'took in' : 'left out'} ${count(done.renditions, 'rendition')}`, call(!done.included), call(done.included));
  }

  async light(recipes: number[]): Promise<void> {
    const before = this.recipes.map((recipe) => recipe.id);
    await taken(api.PUT('/api/trays/{number}/recipes', { params: { path: { number: this.tray } }, body: { recipes } }));
    await this.did('changed the recipes on the board', [this.call('PUT', 'recipes', { recipes: before })], [this.call('PUT', 'recipes', { recipes })]);
  }

  /** Put a column somewhere else. */
  async moveColumn(from: number, to: number): Promise<void> {
    const order = this.recipes.map((recipe) => recipe.id);
    const [moving] = order.splice(from, 1);
    if (moving === undefined || to < 0 || to > order.length || from === to) return;
    order.splice(to, 0, moving);
    await this.light(order);
    this.focus = { ...this.focus, column: to };
  }

  /** Take the chosen photos out of the tray. */
  async takeOut(): Promise<void> {
    const photos = [...this.picked.keys()];
    const path = { number: this.tray };
    const found = await taken(api.POST('/api/trays/{number}/take-out', { params: { path }, body: { photos } }));
    this.clear();
    await this.did(`took ${count(photos.length, 'photo')} out of the tray`, [this.call('POST', 'put-back', found)], [this.call('POST', 'take-out', { photos })]);
  }

  async lookAgain(): Promise<string> {
    const found = await taken(api.POST('/api/trays/{number}/look-again', { params: { path: { number: this.tray } } }));
    await this.load();
    const said = [
      found.new ? `${count(found.new, 'new photo')}` : '',
      found.changed ? `${count(found.changed, 'photo')} changed` : '',
      found.gone ? `${count(found.gone, 'photo')} gone` : '',
      found.odd.length ? `${count(found.odd.length, 'file')} left out, whose names cannot be read (${found.odd.slice(0, 3).join(', ')}); rename them` : '',
    ].filter(Boolean);
    return said.length ? said.join(', ') : 'Nothing has changed in the folders.';
  }

  /** Make the chosen photos by one recipe, whichever cells of them are chosen. */
  async makeBy(recipe: Recipe): Promise<Run | undefined> {
    const chosen = this.chosenOrFocus();
    if (!chosen) return undefined;
    const areas = (chosen.areas ?? []).map((area) => ({ ...area, recipes: [recipe.id] }));
    const body = { ...chosen, areas, again: false };
    const run = await taken(api.POST('/api/trays/{number}/runs', { params: { path: { number: this.tray } }, body }));
    const stop: Call = { method: 'POST', path: `/api/runs/${run.id}/stop` };
    await this.did(`started making ${count(run.counts.total, 'rendition')} by ${recipe.title}`, [stop], [this.call('POST', 'runs', body)], run.id);
    return run;
  }

  /** Start making what is chosen, or all that is shown. again: also what is made already. Undoing stops the rest. */
  async make(again = false): Promise<Run> {
    const body = { ...this.chosen(), again };
    const run = await taken(api.POST('/api/trays/{number}/runs', { params: { path: { number: this.tray } }, body }));
    const stop: Call = { method: 'POST', path: `/api/runs/${run.id}/stop` };
    await this.did(`started making ${count(run.counts.total, 'rendition')}`, [stop], [this.call('POST', 'runs', body)], run.id);
    return run;
  }
}
