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
});
