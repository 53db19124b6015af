import { beforeEach, describe, expect, it, vi } from 'vitest';
import { notices } from './notices.svelte';
import type { Step } from './undo.svelte';

const asked: { method: string; path: string; body: unknown }[] = [];
let answer: (path: string) => unknown = () => ({});
const runs = vi.hoisted(() => ({ finished: null as string | null, content: {} as unknown }));
vi.mock('../api/client', async (original) => {
  const ok = (data: unknown) => ({ data, response: { ok: true, status: 200 } });
  const GET = (path: string) => Promise.resolve(ok(path.includes('recipes') ? { title: 'Journal', version: 3, content: runs.content } : { finished: runs.finished }));
  const PUT = (_: string, { body }: { body: { content: unknown } }) => {
    runs.content = body.content;
    return Promise.resolve(ok({}));
  };
  return { ...(await original<object>()), api: { GET, PUT } };
});

beforeEach(() => {
  asked.length = 0;
  answer = () => ({});
  sessionStorage.clear();
  notices.all = [];
  history.replaceState(null, '', '/trays/3');
  vi.resetModules();
  vi.stubGlobal('fetch', (path: string, { method, body }: { method: string; body: string | null }) => {
    asked.push({ method, path, body: body === null ? undefined : JSON.parse(body) });
    return Promise.resolve(new Response(JSON.stringify(answer(path))));
  });
});

/** As after a reload: the module anew, over what the tab has kept. */
const fresh = async () => (await import('./undo.svelte')).undo;
const step = (what: string, more: Partial<Step> = {}): Step => ({
  what,
  at: '/trays/3',
  place: 'Autumn',
  undo: [{ method: 'POST', path: `/undo/${what}` }],
  redo: [{ method: 'POST', path: `/redo/${what}` }],
  ...more,
});

describe('undo and redo', () => {
  it('go back and forth, newest first, through a reload', async () => {
    const before = await fresh();
    before.push(step('one'));
    before.push(step('two'));
    vi.resetModules();
    const after = await fresh();
    expect(after.steps.map((each) => each.what)).toEqual(['one', 'two']);
    await after.last();
    await after.last();
    await after.last();
    await after.again();
    expect(asked.map((each) => each.path)).toEqual(['/undo/two', '/undo/one', '/redo/one']);
    expect([after.steps.length, after.undone.length]).toEqual([1, 1]);
    after.push(step('three'));
    expect(after.undone).toEqual([]); // another way was taken
  });

  it('wait for what was asked for just before, and undo that', async () => {
    const undo = await fresh();
    const { trying } = await import('./notices.svelte');
    undo.push(step('before'));
    let answered: () => void = () => undefined;
    void trying(() => new Promise<void>((done) => (answered = done)).then(() => undo.push(step('just now'))));
    const undone = trying(() => undo.last());
    const again = trying(() => undo.again()); // before the first is answered
    await Promise.resolve();
    expect(asked).toEqual([]);
    answered();
    await undone;
    await again;
    expect(asked.map((each) => each.path)).toEqual(['/undo/just now', '/redo/just now']);
    expect(undo.steps.map((each) => each.what)).toEqual(['before', 'just now']);
  });

  it('hand an answer on to the other way: where photos stood, to put them back', async () => {
    const undo = await fresh();
    undo.push(step('added', { undo: [{ method: 'POST', path: '/take-out', body: { photos: [4] }, feeds: true }], redo: [{ method: 'POST', path: '/put-back' }] }));
    answer = () => ({ places: [{ photo: 4, position: 7 }] });
    await undo.last();
    await undo.again();
    expect(asked[1]).toEqual({ method: 'POST', path: '/put-back', body: { places: [{ photo: 4, position: 7 }] } });
  });

  it('say where something was undone that is not in view, with a way there', async () => {
    const undo = await fresh();
    const told = (await import('./notices.svelte')).notices;
    undo.push(step('elsewhere', { at: '/trays/9', place: 'Winter' }));
    undo.push(step('here'));
    await undo.last();
    expect(told.all.at(-1)).toMatchObject({ text: 'Undone: here', link: undefined });
    await undo.last();
    expect(told.all.at(-1)).toMatchObject({ text: 'Undone in Winter: elsewhere', link: { to: '/trays/9' } });
  });

  it('pass over runs that are over, and stop those that are not', async () => {
    const undo = await fresh();
    undo.push(step('left out'));
    undo.push(step('started', { run: 5 }));
    runs.finished = '2031-10-14T10:00:00Z';
    await undo.last();
    expect(asked.map((each) => each.path)).toEqual(['/undo/left out']);
    runs.finished = null;
    undo.push(step('started again', { run: 6 }));
    await undo.last();
    expect(asked.at(-1)?.path).toBe('/undo/started again');
  });

  it('give a recipe its old content only while nobody changed it since', async () => {
    const undo = await fresh();
    runs.content = { size: 2 };
    undo.push(step('changed', { undo: [{ recipe: 1, from: { size: 2 }, to: { size: 1 } }], redo: [{ recipe: 1, from: { size: 1 }, to: { size: 2 } }] }));
    await undo.last();
    expect(runs.content).toEqual({ size: 1 });
    runs.content = { size: 9 };
    await expect(undo.again()).rejects.toThrow('was changed since');
    expect(undo.undone).toHaveLength(1);
  });

  it('come to what is being drawn first', async () => {
    const undo = await fresh();
    undo.push(step('kept'));
    const local = { past: true, future: false, back: vi.fn(), forth: vi.fn() };
    undo.local = local;
    await undo.last();
    expect(local.back).toHaveBeenCalled();
    expect(asked).toEqual([]);
    undo.local = { ...local, past: false };
    await undo.last();
    expect(asked).toHaveLength(1);
  });

  it('forget the oldest where the tab has no room', async () => {
    const undo = await fresh();
    const photos = Array.from({ length: 60_000 }, (_, i) => i + 1_000_000);
    for (let n = 0; n < 6; n++) undo.push(step(`large ${n}`, { redo: [{ method: 'POST', path: '/x', body: { photos } }] }));
    vi.resetModules();
    const kept = (await fresh()).steps.map((each) => each.what);
    expect(kept.length).toBeGreaterThan(1);
    expect(kept.at(-1)).toBe('large 5');
    expect(kept.length).toBeLessThan(6);
  });
});
