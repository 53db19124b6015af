import { answered } from '../api/client';

export interface Wanted {
  photo: number;
  version: number;
  /** Changes with the picture. */
  key: string;
  edge: number;
}

interface Waiting {
  wanted: Wanted;
  done: Set<(address: string) => void>;
}

const MOST = 800;
const BATCH = 14;
const PAUSE = 40;
const kept = new Map<string, string>();
let waiting = new Map<string, Waiting>();
let timer: ReturnType<typeof setTimeout> | undefined;

const nameOf = (wanted: Wanted) => `${wanted.photo} ${wanted.version} ${wanted.edge} ${wanted.key}`;

/**
 * Ask for a cell's picture; `done` gets it as an address, empty where it cannot be shown. Those asked for together come
 * together. The returned function says that nobody waits any more: what was scrolled past is never asked for.
 */
export function thumb(wanted: Wanted, done: (address: string) => void): () => void {
  const name = nameOf(wanted);
  const here = kept.get(name);
  if (here !== undefined) {
    done(here);
    return () => undefined;
  }
  const entry = waiting.get(name) ?? { wanted, done: new Set() };
  entry.done.add(done);
  waiting.set(name, entry);
  timer ??= setTimeout(fetchAll, PAUSE);
  return () => {
    // Under way already or not: an older picture must not come over a newer one.
    entry.done.delete(done);
    if (entry.done.size === 0 && waiting.get(name) === entry) waiting.delete(name);
  };
}

function fetchAll(): void {
  timer = undefined;
  const all = [...waiting];
  waiting = new Map();
  for (const edge of new Set(all.map(([, each]) => each.wanted.edge))) {
    const same = all.filter(([, each]) => each.wanted.edge === edge);
    for (let i = 0; i < same.length; i += BATCH) void fetchBatch(edge, same.slice(i, i + BATCH));
  }
}

async function fetchBatch(edge: number, batch: [string, Waiting][]): Promise<void> {
  const cells = batch.map(([, { wanted }]) => ({ photo: wanted.photo, version: wanted.version }));
  let pictures: Blob[] = [];
  try {
    const answer = await answered('/api/pictures/cells', { body: JSON.stringify({ cells, edge }) });
    pictures = split(await answer.arrayBuffer());
  } catch {
    // Shown as empty; the board's next change asks again.
  }
  batch.forEach(([name, { done }], i) => {
    const picture = pictures[i];
    const address = picture?.size ? URL.createObjectURL(picture) : '';
    if (address) keep(name, address);
    for (const each of done) each(address);
  });
}

/** Pictures one after the other, each behind its length in four bytes. */
export function split(data: ArrayBuffer): Blob[] {
  const view = new DataView(data);
  const found: Blob[] = [];
  for (let at = 0; at + 4 <= data.byteLength; ) {
    const length = view.getUint32(at);
    found.push(new Blob([data.slice(at + 4, at + 4 + length)]));
    at += 4 + length;
  }
  return found;
}

function keep(name: string, address: string): void {
  kept.set(name, address);
  if (kept.size <= MOST) return;
  const [oldest] = kept;
  if (oldest) {
    kept.delete(oldest[0]);
    // An image that shows it keeps its pixels; only the address is let go of.
    URL.revokeObjectURL(oldest[1]);
  }
}
