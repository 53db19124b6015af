import { afterEach, describe, expect, it, vi } from 'vitest';
import { CloserState } from './closer.svelte';

const get = vi.hoisted(() => vi.fn());
const post = vi.hoisted(() => vi.fn());
vi.mock('../api/client', () => ({
  api: { GET: get, POST: post, PUT: vi.fn() },
  taken: (answer: Promise<unknown>) => answer,
  csrf: () => '',
}));

afterEach(() => {
  get.mockReset();
  post.mockReset();
  sessionStorage.clear();
});

function answers(strength: number, own: number | null): void {
  get.mockResolvedValueOnce({ content: { sharpen: { strength } }, photo: { name: 'hall.jpg' } });
  post.mockResolvedValueOnce({ width: 10, height: 10, radius: 0.5, strength, own });
}

describe('a closer look', () => {
  it('begins with what the recipe says, and the strength of the photo', async () => {
    answers(100, 140);
    const closer = new CloserState(1, 2, 3);
    await closer.load();
    expect([closer.content['sharpen'], closer.strength, closer.changed]).toEqual([{ strength: 100 }, 140, false]);
  });

  it('keeps what is tried while it is loaded anew', async () => {
    answers(100, null);
    const closer = new CloserState(1, 2, 3);
    await closer.load();

    answers(90, null);
    let loading = closer.load();
    closer.strength = 105;
    await loading;
    expect([closer.content['sharpen'], closer.strength]).toEqual([{ strength: 100 }, 105]);

    closer.strength = undefined;
    post.mockReset();
    get.mockResolvedValueOnce({ content: { sharpen: { strength: 90 } }, photo: { name: 'hall.jpg' } });
    post.mockImplementationOnce(() => {
      closer.set('sharpen', { strength: 90, guard: 6 });
      closer.strength = 110;
      return Promise.resolve({ width: 10, height: 10, radius: 0.5, strength: 90, own: null });
    });
    loading = closer.load();
    await loading;
    expect([closer.content['sharpen'], closer.strength]).toEqual([{ strength: 90, guard: 6 }, 110]);
  });

  it('has what was tried and not kept after a reload, unless the recipe is a newer one', async () => {
    answers(100, null);
    const closer = new CloserState(1, 2, 3);
    closer.note();
    await closer.load();
    closer.strength = 150;
    closer.set('sharpen', { strength: 100, guard: 6 });
    closer.note();

    answers(100, null);
    const again = new CloserState(1, 2, 3);
    again.note();
    await again.load();
    expect([again.strength, again.content['sharpen'], again.changed]).toEqual([150, { strength: 100, guard: 6 }, true]);
    const other = new CloserState(1, 2, 4);
    answers(100, null);
    await other.load();
    expect(other.changed).toBe(false);

    get.mockResolvedValueOnce({ content: { sharpen: { strength: 80 } }, number: 2, photo: { name: 'hall.jpg' } });
    post.mockResolvedValueOnce({ width: 10, height: 10, radius: 0.5, strength: 80, own: null });
    const newer = new CloserState(1, 2, 3);
    await newer.load();
    expect([newer.strength, newer.content['sharpen']]).toEqual([undefined, { strength: 80 }]);
    newer.note();
    expect(sessionStorage.length).toBe(0);
  });
});
