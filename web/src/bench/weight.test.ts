import { afterEach, describe, expect, it, vi } from 'vitest';
import type { CloserState } from './closer.svelte';
import { bytesAt, foundHow, reaching, WeightState, type Point } from './weight.svelte';

const post = vi.hoisted(() => vi.fn());
const Problem = vi.hoisted(() => class extends Error {
  constructor(readonly status: number, message: string) {
    super(message);
  }
});
vi.mock('../api/client', () => ({
  Problem,
  api: { POST: post, GET: vi.fn(), PUT: vi.fn() },
  taken: (answer: Promise<unknown>) => answer,
  csrf: () => '',
}));

const CURVE: Point[] = [
  { quality: 40, bytes: 1000, score: 60 },
  { quality: 60, bytes: 2000, score: 80 },
  { quality: 80, bytes: 4000, score: 90 },
];

afterEach(() => post.mockReset());

function state(content: Record<string, unknown>): WeightState {
  const closer = { tray: 1, photo: 2, recipe: 3, content, body: () => ({ content, strength: null, page: '', turn: 0 }) };
  return new WeightState(closer as unknown as CloserState);
}

describe('a curve', () => {
  it('is read between its points: bytes as an exponential, scores in a straight line', () => {
    expect(bytesAt(CURVE, 60)).toBe(2000);
    expect(bytesAt(CURVE, 50)).toBeCloseTo(Math.sqrt(1000 * 2000), 6);
    expect(bytesAt(CURVE, 81)).toBeUndefined();
    expect(reaching(CURVE, 85)).toBe(70);
    expect(reaching(CURVE, 50)).toBe(40);
    expect(reaching(CURVE, 95)).toBeUndefined();
  });
});

describe('candidates', () => {

  it('asks each point once, and stands up to four side by side', async () => {
    const weight = state({ file: { format: 'jpeg', quality: 80 } });
    post.mockImplementation((_: string, { body }: { body: { qualities: number[] } }) => Promise.resolve(body.qualities.map((quality) => ({ quality, bytes: quality * 10, score: quality }))));
    for (const quality of [50, 60, 70, 80, 90]) await weight.add({ format: 'jpeg', quality });
    await weight.add({ format: 'jpeg', quality: 90 });
    expect(post).toHaveBeenCalledTimes(5);
    expect(weight.candidates.map((each) => each.quality)).toEqual([50, 70, 80, 90]);
    expect(weight.point({ format: 'jpeg', quality: 70 })?.bytes).toBe(700);
    expect(weight.curves.jpeg?.map((each) => each.quality)).toEqual([50, 60, 70, 80, 90]);
  });

  it('keeps one point a quality, though it was asked for twice at once', async () => {
    const weight = state({ file: { format: 'jpeg', quality: 80 } });
    post.mockImplementation(() => Promise.resolve([{ quality: 70, bytes: 700, score: 70 }]));
    await Promise.all([weight.ask('jpeg', [70]), weight.ask('jpeg', [70])]);
    expect(weight.curves.jpeg).toHaveLength(1);
  });

  it('asks again for a point whose score is not there yet', async () => {
    const weight = state({ file: { format: 'jpeg', quality: 80 } });
    post.mockImplementation((_: string, { body }: { body: { qualities: number[]; scored: boolean } }) =>
      Promise.resolve(body.qualities.map((quality) => ({ quality, bytes: 700, score: body.scored ? 70 : null }))));
    await weight.ask('jpeg', [70], undefined, false);
    expect(weight.curves.jpeg).toEqual([{ quality: 70, bytes: 700, score: null }]);
    await weight.ask('jpeg', [70]);
    await weight.ask('jpeg', [70]);
    expect(weight.curves.jpeg).toEqual([{ quality: 70, bytes: 700, score: 70 }]);
    expect(post).toHaveBeenCalledTimes(2);
  });

  it('becomes the file station that makes exactly it', () => {
    const own = { format: 'jpeg', under_kb: 300, lowest: 30, chroma: '444', coder: 'thorough', progressive: true };
    expect(WeightState.file(own, { format: 'jpeg', quality: 70 })).toEqual({ format: 'jpeg', quality: 70, chroma: '444', progressive: true });
    expect(WeightState.file(own, { format: 'webp', quality: 70 })).toEqual({ format: 'webp', quality: 70 });
    expect(WeightState.file({ format: 'webp', lossless: true }, { format: 'webp', quality: 60 })).toEqual({ format: 'webp', quality: 60 });
    expect(WeightState.file({ format: 'png' }, { format: 'thorough', quality: 82 })).toEqual({ format: 'jpeg', quality: 82, coder: 'thorough', progressive: true });
  });

  it('knows the recipe’s own point by the quality that was made', () => {
    const weight = state({ file: { format: 'jpeg', looks: 88, coder: 'thorough' } });
    expect(weight.own).toBeUndefined();
    weight.made = { bytes: 1, quality: 77, score: 88.2, width: 1, height: 1, limit: null, looks: 88 };
    expect(weight.own).toEqual({ format: 'thorough', quality: 77 });
  });

  it('has the choice of the recipe first, though another was asked for before it was known', async () => {
    const weight = state({ file: { format: 'jpeg', quality: 80 } });
    weight.shown = ['jpeg'];
    post.mockImplementation((address: string, { body }: { body: { qualities: number[] } }) =>
      Promise.resolve(address.endsWith('made') ? { quality: 80 } : body.qualities.map((quality) => ({ quality, bytes: quality, score: quality }))));
    const loading = weight.follow();
    await weight.add({ format: 'jpeg', quality: 50 });
    await loading;
    expect(weight.candidates.map((each) => each.quality)).toEqual([80, 50]);
  });

  it('follows the recipe: another file station needs no new curves, another size does', async () => {
    const weight = state({ file: { format: 'jpeg', quality: 80 } });
    weight.shown = ['jpeg'];
    let quality = 80;
    post.mockImplementation((address: string, { body }: { body: { qualities: number[] } }) =>
      Promise.resolve(address.endsWith('made') ? { quality } : body.qualities.map((quality) => ({ quality, bytes: quality, score: quality }))));
    await weight.follow();
    const asked = post.mock.calls.length;
    await weight.follow();
    expect(post).toHaveBeenCalledTimes(asked);

    quality = 70;
    weight.closer.content = { file: { format: 'jpeg', quality: 70 } };
    await weight.follow();
    expect(weight.own).toEqual({ format: 'jpeg', quality: 70 });
    expect(post.mock.calls.slice(asked).map(([address]) => String(address).split('/').at(-1))).toEqual(['made']);

    weight.closer.content = { size: { by: 'long', pixels: 900 }, file: { format: 'jpeg', quality: 70 } };
    const following = weight.follow();
    expect(weight.curves).toEqual({});
    await following;
    expect(weight.point({ format: 'jpeg', quality: 70 })).toBeDefined();
  });

  it('asks anew after an answer that did not come', async () => {
    const weight = state({ file: { format: 'jpeg', quality: 80 } });
    weight.shown = ['jpeg'];
    post.mockRejectedValueOnce(new Error('away'));
    await expect(weight.follow()).rejects.toThrow('away');
    post.mockImplementation((address: string, { body }: { body: { qualities: number[] } }) =>
      Promise.resolve(address.endsWith('made') ? { quality: 80 } : body.qualities.map((quality) => ({ quality, bytes: quality, score: quality }))));
    await weight.follow();
    expect(weight.own).toEqual({ format: 'jpeg', quality: 80 });
  });

  it('proposes where the curve looks the same, as measured and not as guessed', async () => {
    const weight = state({ file: { format: 'jpeg', quality: 80 } });
    weight.shown = ['jpeg'];
    // Finer chroma from 90 on makes a step.
    const score = (quality: number) => (quality < 90 ? quality - 4 : quality);
    post.mockImplementation((address: string, { body }: { body: { qualities: number[]; scored: boolean } }) =>
      Promise.resolve(address.endsWith('made') ? { quality: 80 } : body.qualities.map((quality) => ({ quality, bytes: quality, score: body.scored ? score(quality) : null }))));
    await weight.follow();
    expect(weight.candidates).toEqual([{ format: 'jpeg', quality: 80 }, { format: 'jpeg', quality: 90 }]);
    expect(weight.proposed).toBe(true);
  });

  it('proposes what reaches the look that the recipe asks for, where its own format does not', async () => {
    const weight = state({ file: { format: 'webp', looks: 93 } });
    weight.shown = ['jpeg', 'webp'];
    const score = (format: string, quality: number) => (format === 'webp' ? Math.min(quality, 85) : quality);
    post.mockImplementation((address: string, { body }: { body: { format: string; qualities: number[]; scored: boolean } }) =>
      Promise.resolve(address.endsWith('made') ? { quality: 98 } : body.qualities.map((quality) => ({ quality, bytes: quality, score: body.scored ? score(body.format, quality) : null }))));
    await weight.follow();
    expect(weight.look).toBe(93);
    expect(weight.candidates).toEqual([{ format: 'webp', quality: 98 }, { format: 'jpeg', quality: 93 }]);
  });
});

describe('how the own file came out', () => {
  it('says a look that was not reached, and a limit', () => {
    const made = { bytes: 1, quality: 98, score: 74.63, width: 1, height: 1, limit: null, looks: 88 };
    expect(foundHow(made)).toEqual({ words: 'quality 98, a score of 74.6: 88 cannot be reached in this format', short: true });
    expect(foundHow({ ...made, score: 88.4 })).toEqual({ words: 'quality 98, the lightest with a score of 88', short: false });
    expect(foundHow({ ...made, looks: null, limit: 90_000, score: null }).words).toBe('quality 98, the best under 90 kB');
  });

  it('draws the curves where a limit cannot be met, and says why', async () => {
    post.mockImplementation((path: string, { body }: { body: { qualities?: number[] } }) =>
      path.endsWith('/made') ? Promise.reject(new Problem(409, 'file.under_kb: expected at most 1 kB, found 40 kB')) : Promise.resolve((body.qualities ?? []).map((quality) => ({ quality, bytes: 100 * quality, score: quality }))),
    );
    const weight = state({ file: { format: 'jpeg', under_kb: 1 } });
    await weight.follow();
    expect(weight.refused).toContain('expected at most 1 kB');
    expect(weight.curves.avif?.at(-1)?.quality).toBe(100);
    expect(weight.candidates.length).toBeGreaterThan(0);
  });
});
