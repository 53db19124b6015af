import { api, taken, type Me, type Recipe, type Run, type Tray } from '../api/client';
import { going } from '../words/runs';

/** What every screen knows: who is here, the trays, the recipes, the newest runs. */
class Studio {
  me = $state.raw<Me>();
  trays = $state.raw<Tray[]>();
  recipes = $state.raw<Recipe[]>([]);
  runs = $state.raw<Run[]>([]);
  active = $derived(this.runs.filter(going));

  private clock = 0;
  private readonly shown = { trays: 0, recipes: 0, runs: 0 };

  /** All at once: until then there is nothing. */
  async load(): Promise<void> {
    const asked = ++this.clock;
    const [me, trays, recipes, runs] = await Promise.all([
      taken(api.GET('/api/me')),
      taken(api.GET('/api/trays')),
      taken(api.GET('/api/recipes')),
      taken(api.GET('/api/runs')),
    ]);
    this.me = me;
    if (this.newest('trays', asked)) this.trays = trays;
    if (this.newest('recipes', asked)) this.recipes = recipes;
    if (this.newest('runs', asked)) this.runs = runs;
  }

  async loadTrays(): Promise<void> {
    const asked = ++this.clock;
    const found = await taken(api.GET('/api/trays'));
    if (this.newest('trays', asked)) this.trays = found;
  }

  async loadRecipes(): Promise<void> {
    const asked = ++this.clock;
    const found = await taken(api.GET('/api/recipes'));
    if (this.newest('recipes', asked)) this.recipes = found;
  }

  async loadRuns(): Promise<void> {
    const asked = ++this.clock;
    const found = await taken(api.GET('/api/runs'));
    if (this.newest('runs', asked)) this.runs = found;
  }

  /** Whether no newer answer has come before this one. */
  private newest(what: keyof typeof this.shown, asked: number): boolean {
    if (asked < this.shown[what]) return false;
    this.shown[what] = asked;
    return true;
  }
}

export const studio = new Studio();
const KEY = 'upper-tray.tray';

export function rememberTray(id: number): void {
  localStorage.setItem(KEY, String(id));
}

/** The tray that was open last, or the first there is. */
export function homeTray(trays: Tray[]): Tray | undefined {
  const kept = Number(localStorage.getItem(KEY));
  return trays.find((tray) => tray.id === kept) ?? trays[0];
}
