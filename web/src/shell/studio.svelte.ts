import { api, taken, type Me, type Recipe, type Run, type Tray } from '../api/client';
import { going } from '../words/runs';

/** What every screen knows: who is here, the trays, the recipes, the newest runs. */
class Studio {
  me = $state.raw<Me>();
  trays = $state.raw<Tray[]>();
  recipes = $state.raw<Recipe[]>([]);
  runs = $state.raw<Run[]>([]);
  active = $derived(this.runs.filter(going));

  async load(): Promise<void> {
    [this.me, this.trays, this.recipes, this.runs] = await Promise.all([
      taken(api.GET('/api/me')),
      taken(api.GET('/api/trays')),
      taken(api.GET('/api/recipes')),
      taken(api.GET('/api/runs')),
    ]);
  }

  async loadTrays(): Promise<void> {
    this.trays = await taken(api.GET('/api/trays'));
  }

  async loadRecipes(): Promise<void> {
    this.recipes = await taken(api.GET('/api/recipes'));
  }

  async loadRuns(): Promise<void> {
    this.runs = await taken(api.GET('/api/runs'));
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
