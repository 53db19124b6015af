import { connection } from '../shell/connection.svelte';
import { say } from '../shell/notices.svelte';
import { Problem } from './client';

/** Say that anything may have changed. */
export function resync(): void {
  tell({ kind: 'resync', id: 0 });
}

/** resync: anything may have changed. back: and the server was away, for those who draw so much that they ask only then. */
export interface Hint {
  kind: 'tray' | 'recipe' | 'outlet' | 'link' | 'delivery' | 'inlet' | 'run' | 'resync' | 'back';
  id: number;
}

type Listener = (hint: Hint) => void;

const listeners = new Set<Listener>();
const POLL = 2000;
const RETRY = 1000;
const FIRST = 2500;
let source: EventSource | undefined;
let open = false;
let before = false;

function tell(hint: Hint): void {
  for (const listener of listeners) listener(hint);
}

function connect(): void {
  source?.close();
  source = new EventSource('/events');
  source.onopen = () => {
    open = true;
    connection.came();
    // What the page loads first is new already; only what was said between that and now could be missing.
    setTimeout(() => tell({ kind: 'resync', id: 0 }), before ? 0 : FIRST);
    if (before) tell({ kind: 'back', id: 0 });
    before = true;
  };
  source.onmessage = (event) => tell(JSON.parse(event.data as string) as Hint);
  source.onerror = () => {
    open = false;
    connection.failed();
  };
}

/** Start listening; a hidden page lets go of its stream, and without a stream it polls. */
export function startLive(): () => void {
  const seen = () => {
    if (document.hidden) {
      source?.close();
      source = undefined;
      open = false;
    } else if (!source) connect();
  };
  document.addEventListener('visibilitychange', seen);
  const timer = setInterval(() => {
    if (!open && !document.hidden) tell({ kind: 'resync', id: 0 });
  }, POLL);
  const again = setInterval(() => {
    // A stream of which nothing was heard may be a dead one; one that is being opened is waited for.
    if (connection.lost && !document.hidden && source?.readyState !== EventSource.CONNECTING) connect();
  }, RETRY);
  connect();
  return () => {
    document.removeEventListener('visibilitychange', seen);
    clearInterval(timer);
    clearInterval(again);
    source?.close();
    source = undefined;
  };
}

/** Call `listener` for every hint until the returned function is called. */
export function onHint(listener: Listener): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

/**
 * `work`, at most once every `wait` milliseconds, the last call never lost, never two at a time. Work that takes
 * long is done less often: at most a quarter of the time goes into it.
 */
export function paced(work: () => Promise<void>, wait: number): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  let running = false;
  let again = false;
  let rest = wait;
  async function go(): Promise<void> {
    timer = undefined;
    if (running) {
      again = true;
      return;
    }
    running = true;
    const start = performance.now();
    try {
      await work();
    } catch (error) {
      // That the server is away is said once, and this is tried again when it is back.
      if (!(error instanceof Problem && error.status === 0)) say(error instanceof Error ? error.message : String(error), { bad: true });
    } finally {
      running = false;
      rest = Math.max(wait, 3 * (performance.now() - start));
      if (again) {
        again = false;
        call();
      }
    }
  }
  function call(): void {
    timer ??= setTimeout(() => void go(), rest);
  }
  return call;
}
