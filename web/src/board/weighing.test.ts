import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { api, type Cell } from '../api/client';
import { Weighing } from './weighing';

function cell(recipe: number, more: Partial<Cell> = {}): Cell {
  return { recipe, key: `key-${recipe}`, state: 'planned', about: true, ...more } as Cell;
}

describe('weighing what is in view', () => {
  const post = vi.fn(() => Promise.resolve({}));
  beforeEach(() => {
    vi.useFakeTimers();
    vi.spyOn(api, 'POST').mockImplementation(post as never);
    post.mockClear();
  });
  afterEach(() => {
    vi.useRealTimers();
    vi.restoreAllMocks();
  });

  it('asks once things are calm, for guesses that are still to be made, and not again at once', async () => {
    const weighing = new Weighing(4);
    const view: [number, Cell][] = [[1, cell(1)], [1, cell(2, { about: false })], [2, cell(3, { state: 'done' })], [2, cell(4, { state: 'failed' })]];
    weighing.stir(() => view, () => false);
    await vi.advanceTimersByTimeAsync(1000);
    weighing.stir(() => view, () => false);
    await vi.advanceTimersByTimeAsync(1000);
    expect(post).not.toHaveBeenCalled();
    await vi.advanceTimersByTimeAsync(1000);
    expect(post.mock.calls).toEqual([['/api/trays/{number}/weigh', { params: { path: { number: 4 } }, body: { cells: [[1, 1], [2, 4]] } }]]);
    weighing.stir(() => view, () => false);
    await vi.advanceTimersByTimeAsync(2000);
    expect(post).toHaveBeenCalledTimes(1);
    weighing.stir(() => view, () => false);
    await vi.advanceTimersByTimeAsync(20_000);
    weighing.stir(() => view, () => false);
    await vi.advanceTimersByTimeAsync(2000);
    expect(post).toHaveBeenCalledTimes(2);
  });

  it('keeps out of the way of a run', async () => {
    new Weighing(4).stir(() => [[1, cell(1)]], () => true);
    await vi.advanceTimersByTimeAsync(5000);
    expect(post).not.toHaveBeenCalled();
  });
});
