import { beforeEach, describe, expect, it, vi } from 'vitest';
import { RehearsalState, winner, type Rehearsed } from './rehearsal.svelte';

const post = vi.hoisted(() => vi.fn());
vi.mock('../api/client', () => ({ api: { POST: post }, taken: (answer: Promise<unknown>) => answer, answered: () => Promise.resolve(new Response(new Blob(['x']))) }));

const made = (score: number, sent: number): Rehearsed => ({ photo: 'hall.jpg', what: `${score}`, how: '', width: 1, height: 1, sent, shown: 1, served_width: 1, served_height: 1, score, untouched: false });

describe('the winner', () => {
  it('has the highest score, or is lighter to send where others look alike', () => {
    const tried = [{ made: made(84.9, 400) }, { made: made(85.3, 3100) }, { made: made(80, 100) }, {}];
    expect(winner(tried)).toBe(tried[0]);
    expect(winner([{ made: made(84.7, 400) }, { made: made(85.3, 3100) }])?.made?.score).toBe(85.3);
    expect(winner([{}])).toBeUndefined();
    expect(winner([])).toBeUndefined();
  });
});

describe('a rehearsal', () => {
  const scores: Record<number, number> = { 40: 60, 85: 75, 95: 80 };
  let answers = 0;

  beforeEach(() => {
    answers = 0;
    vi.stubGlobal('URL', Object.assign(URL, { createObjectURL: () => 'blob:x', revokeObjectURL: vi.fn() }));
    post.mockImplementation(async (url: string, { body }: { body: { photo: number; variant?: { quality: number } } }) => {
      answers += 1;
      if (!url.endsWith('/variant')) return Promise.resolve({ photo: 'hall.jpg', width: 1080, height: 720, seen_width: 1080, seen_height: 720, variants: [40, 85, 95].map((quality) => ({ quality })) });
      if (body.photo === 9) throw new Error('The photo cannot be read.');
      const quality = body.variant?.quality ?? 0;
      // The second photo bears the light file better.
      return Promise.resolve(made(body.photo === 2 ? 100 - (scores[quality] ?? 0) : (scores[quality] ?? 0), quality * 10));
    });
  });

  it('goes through its variants, and ranks them with the winner first', async () => {
    const state = new RehearsalState(1, 'Post', 7);
    await state.start(3, 1);
    expect(state.ranked.map((each) => each.made?.score)).toEqual([80, 75, 60]);
    expect(state.waiting).toBe(0);
    expect(state.tried.every((each) => each.src)).toBe(true);
    await state.add({ quality: 95 });
    expect(state.tried).toHaveLength(3);
  });

  it('says for which photos another variant is better, and which cannot be rehearsed', async () => {
    const state = new RehearsalState(1, 'Post', 7);
    await state.start(3, 1);
    await state.goThrough([1, 2, 9]);
    expect(state.verdicts.map((each) => [each.photo, each.by, each.failed ?? ''])).toEqual([[1, 0, ''], [2, 20, ''], [9, 0, 'The photo cannot be read.']]);
    expect(JSON.parse(state.verdicts[1]?.best ?? '')).toEqual({ quality: 40 });
    expect(state.left).toBe(0);
  });

  it('takes nothing over from a photo that was left', async () => {
    const state = new RehearsalState(1, 'Post', 7);
    const first = state.start(3, 1);
    const second = state.start(3, 2);
    await Promise.all([first, second]);
    expect(state.photo).toBe(2);
    expect(state.best?.made?.score).toBe(40);
    state.stop();
    expect(state.tried).toHaveLength(0);
    expect(answers).toBeGreaterThan(0);
  });
});
