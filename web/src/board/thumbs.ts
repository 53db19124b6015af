import { csrf } from '../api/client';

export interface Wanted {
  photo: number;
  version: number;
  /** Changes with the picture. */
  key: string;
  edge: number;
}

interface Waiting {
  wanted: Wanted;
  done: ((address: string) => void)[];
}

const MOST = 800;
const BATCH = 14;
const kept = new Map<string, string>();
let waiting = new Map<string, Waiting>();
let timer: ReturnType<typeof setTimeout> | undefined;

const nameOf = (wanted: Wanted) => `${wanted.photo} ${wanted.version} ${wanted.edge} ${wanted.key}`;

/** The address of a cell's picture that is here already. */
export function thumbHere(wanted: Wanted): string | undefined {
  return kept.get(nameOf(wanted));
}

/** A cell's picture as an address; those asked for together come together. Empty where it cannot be shown. */
export function thumb(wanted: Wanted): Promise<string> {
  const name = nameOf(wanted);
  const here = kept.get(name);
  if (here !== undefined) return Promise.resolve(here);
  return new Promise((done) => {
    const found = waiting.get(name);
    if (found) found.done.push(done);
    else waiting.set(name, { wanted, done: [done] });
    timer ??= setTimeout(fetchAll, 8);
  });
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
    const answer = await fetch('/api/pictures/cells', {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', 'X-CSRFToken': csrf() },
      body: JSON.stringify({ cells, edge }),
    });
    if (answer.ok) pictures = split(await answer.arrayBuffer());
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
