import { beforeEach, expect, it, vi } from 'vitest';
import { undo } from '../shell/undo.svelte';
import { BLANK, type Content } from './draft';
import { LineState } from './line.svelte';

const server = vi.hoisted(() => ({ kept: [] as unknown[], waiting: [] as (() => void)[], slow: false }));
vi.mock('../api/client', async (original) => {
  const ok = (data: unknown) => ({ data, response: { ok: true, status: 200 } });
  const api = {
    GET: () => Promise.resolve(ok({ id: 1, version: 1, trays: 0, content: BLANK })),
    POST: () => Promise.resolve(ok({ sentence: [], plans: [] })),
    PUT: (_: string, { body }: { body: { content: Content } }) =>
      new Promise((done) => {
        const answer = () => {
          server.kept.push(body.content['title']);
          done(ok({ id: 1, version: 2, trays: 0, content: body.content }));
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
  server.slow = false;
  undo.steps = [];
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
  expect(server.kept).toEqual(['other', BLANK['title']]);
  expect(line.content['title']).toBe(BLANK['title']);
  await line.leave();
  expect(server.kept).toHaveLength(2);
});
