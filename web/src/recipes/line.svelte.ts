import { api, Problem, taken, type Photo, type Recipe, type Schemas } from '../api/client';
import { same } from '../api/same';
import { say } from '../shell/notices.svelte';
import { changedRecipe } from '../shell/undo.svelte';
import {
  byField,
  CHANGING,
  except,
  framedBy,
  measuredBy,
  NOTHING_TRIED,
  only,
  remembered,
  savedAs,
  station,
  STATIONS,
  weighedBy,
  withStation,
  type Content,
  type StationName,
} from './draft';

const SAVE_AFTER = 500;
const ASK_AFTER = 16;
const MOST = 200;

/** What could not be kept when somebody left, with the version that it began from. */
interface Draft {
  version: number;
  content: Content;
}

/** One recipe on the line: what is typed, what the server says of it, and when it is kept. */
export class LineState {
  readonly id: number;
  content = $state.raw<Content>({});
  /** The newest content without problems: pictures are made of this. */
  good = $state.raw<Content>({});
  answer = $state.raw<Schemas['DraftOut']>();
  problems = $state.raw<Record<string, string>>({});
  recipe = $state.raw<Recipe>();
  open = $state<StationName>('frame');
  samples = $state.raw<Photo[]>([]);
  sample = $state<number>();
  /** All photos of the tray that may be taken as a sample. */
  photos = $state.raw<Photo[]>([]);
  /** A second sample beside the first, and whether it is shown. */
  beside = $state<number>();
  both = $state(false);
  versions = $state.raw<Schemas['VersionOut'][]>([]);
  /** The mark that is being changed, of the finish station. */
  mark = $state(0);
  saving = $state(false);
  /** Why the newest change is not kept, until it is. */
  unkept = $state('');
  /** The recipe as somebody else, or another tab, kept it meanwhile: one of the two is to be chosen. */
  theirs = $state.raw<Recipe>();
  photo = $derived(this.samples.find((each) => each.id === this.sample));
  plan = $derived(this.answer?.plans.find((each) => each.photo === this.sample));
  /** What was typed before something else was tried. */
  private tried = NOTHING_TRIED;
  private aside: Content = {};
  private kept: Content = {};
  private readonly draft: string;
  private askTimer: ReturnType<typeof setTimeout> | undefined;
  private saveTimer: ReturnType<typeof setTimeout> | undefined;
  private asked = 0;
  private saves: Promise<void> = Promise.resolve();

  constructor(id: number) {
    this.id = id;
    this.draft = `upper-tray.recipe.${id}`;
  }

  async load(tray: number | undefined): Promise<void> {
    const path = { number: this.id };
    this.recipe = await taken(api.GET('/api/recipes/{number}', { params: { path } }));
    this.content = this.good = this.kept = this.recipe.content;
    if (tray !== undefined) {
      const path = { number: tray };
      const board = await taken(api.GET('/api/trays/{number}/board', { params: { path } }));
      const rows = await taken(api.POST('/api/trays/{number}/rows', { params: { path }, body: { photos: board.photos.slice(0, MOST) } }));
      this.photos = rows.map((row) => row.photo).filter((photo) => photo.state === 'ready');
      this.samples = samplesOf(this.photos);
      this.sample = this.samples[0]?.id;
      const other = this.samples.find((each) => each.height > each.width);
      this.beside = other && other.id !== this.sample ? other.id : this.samples[1]?.id;
    }
    await this.ask();
    const draft = this.readDraft();
    if (!draft || same(draft.content, this.kept)) return;
    // What was kept is drawn until what was typed can be.
    this.content = draft.content;
    if (draft.version !== this.recipe.version) this.theirs = this.recipe;
    await this.ask();
  }

  /** Take over what was kept elsewhere; where something is not kept here, a person chooses. */
  async follow(): Promise<void> {
    const found = await taken(api.GET('/api/recipes/{number}', { params: { path: { number: this.id } } }));
    if (!this.recipe || this.saving) return;
    if (found.version <= this.recipe.version) {
      if (this.unkept && !this.theirs) await this.ask(); // the server was away, and may be there again
      return;
    }
    if (same(found.content, this.content)) this.adopt(found);
    else if (same(this.content, this.kept)) {
      this.adopt(found);
      await this.ask();
    } else this.theirs = found;
  }

  /** Keep this tab's change over theirs, or take theirs. */
  async choose(mine: boolean): Promise<void> {
    const theirs = this.theirs;
    if (!theirs) return;
    const content = this.content;
    this.theirs = undefined;
    this.unkept = '';
    this.adopt(theirs);
    localStorage.removeItem(this.draft);
    if (mine) this.content = content;
    await this.ask();
    if (mine) await this.save();
  }

  private adopt(recipe: Recipe): void {
    this.recipe = recipe;
    this.content = this.good = this.kept = recipe.content;
  }

  private readDraft(): Draft | undefined {
    try {
      const found = JSON.parse(localStorage.getItem(this.draft) ?? 'null') as Partial<Draft> | null;
      return found?.content && typeof found.version === 'number' ? (found as Draft) : undefined;
    } catch {
      return undefined;
    }
  }

  change(content: Content): void {
    this.tried = remembered(remembered(this.tried, this.content), content);
    this.content = content;
    this.noteDraft(); // a reload must not lose what is not kept yet
    clearTimeout(this.askTimer);
    this.askTimer = setTimeout(() => void this.ask(), ASK_AFTER);
  }

  /** Measure another way; what was typed for that way before is there again. */
  measure(by: string): void {
    this.change(measuredBy(this.content, by, this.tried));
  }

  frame(way: string): void {
    this.change(framedBy(this.content, way, this.tried));
  }

  saveAs(format: string): void {
    const saved = withStation(this.content, 'file', savedAs(station(this.content, 'file') ?? {}, format, this.tried));
    // As it is, a photo goes through none of the other stations: they are set aside, and come back with another format.
    if (format === 'same') {
      this.aside = only(saved, CHANGING);
      this.change(except(saved, CHANGING));
    } else {
      this.change({ ...this.aside, ...saved });
      this.aside = {};
    }
  }

  weigh(way: string): void {
    this.change(withStation(this.content, 'file', weighedBy(station(this.content, 'file') ?? {}, way, this.tried)));
  }

  /** Change the color station so that it goes with the format: it is offered, never done unasked. */
  giveWay(what: 'bits' | 'profile'): void {
    const { bits: _, ...color } = station(this.content, 'color') ?? {};
    this.change(withStation(this.content, 'color', what === 'bits' ? color : { profile: 'srgb' }));
  }

  /** Take any photo of the tray as a sample. */
  async take(photo: number): Promise<void> {
    const found = this.photos.find((each) => each.id === photo);
    if (!found) return;
    if (!this.samples.includes(found)) this.samples = [found, ...this.samples.slice(0, 4)];
    this.sample = photo;
    await this.ask();
  }

  planOf(photo: number | undefined): Schemas['DraftPlanOut'] | undefined {
    return this.answer?.plans.find((each) => each.photo === photo);
  }

  async loadVersions(): Promise<void> {
    await this.leave();
    this.versions = await taken(api.GET('/api/recipes/{number}/versions', { params: { path: { number: this.id } } }));
  }

  step(by: number): void {
    const at = STATIONS.findIndex((each) => each.name === this.open);
    this.open = STATIONS[Math.min(Math.max(at + by, 0), STATIONS.length - 1)]?.name ?? 'size';
  }

  /** Keep what is not kept yet; called when leaving as well. One after the other: an older change never comes last. */
  save(): Promise<void> {
    const saved = this.saves.then(() => this.saveNow());
    this.saves = saved.catch(() => undefined);
    return saved;
  }

  private async saveNow(): Promise<void> {
    clearTimeout(this.saveTimer);
    this.saveTimer = undefined;
    const content = this.good;
    if (same(content, this.kept) || this.theirs) return; // typed away and back again, or to be chosen first
    this.saving = true;
    try {
      const before = this.recipe?.content;
      await this.put(content);
      this.unkept = '';
      if (this.recipe && before) changedRecipe(this.recipe, before);
    } catch (error) {
      const newer = error instanceof Problem && error.status === 409;
      this.unkept = '';
      if (newer) this.theirs = await taken(api.GET('/api/recipes/{number}', { params: { path: { number: this.id } } }));
      else this.unkept = error instanceof Error ? error.message : String(error);
    } finally {
      this.saving = false;
    }
  }

  /** What was not kept is tried once more. */
  async again(): Promise<void> {
    await this.ask();
    await this.save();
  }

  /** Ask anew, and keep at once what was typed last: for leaving while the timers still run. */
  async leave(): Promise<void> {
    if (this.askTimer !== undefined) await this.ask();
    await this.save();
    // What cannot be kept yet is found again as it was typed.
    if (this.unkept || this.theirs) say(`The last change of ${String(this.content['title'])} is not kept yet. It is here when you come back.`, { bad: true });
    this.noteDraft();
  }

  private noteDraft(): void {
    const draft: Draft = { version: this.theirs ? 0 : (this.recipe?.version ?? 0), content: this.content };
    if (this.recipe && !same(this.content, this.kept)) localStorage.setItem(this.draft, JSON.stringify(draft));
    else localStorage.removeItem(this.draft);
  }

  private async put(content: Content): Promise<void> {
    const path = { number: this.id };
    const body = { content, version: this.recipe?.version ?? 0 };
    this.recipe = await taken(api.PUT('/api/recipes/{number}', { params: { path }, body }));
    this.kept = content; // what is typed meanwhile is newer and stays
    this.noteDraft();
  }

  private async ask(): Promise<void> {
    clearTimeout(this.askTimer);
    this.askTimer = undefined;
    const content = this.content;
    const turn = ++this.asked;
    try {
      const photos = this.samples.map((each) => each.id);
      const answer = await taken(api.POST('/api/drafts', { body: { content, photos, of: this.id } }));
      if (turn !== this.asked) return; // something newer was typed meanwhile
      this.answer = answer;
      this.problems = {};
      this.good = content;
      if (content !== this.kept) {
        clearTimeout(this.saveTimer);
        this.saveTimer = setTimeout(() => void this.save(), SAVE_AFTER);
      } else this.unkept = '';
    } catch (error) {
      if (turn !== this.asked) return;
      if (error instanceof Problem && error.fields.length) this.problems = byField(error.fields);
      else this.unkept = error instanceof Error ? error.message : String(error);
    }
  }
}

/** A few photos that differ in shape: the first landscape, the first portrait, then others in order. */
export function samplesOf(photos: Photo[], most = 5): Photo[] {
  const ready = photos.filter((photo) => photo.state === 'ready');
  const landscape = ready.find((photo) => photo.width > photo.height);
  const portrait = ready.find((photo) => photo.height > photo.width);
  const first = [landscape, portrait].filter((photo) => photo !== undefined);
  return [...first, ...ready.filter((photo) => !first.includes(photo))].slice(0, most);
}

export function draftPicture(photo: number, content: Content, edge: number, of = 0): string {
  return `/api/pictures/drafts/${photo}?edge=${edge}&of=${of}&recipe=${encodeURIComponent(JSON.stringify(content))}`;
}
