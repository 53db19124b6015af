import { api, fieldsOf, taken, type Schemas } from '../api/client';
import { same } from '../api/same';
import { Drafts } from '../bench/drafts';
import { Steps } from '../bench/steps.svelte';
import { undo } from '../shell/undo.svelte';
import { valueAt, withValue, type Json } from './fields';

export type Outlet = Schemas['OutletOut'];

/** By the outlets' numbers, each with the version that it was begun on. */
const drafts = new Drafts<{ content: Json; version: number }>('outlet');

/** One outlet's sheet as it is edited here, until it is saved. */
export class SheetState {
  readonly id: number;
  outlet = $state.raw<Outlet>();
  content = $state.raw<Json>({});
  problems = $state.raw<Record<string, string>>({});
  at = $state(0);
  readonly steps = new Steps(() => this.content, (content: Json) => this.to(content));
  private version = 0;

  constructor(id: number) {
    this.id = id;
  }

  get uses(): Json[] {
    return (this.content['uses'] as Json[] | undefined) ?? [];
  }

  get use(): Json {
    return this.uses[this.at] ?? {};
  }

  get changed(): boolean {
    return this.outlet !== undefined && !same(this.content, this.outlet.content);
  }

  /** The name of the open use as it is kept: recipes and checks know no other. */
  get keptUse(): string | undefined {
    const uses = (this.outlet?.content['uses'] as Json[] | undefined) ?? [];
    return uses[this.at]?.['use'] as string | undefined;
  }

  async load(): Promise<void> {
    const found = await taken(api.GET('/api/outlets/{number}', { params: { path: { number: this.id } } }));
    const editing = this.changed;
    this.outlet = found;
    // Somebody else's does not take away what is being typed; saving it says that there is a newer one.
    if (editing && this.version !== found.version) return;
    const draft = drafts.read(this.id);
    if (!editing) {
      this.version = found.version;
      this.content = draft?.version === found.version ? draft.content : found.content;
    }
    this.at = Math.min(this.at, this.uses.length - 1);
  }

  set(path: string, value: unknown): void {
    this.steps.set(withValue(this.content, path, value), path);
  }

  setUse(path: string, value: unknown): void {
    const uses = this.uses.map((each, i) => (i === this.at ? withValue(each, path, value) : each));
    this.steps.set({ ...this.content, uses }, `${this.at}.${path}`);
  }

  get(path: string): unknown {
    return valueAt(this.content, path);
  }

  addUse(): void {
    const names = new Set(this.uses.map((each) => each['use']));
    let name = 'New use';
    for (let n = 2; names.has(name); n++) name = `New use ${n}`;
    this.steps.set({ ...this.content, uses: [...this.uses, { ...structuredClone(this.use), use: name }] }, 'uses');
    this.at = this.uses.length - 1;
  }

  removeUse(): void {
    this.steps.set({ ...this.content, uses: this.uses.filter((_, i) => i !== this.at) }, 'uses');
    this.at = Math.max(0, this.at - 1);
  }

  private to(content: Json): void {
    this.content = content;
    this.problems = {};
    if (this.changed) drafts.write(this.id, { content, version: this.version });
    else drafts.forget(this.id);
  }

  /** Go back to what is kept. */
  drop(): void {
    if (this.outlet) {
      this.version = this.outlet.version;
      this.steps.set(this.outlet.content as Json, 'drop');
    }
  }

  async save(): Promise<boolean> {
    this.problems = {};
    const before = this.outlet;
    try {
      const body = { content: this.content as Record<string, never>, version: this.version };
      this.outlet = await taken(api.PUT('/api/outlets/{number}', { params: { path: { number: this.id } }, body }));
    } catch (error) {
      this.problems = fieldsOf(error);
      const at = /^uses\.(\d+)/.exec(Object.keys(this.problems)[0] ?? '')?.[1];
      if (at !== undefined) this.at = Number(at);
      return false;
    }
    const after = this.outlet;
    if (before && after.version !== before.version) {
      const path = `/api/outlets/${this.id}`;
      // Each names what it finds: somebody else's change in between is not undone with it.
      undo.push({
        what: `changed ${after.name}`,
        at: `/outlets/${this.id}`,
        place: after.name,
        undo: [{ method: 'PUT', path, body: { content: before.content, was: after.content } }],
        redo: [{ method: 'PUT', path, body: { content: after.content, was: before.content } }],
      });
    }
    this.version = after.version;
    this.content = after.content as Json;
    drafts.forget(this.id);
    this.steps.forget();
    return true;
  }
}
