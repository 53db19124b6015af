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

  async load(): Promise<void> {
    const me = taken(api.GET('/api/me')).then((found) => (this.me = found));
    await Promise.all([me, this.loadTrays(), this.loadRecipes(), this.loadRuns()]);
  }

  loadTrays(): Promise<void> {
    return this.newest('trays', taken(api.GET('/api/trays')), (found) => (this.trays = found));
  }

  loadRecipes(): Promise<void> {
    return this.newest('recipes', taken(api.GET('/api/recipes')), (found) => (this.recipes = found));
  }

  loadRuns(): Promise<void> {
    return this.newest('runs', taken(api.GET('/api/runs')), (found) => (this.runs = found));
  }

  /** Take an answer, unless a newer one has come before it. */
  private async newest<T>(what: 'trays' | 'recipes' | 'runs', answer: Promise<T>, take: (found: T) => void): Promise<void> {
    const mine = ++this.clock;
    const found = await answer;
    if (mine < this.shown[what]) return;
    this.shown[what] = mine;
    take(found);
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
