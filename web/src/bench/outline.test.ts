import { beforeEach, describe, expect, it, vi } from 'vitest';
import { undo } from '../shell/undo.svelte';
import { server } from '../test/server';
import { OutlineState } from './outline.svelte';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

const node = (x: number, y: number) => ({ at: [x, y] });
const TRIANGLE = [node(0.2, 0.2), node(0.8, 0.2), node(0.5, 0.8)];
const HOLE = [node(0.4, 0.3), node(0.6, 0.3), node(0.5, 0.5)];
const FOUND = 'POST /api/trays/{number}/outline/{photo}/found';
const KEEP = 'PUT /api/trays/{number}/outlines';
let outline: Record<string, unknown> = {};
let version = 2;

beforeEach(() => {
  outline = { paths: [TRIANGLE, HOLE], sure: false };
  version = 2;
  sessionStorage.clear();
  undo.clear();
  server.knows({
    'GET /api/trays/{number}/outline/{photo}': () => ({ photo: { id: 9, name: 'bird.jpg', width: 900, height: 600 }, outline, version, why: ['A shadow looks like a part of it.'], next: null, waiting: 1 }),
    [KEEP]: (ask) => {
      outline = { ...(ask.body as { edits: { outline: object }[] }).edits[0]?.outline, sure: true };
      version += 1;
      return { edits: [{ photo: 9, outline: {}, version }] };
    },
  });
});

async function opened(): Promise<OutlineState> {
  const state = new OutlineState(1, 9);
  await state.load();
  return state;
}

const places = (state: OutlineState, path = 0) => state.shape.paths[path]?.map((each) => each.at);

describe('an outline that is drawn', () => {
  it('tells what is doubtful until somebody has kept it', async () => {
    const state = await opened();
    expect([state.points, state.sure, state.why]).toEqual([6, false, ['A shadow looks like a part of it.']]);
    await state.keep(); // looked at, and found right
    expect(server.bodies(KEEP)).toEqual([{ edits: [{ photo: 9, outline: { paths: [TRIANGLE, HOLE] }, version: 2 }] }]);
    expect(state.sure).toBe(true);
    await state.keep();
    expect(server.bodies(KEEP)).toHaveLength(1); // nothing is left to be kept
  });

  it('moves a point along with the hand as one step', async () => {
    const state = await opened();
    for (let i = 0; i < 4; i++) state.move({ path: 0, node: 0 }, [0.01, 0]);
    expect(places(state)?.[0]?.[0]).toBeCloseTo(0.24, 9);
    state.steps.back();
    expect(places(state)?.[0]).toEqual([0.2, 0.2]);
    expect([state.steps.past, state.changed]).toEqual([false, false]);
  });

  it('goes on to the next point over all of its paths, and round', async () => {
    const state = await opened();
    const seen: [number, number][] = [];
    for (let i = 0; i < 7; i++) {
      state.go(1);
      seen.push([state.spot!.path, state.spot!.node]);
    }
    expect(seen).toEqual([[0, 0], [0, 1], [0, 2], [1, 0], [1, 1], [1, 2], [0, 0]]);
    state.go(-1);
    expect(state.spot).toEqual({ path: 1, node: 2 });
  });

  it('gets a point in the middle of an edge, which is chosen', async () => {
    const state = await opened();
    state.add({ path: 0, node: 0 });
    expect(places(state)?.[1]?.map((each) => +each.toFixed(6))).toEqual([0.5, 0.2]);
    expect([state.points, state.spot]).toEqual([7, { path: 0, node: 1 }]);
  });

  it('loses a point, and a path that has too few of them to enclose anything', async () => {
    const state = await opened();
    state.spot = { path: 0, node: 2 };
    state.add({ path: 0, node: 0 });
    state.remove({ path: 0, node: 1 });
    expect(places(state)).toEqual(TRIANGLE.map((each) => each.at));
    state.removePath(1);
    expect([state.shape.paths.length, state.spot]).toEqual([1, undefined]);
    state.steps.back();
    expect(state.shape.paths.length).toBe(2);
  });

  it('never points at what undo took away', async () => {
    const state = await opened();
    state.add({ path: 1, node: 2 });
    expect(state.spot).toEqual({ path: 1, node: 3 });
    state.steps.back();
    expect(state.spot).toBeUndefined();
  });
});

describe('an outline that is looked for', () => {
  it('takes the place of the drawn one, keeps how far it is grown, and can be undone', async () => {
    server.on(FOUND, { outline: { paths: [HOLE], sure: true }, why: [] });
    const state = await opened();
    state.set({ grow: 2 });
    expect(await state.find()).toBe(true);
    expect([state.points, state.shape.grow, state.why]).toEqual([3, 2, []]);
    state.steps.back();
    expect(state.points).toBe(6);
  });

  it('leaves the drawn one where nothing is found, and says why', async () => {
    server.on(FOUND, { outline: {}, why: ['The ground is not plain.'] });
    const state = await opened();
    expect(await state.find()).toBe(false);
    expect([state.points, state.why, state.finding]).toEqual([6, ['The ground is not plain.'], false]);
  });

  it('is looked for once, however often that is pressed', async () => {
    let answer: (value: object) => void = () => undefined;
    server.on(FOUND, () => new Promise((done) => (answer = done)));
    const state = await opened();
    const first = state.find();
    expect(await state.find()).toBe(true);
    await vi.waitFor(() => expect(server.bodies(FOUND)).toHaveLength(1));
    answer({ outline: { paths: [HOLE] }, why: [] });
    expect(await first).toBe(true);
    expect(state.points).toBe(3);
  });
});
