import { api, taken, type Schemas } from '../api/client';
import { Steps } from './steps.svelte';
import { undo, type Call } from '../shell/undo.svelte';
import { Drafts } from './drafts';
import { bent, moved, nodeAt, parted, turned, without, type Path, type Place, type Spot } from './outlines';

interface Shape {
  paths: Path[];
  grow: number;
  smooth: number;
}

const NOTHING: Shape = { paths: [], grow: 0, smooth: 0 };

/** By the photos' numbers, each with the version that it was drawn on. */
const drafts = new Drafts<{ shape: Shape; version: number }>('outline');

/** One photo's outline as it is drawn here, until it is kept. Every step can be taken back before that. */
export class OutlineState {
  readonly tray: number;
  readonly photo: number;
  found = $state.raw<Schemas['OutlineOut']>();
  shape = $state.raw<Shape>(NOTHING);
  spot = $state.raw<Spot>();
  /** What is doubtful of it, in sentences. */
  why = $state.raw<string[]>([]);
  finding = $state(false);
  /** The one that is being changed. */
  private version = 0;
  readonly steps = new Steps(() => this.shape, (shape: Shape) => this.to(shape));

  constructor(tray: number, photo: number) {
    this.tray = tray;
    this.photo = photo;
  }

  private get path(): { number: number; photo: number } {
    return { number: this.tray, photo: this.photo };
  }

  async load(): Promise<void> {
    this.found = await taken(api.GET('/api/trays/{number}/outline/{photo}', { params: { path: this.path } }));
    const draft = drafts.read(this.photo);
    // Somebody else's is not taken over what is being drawn; keeping that says that there is a newer one.
    if (this.steps.past && this.version !== this.found.version) return;
    this.version = this.found.version;
    if (draft?.version === this.version) this.shape = draft.shape;
    else if (!this.steps.past) this.shape = this.kept;
    if (!this.steps.past) this.why = this.found.why;
  }

  private get kept(): Shape {
    return { ...NOTHING, ...only(this.found?.outline ?? {}) };
  }

  get changed(): boolean {
    return JSON.stringify(this.shape) !== JSON.stringify(this.kept);
  }

  /** Whether nobody needs to look at it any more. */
  get sure(): boolean {
    return !this.changed && this.shape.paths.length > 0 && this.found?.outline['sure'] !== false;
  }

  get ratio(): number {
    return this.found ? this.found.photo.width / this.found.photo.height : 1;
  }

  get points(): number {
    return this.shape.paths.reduce((sum, each) => sum + each.length, 0);
  }

  /** name: what is drawn along, as one step. */
  set(changes: Partial<Shape>, name = ''): void {
    this.steps.set({ ...this.shape, ...changes }, name);
  }

  private to(shape: Shape): void {
    this.shape = shape;
    if (!nodeAt(shape.paths, this.spot)) this.spot = undefined;
    if (this.changed) drafts.write(this.photo, { shape, version: this.version });
    else drafts.forget(this.photo);
  }

  move(spot: Spot, by: Place): void {
    this.set({ paths: moved(this.shape.paths, spot, by) }, `move ${spot.path} ${spot.node}`);
  }

  bend(spot: Spot, which: 'before' | 'behind', to: Place): void {
    this.set({ paths: bent(this.shape.paths, spot, which, to, this.ratio) }, `bend ${spot.path} ${spot.node} ${which}`);
  }

  remove(spot: Spot): void {
    this.set({ paths: without(this.shape.paths, spot) });
    const left = this.shape.paths[spot.path]?.length ?? 0;
    this.spot = left ? { path: spot.path, node: Math.min(spot.node, left - 1) } : undefined;
  }

  turn(spot: Spot): void {
    this.set({ paths: turned(this.shape.paths, spot) });
  }

  add(spot: Spot, t = 0.5): void {
    this.set({ paths: parted(this.shape.paths, spot, t) });
    this.spot = { path: spot.path, node: spot.node + 1 };
  }

  removePath(at: number): void {
    this.set({ paths: this.shape.paths.filter((_, i) => i !== at) });
    this.spot = undefined;
  }

  /** The next point, or the one before, over all paths. */
  go(by: 1 | -1): void {
    const all = this.shape.paths.flatMap((path, p) => path.map((_, node) => ({ path: p, node })));
    const here = all.findIndex((each) => each.path === this.spot?.path && each.node === this.spot.node);
    this.spot = all[(here + by + all.length) % all.length];
  }

  /** Look for it in the photo; whether one was found. */
  async find(): Promise<boolean> {
    if (this.finding) return true;
    this.finding = true;
    try {
      const there = await taken(api.POST('/api/trays/{number}/outline/{photo}/found', { params: { path: this.path } }));
      this.why = there.why;
      const shape = { ...NOTHING, ...only(there.outline), grow: this.shape.grow, smooth: this.shape.smooth };
      if (shape.paths.length) this.set(shape);
      return shape.paths.length > 0;
    } finally {
      this.finding = false;
    }
  }

  /** Keep it, whether it was changed or only looked at. */
  async keep(): Promise<void> {
    if (!this.found || this.sure || !this.shape.paths.length) return;
    const { paths, grow, smooth } = this.shape;
    const outline = { paths, ...(grow ? { grow } : {}), ...(smooth ? { smooth } : {}) };
    const edits = [{ photo: this.photo, outline, version: this.version }];
    const before = await taken(api.PUT('/api/trays/{number}/outlines', { params: { path: { number: this.tray } }, body: { edits } }));
    drafts.forget(this.photo);
    this.steps.forget();
    if (before.edits.length) {
      const call: Call = { method: 'PUT', path: `/api/trays/${this.tray}/outlines`, body: before, feeds: true };
      undo.push({ what: `kept the outline of ${this.found.photo.name}`, at: `/trays/${this.tray}`, place: this.found.photo.name, undo: [call], redo: [{ ...call, body: undefined }] });
    }
    await this.load();
  }
}

function only(outline: Record<string, unknown>): Partial<Shape> {
  const { paths, grow, smooth } = outline as unknown as Partial<Shape>;
  return { ...(paths ? { paths } : {}), ...(grow ? { grow } : {}), ...(smooth ? { smooth } : {}) };
}
