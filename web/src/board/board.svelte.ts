import { api, taken, type Run } from '../api/client';
import { undo } from '../shell/undo.svelte';
import { count } from '../words/numbers';
import { Choosing, key } from './choosing.svelte';
import { Framings } from './framings';

/** The board of one tray, with what can be done on it. */
export class BoardState extends Choosing {
  readonly framings: Framings;

  constructor(tray: number) {
    super(tray);
    this.framings = new Framings(tray, () => this.load());
  }

  /** Leave the chosen cells out, or take them in again when all of them are out. */
  async toggleIncluded(): Promise<void> {
    const pairs = this.pairs();
    if (pairs.length === 0) return;
    const cells = new Map(pairs.map((pair) => [key(...pair), this.rows.get(pair[0])?.cells.find((each) => each.recipe === pair[1])]));
    const included = [...cells.values()].every((cell) => cell?.state === 'excluded');
    const changed = pairs.filter((pair) => (cells.get(key(...pair))?.state === 'excluded') === included);
    await this.include(changed, included);
    // Undoing is there as soon as the change is: the board comes anew after that, and its sums take their time.
    undo.push(`${included ? 'included' : 'left out'} ${count(changed.length, 'rendition')}`, async () => {
      await this.include(changed, !included);
      await this.load();
    });
    await this.load();
  }

  private async include(cells: [number, number][], included: boolean): Promise<void> {
    const path = { number: this.tray };
    await taken(api.POST('/api/trays/{number}/include', { params: { path }, body: { cells, included } }));
  }

  async light(recipes: number[]): Promise<void> {
    const before = this.recipes.map((recipe) => recipe.id);
    await this.setRecipes(recipes);
    undo.push('changed the recipes of the tray', async () => {
      await this.setRecipes(before);
      await this.load();
    });
    await this.load();
  }

  private async setRecipes(recipes: number[]): Promise<void> {
    await taken(api.PUT('/api/trays/{number}/recipes', { params: { path: { number: this.tray } }, body: { recipes } }));
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

  async takeOut(photos: number[]): Promise<void> {
    const path = { number: this.tray };
    const found = await taken(api.POST('/api/trays/{number}/take-out', { params: { path }, body: { photos } }));
    this.clear();
    undo.push(`took ${count(photos.length, 'photo')} out of the tray`, async () => {
      await taken(api.POST('/api/trays/{number}/put-back', { params: { path }, body: found }));
      await this.load();
    });
    await this.load();
  }

  async lookAgain(): Promise<string> {
    const found = await taken(api.POST('/api/trays/{number}/look-again', { params: { path: { number: this.tray } } }));
    await this.load();
    const said = [
      found.new ? `${count(found.new, 'new photo')}` : '',
      found.changed ? `${count(found.changed, 'photo')} changed` : '',
      found.gone ? `${count(found.gone, 'photo')} gone` : '',
      found.odd.length ? `${count(found.odd.length, 'file')} left out, whose names are no text (${found.odd.slice(0, 3).join(', ')}); rename them` : '',
    ].filter(Boolean);
    return said.length ? said.join(', ') : 'Nothing has changed in the folders.';
  }

  /** Start making what is chosen, or all. again: also what is made already. */
  async make(again = false): Promise<Run> {
    const cells = this.selected.size ? this.pairs() : null;
    const run = await taken(api.POST('/api/trays/{number}/runs', { params: { path: { number: this.tray } }, body: { cells, again } }));
    await this.load();
    return run;
  }
}
