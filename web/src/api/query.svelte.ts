import { untrack } from 'svelte';
import { onHint, paced, type Hint } from './live';
import { Problem } from './client';

/**
 * What a page shows of the server: asked for when the page opens, when what it is asked by changes, after hints that
 * concern it, and when a person says so. The newest answer counts, whenever older ones come. What went wrong stands
 * until an answer comes.
 */
export class Query<T> {
  data = $state.raw<T>();
  problem = $state.raw<Error>();
  private turn = 0;
  private readonly ask: () => Promise<T>;

  constructor(ask: () => Promise<T>) {
    this.ask = ask;
  }

  /** Ask now. It throws nothing: see `problem`. */
  readonly load = async (): Promise<void> => {
    const mine = ++this.turn;
    try {
      const found = await this.ask();
      if (mine === this.turn) this.answered(found);
    } catch (error) {
      if (mine === this.turn) this.problem = error instanceof Error ? error : new Error(String(error));
    }
  };

  /** A change was answered with this: newer than whatever was asked before it. */
  answered(found: T): void {
    this.turn += 1;
    this.data = found;
    this.problem = undefined;
  }

  /** What to say above data that may be old; that the server is away is said at the top of every page. */
  get stale(): string {
    return this.problem && !(this.problem instanceof Problem && this.problem.status === 0) ? this.problem.message : '';
  }
}

/**
 * A query for a component's life. ask: what it reads before it waits for anything is what it is asked by.
 * concerns: whether a hint is a reason to ask again; that anything may have changed always is.
 */
export function asking<T>(ask: () => Promise<T>, concerns: (hint: Hint) => boolean, wait = 300): Query<T> {
  const query = new Query(ask);
  $effect(() => void query.load());
  $effect(() => {
    const again = paced(query.load, wait);
    return onHint((hint) => void ((hint.kind === 'resync' || concerns(hint)) && again()));
  });
  return query;
}

/**
 * For a page that keeps its own state: `work` when it opens, and again while that failed, as soon as the server is back.
 * of: what is read here begins it anew when it changes.
 */
export function opening(work: () => Promise<void>, of: () => unknown = () => undefined): Query<true> {
  const query = new Query(async () => {
    await work();
    return true as const;
  });
  $effect(() => {
    of();
    untrack(() => void query.load());
  });
  $effect(() => onHint((hint) => void (hint.kind === 'resync' && query.problem && query.load())));
  return query;
}
