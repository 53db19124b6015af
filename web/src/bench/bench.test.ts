import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Framing } from '../api/client';
import { undo } from '../shell/undo.svelte';
import { BenchState, forgetLists } from './bench.svelte';

const framing = (name: string): Framing => ({ name, x: 0, y: 0, width: 0.5, height: 0.5, angle: 0, turn: 0, recipe: null });
const numbers = { scale: 0.5, warnings: [], columns: 1, rows: 1 };
let kept: Framing[] = [];
let eye = [3, 4, 5].map((photo) => ({ photo, recipe: 7 }));
const put: { photos: Record<string, Framing[]> }[] = [];

/** A server that knows one photo's framings and the list of those that need a crop. */
function bodyOf(method: string, path: string, sent: { photos: Record<string, Framing[]> }): unknown {
  if (method === 'PUT') {
    put.push(sent);
    const before = { photos: { 4: kept } };
    kept = sent.photos['4'] ?? [];
    if (kept.length) eye = eye.filter((each) => each.photo !== 4);
    return before;
  }
  if (path.endsWith('/eye')) return eye;
  if (path.endsWith('/asking')) {
    const cells = (sent as unknown as { cells: [number, number][] }).cells;
    return cells.flatMap(([photo]) => eye.filter((each) => each.photo === photo));
  }
  if (method === 'POST') return numbers;
  const framings = kept.map((each, i) => ({ framing: each, shape: 'square', ratio: 1, used: i === 0 }));
  const shown = { framing: kept[0] ?? framing(''), proposed: kept.length === 0 };
  return { photo: { id: 4, name: 'four.jpg' }, title: 'Grid', ratio: 1, numbers, framings, ...shown };
}

const answers = vi.hoisted(() => ({ to: (_: string, __: string, ___: unknown): unknown => undefined }));
answers.to = bodyOf as typeof answers.to;
vi.mock('../api/client', async (original) => {
  const to = (method: string) => (path: string, how: { body?: unknown } = {}) =>
    Promise.resolve({ data: structuredClone(answers.to(method, path, how.body)), response: { ok: true, status: 200 } });
  return { ...(await original<object>()), api: { GET: to('GET'), POST: to('POST'), PUT: to('PUT') } };
});

beforeEach(() => {
  kept = [];
  eye = [3, 4, 5].map((photo) => ({ photo, recipe: 7 }));
  put.length = 0;
  forgetLists();
  undo.clear();
  sessionStorage.clear();
  vi.stubGlobal('fetch', (path: string, { method, body }: { method: string; body: string }) =>
    Promise.resolve(new Response(JSON.stringify(answers.to(method, path, JSON.parse(body))))),
  );
});

async function loaded(photo = 4): Promise<BenchState> {
  const bench = new BenchState(1, photo, 7);
  await bench.load();
  await bench.listed;
  return bench;
}

describe('a cell on the bench', () => {
  it('goes on to the next that needs a crop, and to the first again at the end', async () => {
    expect(await (await loaded(4)).next()).toEqual({ photo: 5, recipe: 7 });
    expect(await (await loaded(5)).next()).toEqual({ photo: 3, recipe: 7 });
    eye = [{ photo: 4, recipe: 7 }];
    expect(await (await loaded(4)).next()).toBeUndefined();
  });

  it('waits for no count of the tray, and passes over what was answered meanwhile', async () => {
    const first = await loaded(3);
    eye = eye.filter((each) => each.photo === 5); // what was kept for 3 fits 4 as well
    const before = answers.to;
    answers.to = (method, path, sent) => (path.endsWith('/overview') ? new Promise(() => undefined) : before(method, path, sent));
    expect(await first.next()).toEqual({ photo: 5, recipe: 7 });
    const second = new BenchState(1, 5, 7);
    await second.load();
    expect(second.place).toBe(1); // of the list that is known: 3 is on it until it is kept
    answers.to = before;
  });

  it('keeps a proposal under a name of its own, and can be undone', async () => {
    const bench = await loaded();
    expect(bench.bench?.proposed).toBe(true);
    await bench.keep();
    expect(kept.map((each) => each.name)).toEqual(['Grid']);
    expect(bench.bench?.proposed).toBe(false);
    await undo.last();
    expect(kept).toEqual([]);
  });

  it('changes the framing it follows, and begins another beside it', async () => {
    kept = [framing('Grid'), framing('other')];
    const bench = await loaded();
    bench.draw({ ...kept[0]!, x: 0.25 });
    await bench.keep();
    expect(kept.map((each) => [each.name, each.x])).toEqual([['Grid', 0.25], ['other', 0]]);
    bench.begin();
    await bench.keep();
    expect(kept.map((each) => each.name)).toEqual(['Grid 2', 'Grid', 'other']);
    await bench.choose(bench.bench!.framings[2]!.framing);
    expect(kept[0]?.name).toBe('other');
    await bench.rename(bench.bench!.framings[0]!.framing, 'dial');
    await bench.remove(bench.bench!.framings[1]!.framing);
    expect(kept.map((each) => each.name)).toEqual(['dial', 'Grid']);
  });

  it('goes back and forth through what is drawn, step by step, and keeps what is shown', async () => {
    vi.useFakeTimers();
    const bench = await loaded();
    const first = bench.framing!;
    for (const x of [0.1, 0.2, 0.3]) {
      vi.advanceTimersByTime(1000);
      bench.draw({ ...bench.framing!, x });
    }
    bench.draw({ ...bench.framing!, x: 0.31 }); // the same hand, a moment later
    await undo.last(); // what is drawn is the bench's own: nothing on the server
    expect(put).toHaveLength(0);
    bench.back();
    expect(bench.framing?.x).toBe(0.2);
    bench.forth();
    expect(bench.framing?.x).toBe(0.31);
    bench.back();
    bench.back();
    bench.back();
    expect(bench.framing).toEqual(first);
    expect([bench.changed, bench.past, bench.future]).toEqual([false, false, true]);
    bench.forth();
    await bench.keep();
    expect(kept[0]?.x).toBe(0.1);
    expect(bench.past).toBe(false);
    vi.useRealTimers();
  });

  it('has what was drawn and not kept when somebody comes back, and not after it was kept', async () => {
    kept = [framing('Grid')];
    const left = await loaded();
    left.draw({ ...kept[0]!, x: 0.3, angle: 2 });
    const back = await loaded();
    expect([back.framing?.x, back.framing?.angle, back.changed]).toEqual([0.3, 2, true]);
    expect(back.editing?.name).toBe('Grid');
    await back.keep();
    expect(kept).toHaveLength(1);
    const after = await loaded();
    expect([after.framing?.x, after.changed]).toEqual([0.3, false]);
  });

  it('uses another framing where one is tied to the recipe, and takes none from others', async () => {
    kept = [{ ...framing('tied'), recipe: 7 }, framing('square')];
    const bench = await loaded();
    await bench.choose(kept[1]!);
    expect(kept.map((each) => [each.name, each.recipe])).toEqual([['square 2', 7], ['tied', 7], ['square', null]]);
  });

  it('renames the framing that was meant, to a name of its own', async () => {
    kept = [framing('one'), { ...framing('two'), x: 0.2 }, { ...framing('three'), x: 0.3 }];
    const bench = await loaded();
    const meant = bench.bench!.framings[1]!.framing;
    await bench.load(); // what is shown came anew meanwhile
    await bench.rename(meant, 'three');
    expect(kept.map((each) => [each.name, each.x])).toEqual([['one', 0], ['three 2', 0.2], ['three', 0.3]]);
  });

  it('counts how much of the list is done', async () => {
    const first = await loaded(3);
    expect([first.done, first.waiting.length]).toEqual([0, 3]);
    eye = eye.filter((each) => each.photo !== 4); // what was kept for 3 fits 4 as well
    await first.next();
    expect([first.done, first.waiting.length]).toEqual([1, 2]);
    const second = await loaded(5);
    expect(second.done).toBe(1);
    await second.next(); // passed over: nothing was placed
    expect(second.done).toBe(1);
    await second.next(true);
    expect([second.done, second.waiting.length]).toEqual([2, 1]);
  });

  it('ties a framing to its recipe when that is asked for', async () => {
    const bench = await loaded();
    bench.tied = true;
    await bench.keep();
    expect(put[0]?.photos['4']?.[0]?.recipe).toBe(7);
  });
});
