import { beforeEach, expect, it, vi } from 'vitest';
import { undo } from '../shell/undo.svelte';
import { BLANK, type Content } from './draft';
import { LineState } from './line.svelte';

const server = vi.hoisted(() => ({
  kept: [] as unknown[],
  waiting: [] as (() => void)[],
  slow: false,
  away: false,
  version: 1,
  content: undefined as unknown,
}));
vi.mock('../api/client', async (original) => {
  const ok = (data: unknown) => ({ data, response: { ok: true, status: 200 } });
  const api = {
    GET: () => Promise.resolve(ok({ id: 1, version: server.version, trays: 0, content: server.content ?? BLANK })),
    POST: () => Promise.resolve(ok({ sentence: [], plans: [] })),
    PUT: (_: string, { body }: { body: { content: Content; version: number } }) =>
      new Promise((done) => {
        if (server.away) throw new TypeError('away');
        if (body.version !== server.version) {
          done({ error: { detail: 'changed meanwhile' }, response: { ok: false, status: 409 } });
          return;
        }
        const answer = () => {
          server.kept.push(body.content['title']);
          server.version += 1;
          server.content = body.content;
          done(ok({ id: 1, version: server.version, trays: 0, content: body.content }));
        };
        if (server.slow) server.waiting.push(answer);
        else answer();
      }),
  };
  return { ...(await original<object>()), api };
});

beforeEach(() => {
  vi.useFakeTimers();
  server.kept = [];
  server.waiting = [];
  server.slow = server.away = false;
  server.version = 1;
  server.content = undefined;
  undo.clear();
  localStorage.clear();
  return () => vi.useRealTimers();
});

async function lineState(): Promise<LineState> {
  const line = new LineState(1);
  await line.load(undefined);
  return line;
}

it('loses nothing that is typed while an older change is on its way', async () => {
  const line = await lineState();
  server.slow = true;
  line.change({ ...BLANK, title: 'first' });
  await vi.advanceTimersByTimeAsync(700); // kept by itself, and the answer takes its time
  expect(server.waiting).toHaveLength(1);
  line.change({ ...BLANK, title: 'second' });
  await vi.advanceTimersByTimeAsync(50);
  const left = line.leave();
  await vi.advanceTimersByTimeAsync(10);
  expect(server.waiting).toHaveLength(1); // one after the other
  server.slow = false;
  server.waiting[0]?.();
  await left;
  expect(server.kept).toEqual(['first', 'second']);
  expect(line.good['title']).toBe('second');
});

it('keeps nothing twice, and can be undone', async () => {
  const line = await lineState();
  line.change({ ...BLANK, title: 'other' });
  await vi.advanceTimersByTimeAsync(700);
  line.change({ ...BLANK, title: 'away' });
  line.change({ ...BLANK, title: 'other' });
  await line.leave();
  expect(server.kept).toEqual(['other']);
  await undo.last();
  await line.follow();
  expect(server.kept).toEqual(['other', BLANK['title']]);
  expect(line.content['title']).toBe(BLANK['title']);
  await line.leave();
  expect(server.kept).toHaveLength(2);
  await undo.again();
  await line.follow();
  expect(line.content['title']).toBe('other');
});

it('asks which of two changes to keep, and loses neither before', async () => {
  const line = await lineState();
  server.version = 5; // somebody else kept it four times
  server.content = { ...BLANK, title: 'theirs' };
  line.change({ ...BLANK, title: 'mine' });
  await vi.advanceTimersByTimeAsync(700);
  expect(line.theirs?.content['title']).toBe('theirs');
  expect(line.content['title']).toBe('mine');
  expect(server.kept).toEqual([]);
  await line.choose(true);
  expect(server.kept).toEqual(['mine']);
  expect(line.theirs).toBeUndefined();
});

it('follows another tab while nothing is typed here, and takes theirs when asked to', async () => {
  const line = await lineState();
  server.version = 2;
  server.content = { ...BLANK, title: 'theirs' };
  await line.follow();
  expect(line.content['title']).toBe('theirs');
  line.change({ ...BLANK, title: 'mine' });
  server.version = 3;
  server.content = { ...BLANK, title: 'theirs again' };
  await line.follow();
  expect(line.theirs?.version).toBe(3);
  await line.choose(false);
  expect(line.content['title']).toBe('theirs again');
  expect(server.kept).toEqual([]);
});

it('says that a change is not kept, and has it when somebody comes back', async () => {
  const line = await lineState();
  server.away = true;
  line.change({ ...BLANK, title: 'typed in a tunnel' });
  await vi.advanceTimersByTimeAsync(700);
  expect(line.unkept).not.toBe('');
  await line.leave();
  server.away = false;
  const again = await lineState();
  expect(again.content['title']).toBe('typed in a tunnel');
  expect(again.theirs).toBeUndefined();
  await again.save();
  expect(server.kept).toEqual(['typed in a tunnel']);
});

it('lets an old draft replace nothing without a word', async () => {
  server.version = 9;
  server.content = { ...BLANK, title: 'theirs' };
  localStorage.setItem('upper-tray.recipe.1', JSON.stringify({ version: 2, content: { ...BLANK, title: 'old draft' } }));
  const line = await lineState();
  expect(line.theirs?.version).toBe(9);
  await line.save();
  expect(server.kept).toEqual([]);
});

it('keeps an undo that failed', async () => {
  undo.push({ what: 'something', at: '/trays/1', place: 'Autumn', undo: [{ method: 'POST', path: '/nowhere' }], redo: [] });
  vi.stubGlobal('fetch', () => Promise.reject(new Error('away')));
  await expect(undo.last()).rejects.toThrow('cannot be reached');
  expect(undo.steps).toHaveLength(1);
});

it('sees no conflict where both say the same: the database has an order of its own for names', async () => {
  const line = await lineState();
  line.change({ ...BLANK, sharpen: { strength: 100, guard: 6 } });
  server.version = 2; // a part was saved, and the server has noted that the recipe follows it
  server.content = Object.fromEntries(Object.entries({ ...BLANK, sharpen: { guard: 6, strength: 100 } }).reverse());
  await line.follow();
  expect([line.theirs, line.recipe?.version]).toEqual([undefined, 2]);
});
