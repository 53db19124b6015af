import { answered, api, taken, type Recipe } from '../api/client';
import { same } from '../api/same';
import { resync } from '../api/live';
import { say, settled } from './notices.svelte';
import { router } from './router.svelte';

/** A request that does or undoes something: as data, so that it survives a reload. */
export interface Call {
  method: 'POST' | 'PUT' | 'DELETE';
  path: string;
  body?: unknown;
  /** Whether its answer is the body of the other way's call: where photos were, to put them back. */
  feeds?: boolean;
}

/** A recipe given another content: only while it still says what it said after the change. */
export interface RecipeCall {
  recipe: number;
  from: unknown;
  to: unknown;
}

/** what: in words, as done. at: the address where it was done; place: that in words. */
export interface Step {
  what: string;
  at: string;
  place: string;
  undo: (Call | RecipeCall)[];
  redo: (Call | RecipeCall)[];
  /** The run that undoing stops: once it is over there is nothing to undo. */
  run?: number;
}

/** Steps of something that is being drawn and not kept yet: they come before all that is kept. */
export interface Local {
  readonly past: boolean;
  readonly future: boolean;
  back(): void;
  forth(): void;
}

const KEY = 'upper-tray.undo';
const MOST = 50;
/** Characters of one tab's store that steps may take. */
const ROOM = 2_000_000;

/** What was done last can be undone, and done again: newest first, through reloads, in this tab. */
class Undo {
  steps = $state.raw<Step[]>([]);
  undone = $state.raw<Step[]>([]);
  local = $state.raw<Local>();
  private line: Promise<unknown> = Promise.resolve();

  constructor() {
    try {
      const kept = JSON.parse(sessionStorage.getItem(KEY) ?? '{}') as { steps?: Step[]; undone?: Step[] };
      this.steps = kept.steps ?? [];
      this.undone = kept.undone ?? [];
    } catch {
      // written by another version: begin anew
    }
  }

  push(step: Step): void {
    this.set([...this.steps.slice(1 - MOST), step], []);
  }

  clear(): void {
    this.set([], []);
  }

  /** Undo the newest step: what was asked for just now, too, once it is done. */
  async last(): Promise<void> {
    if (this.local?.past) return this.local.back();
    await this.alone(async () => {
      await this.dropRunsThatAreOver();
      const step = this.steps.at(-1);
      if (!step) return;
      const done = await this.done(step.undo, step.redo);
      this.set(this.steps.filter((each) => each !== step), [...this.undone, { ...step, redo: done }]);
      told('Undone', step);
    });
  }

  /** Do again what was undone last. */
  async again(): Promise<void> {
    if (this.local?.future) return this.local.forth();
    await this.alone(async () => {
      const step = this.undone.at(-1);
      if (!step) return;
      const done = await this.done(step.redo, step.undo);
      this.set([...this.steps, { ...step, undo: done }], this.undone.filter((each) => each !== step));
      told('Done again', step);
    });
  }

  /** One after the other: whoever presses again before the first is answered gets both, in their order. */
  private alone(work: () => Promise<void>): Promise<void> {
    const before = settled();
    const mine = this.line.then(() => before).then(work);
    this.line = mine.catch(() => undefined);
    return mine;
  }

  private async dropRunsThatAreOver(): Promise<void> {
    for (let step = this.steps.at(-1); step?.run !== undefined; step = this.steps.at(-1)) {
      const found = await api.GET('/api/runs/{number}', { params: { path: { number: step.run } } });
      if (found.data && !found.data.finished) return;
      this.set(this.steps.slice(0, -1), this.undone);
    }
  }

  /** The other way's calls, with what was answered. Where a call fails the step stays, and can be tried again. */
  private async done(calls: Step['undo'], back: Step['undo']): Promise<Step['undo']> {
    for (const call of calls) {
      if ('recipe' in call) await giveBack(call);
      else {
        const body = await send(call);
        if (call.feeds) back = back.map((each) => ('recipe' in each ? each : { ...each, body }));
      }
    }
    resync();
    return back;
  }

  private set(steps: Step[], undone: Step[]): void {
    this.steps = steps;
    this.undone = undone;
    for (let first = 0; first <= steps.length; first++) {
      const text = JSON.stringify({ steps: steps.slice(first), undone });
      if (text.length > ROOM) continue; // the oldest are forgotten first
      try {
        sessionStorage.setItem(KEY, text);
        return;
      } catch {
        continue;
      }
    }
    sessionStorage.removeItem(KEY);
  }
}

/** Say what was undone; where it is not in view, also where, with a way there. */
function told(verb: string, step: Step): void {
  const inView = router.path === step.at || router.path.startsWith(`${step.at}/`);
  say(inView ? `${verb}: ${step.what}` : `${verb} in ${step.place}: ${step.what}`, { link: inView ? undefined : { to: step.at, text: 'Go there' } });
}

export async function send<T = unknown>(call: Call): Promise<T> {
  const answer = await answered(call.path, { method: call.method, body: call.body === undefined ? null : JSON.stringify(call.body) });
  const text = await answer.text();
  return (text ? JSON.parse(text) : undefined) as T;
}

async function giveBack({ recipe, from, to }: RecipeCall): Promise<void> {
  const path = { number: recipe };
  const now: Recipe = await taken(api.GET('/api/recipes/{number}', { params: { path } }));
  if (!same(now.content, from)) {
    throw new Error(`${now.title} was changed since. Nothing was undone: look at its versions.`);
  }
  const body = { content: to as Record<string, never>, version: now.version };
  await taken(api.PUT('/api/recipes/{number}', { params: { path }, body }));
}

export const undo = new Undo();

/** A recipe that was kept can be given what it said before. */
export function changedRecipe(recipe: Recipe, before: unknown): void {
  const to = recipe.content;
  undo.push({
    what: `changed ${recipe.title}`,
    at: `/recipes/${recipe.id}`,
    place: recipe.title,
    undo: [{ recipe: recipe.id, from: to, to: before }],
    redo: [{ recipe: recipe.id, from: before, to }],
  });
}
