import { expect, it, vi } from 'vitest';
import { somePages } from './pages';

it('gets as many pages as are wanted, and no more than there are', async () => {
  const all = Array.from({ length: 25 }, (_, i) => i);
  const ask = vi.fn(async (start: number) => Promise.resolve({ total: all.length, rows: all.slice(start, start + 10) }));
  expect(await somePages(2, ask)).toEqual({ total: 25, rows: all.slice(0, 20) });
  ask.mockClear();
  expect((await somePages(9, ask)).rows).toEqual(all);
  expect(ask.mock.calls.map(([start]) => start)).toEqual([0, 10, 20]);
  // A list that became shorter meanwhile ends.
  expect(await somePages(9, async () => Promise.resolve({ total: 5, rows: [] }))).toEqual({ total: 5, rows: [] });
});
