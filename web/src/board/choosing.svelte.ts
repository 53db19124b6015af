import { SvelteSet } from 'svelte/reactivity';
import { api, taken, type Cell, type Photo } from '../api/client';
import { OPEN, TO_MAKE } from '../words/states';
import { ALL, BoardData, type How } from './data.svelte';
import { everything, moved, rectangle, wholeColumn, wholeRow, type Spot } from './selection';

/** The board with what is chosen on it. */
export class Choosing extends BoardData {
  focus = $state<Spot>({ row: 0, column: 0 });
  selected = new SvelteSet<string>();
  private anchor: Spot = { row: 0, column: 0 };

  /** Photo, recipe and cell of what is chosen; without the cell while its row is not here. */
  chosen = $derived.by(() =>
    [...this.selected].map(parts).map(([photo, recipe]): [number, number, Cell | undefined] => [photo, recipe, this.cell(photo, recipe)?.[1]]),
  );
  /** Of what is chosen, or of everything: how many renditions there are to make. */
  toMake = $derived(
    this.selected.size > 0
      ? this.chosen.reduce((sum, [, , cell]) => sum + (cell === undefined ? 1 : TO_MAKE.includes(cell.state) ? cell.parts : 0), 0)
      : (this.overview?.to_make ?? 0),
  );
  making = $derived(
    this.selected.size > 0
      ? this.chosen.filter(([, , cell]) => cell && OPEN.includes(cell.state)).length
      : (this.overview?.open ?? 0),
  );

  override async load(): Promise<void> {
    await super.load();
    if (this.filtered) return;
    // What is no longer on the board cannot stay chosen.
    const photos = new Set(this.photos);
    const recipes = new Set(this.recipes.map((recipe) => recipe.id));
    for (const each of this.selected) {
      const [photo, recipe] = parts(each);
      if (!photos.has(photo) || !recipes.has(recipe)) this.selected.delete(each);
    }
  }

  async show(how: Partial<How>): Promise<void> {
    this.how = { ...this.how, ...how };
    this.focus = this.anchor = { row: 0, column: this.focus.column };
    await this.load();
  }

  at(spot: Spot): [Photo, Cell] | undefined {
    return this.cell(this.photos[spot.row], this.recipes[spot.column]?.id);
  }

  keyAt(spot: Spot): string | undefined {
    const photo = this.photos[spot.row];
    const recipe = this.recipes[spot.column];
    return photo !== undefined && recipe ? key(photo, recipe.id) : undefined;
  }

  /** Choose the cells at these spots; `add` keeps what is chosen already. */
  choose(spots: Spot[], add = false): void {
    if (!add) this.selected.clear();
    for (const spot of spots) {
      const found = this.keyAt(spot);
      if (found) this.selected.add(found);
    }
  }

  click(spot: Spot, how: { shift: boolean; add: boolean }): void {
    this.focus = spot;
    if (how.shift) this.choose(rectangle(this.anchor, spot), how.add);
    else {
      this.anchor = spot;
      const found = this.keyAt(spot);
      if (how.add && found && this.selected.has(found)) this.selected.delete(found);
      else this.choose([spot], how.add);
    }
  }

  /** Draw the rectangle from where the mouse was pressed to `spot`. */
  drag(spot: Spot): void {
    this.focus = spot;
    this.choose(rectangle(this.anchor, spot));
  }

  clickRow(row: number, how: { shift: boolean; add: boolean }): void {
    const from = how.shift ? this.anchor.row : row;
    const last = Math.max(0, this.extent.columns - 1);
    this.choose(how.shift ? rectangle({ row: from, column: 0 }, { row, column: last }) : wholeRow(row, this.extent), how.add);
    this.focus = { row, column: 0 };
    if (!how.shift) this.anchor = this.focus;
  }

  clickColumn(column: number, how: { shift: boolean; add: boolean }): void {
    const last = Math.max(0, this.extent.rows - 1);
    const from = how.shift ? this.anchor.column : column;
    const spots = how.shift ? rectangle({ row: 0, column: from }, { row: last, column }) : wholeColumn(column, this.extent);
    this.choose(spots, how.add);
    this.focus = { row: 0, column };
    if (!how.shift) this.anchor = this.focus;
  }

  all(): void {
    this.choose(everything(this.extent));
  }

  clear(): void {
    this.selected.clear();
  }

  /** Choose by rule: every cell of the photos of one shape, or what is in one state. */
  async chooseBy(rule: 'shape' | 'state', value: string): Promise<void> {
    if (value === 'eye') {
      this.selected.clear();
      for (const { photo, recipe } of await this.waiting()) this.selected.add(key(photo, recipe));
      return;
    }
    const query = { ...ALL, [rule]: value };
    const found = await taken(api.GET('/api/trays/{number}/board', { params: { path: { number: this.tray }, query } }));
    this.selected.clear();
    for (const photo of found.photos) for (const recipe of this.recipes) this.selected.add(key(photo, recipe.id));
  }

  /** Follow an arrow key; true when it led somewhere. */
  move(pressed: string, extend: boolean): boolean {
    const spot = moved(this.focus, pressed, this.extent);
    if (!spot) return false;
    if (this.selected.size === 0 && !extend) this.anchor = this.focus;
    this.focus = spot;
    if (extend) this.choose(rectangle(this.anchor, spot));
    else {
      this.anchor = spot;
      this.choose([spot]);
    }
    return true;
  }

  /** (photo, recipe) of what is chosen, or of the cell in focus. */
  pairs(): [number, number][] {
    const keys = this.selected.size ? [...this.selected] : [this.keyAt(this.focus) ?? ''];
    return keys.filter(Boolean).map(parts);
  }
}

export function key(photo: number, recipe: number): string {
  return `${photo}:${recipe}`;
}

function parts(name: string): [number, number] {
  const [photo, recipe] = name.split(':').map(Number);
  return [photo ?? 0, recipe ?? 0];
}
