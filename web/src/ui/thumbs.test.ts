import { afterEach, expect, it, vi } from 'vitest';
import { split, thumb } from './thumbs';

afterEach(() => vi.unstubAllGlobals());

function joined(...pictures: string[]): ArrayBuffer {
  const pieces = pictures.flatMap((picture) => [0, 0, 0, picture.length, ...new TextEncoder().encode(picture)]);
  return new Uint8Array(pieces).buffer;
}

it('takes an answer apart by its lengths', () => {
  expect(split(joined('abc', '', 'de')).map((blob) => blob.size)).toEqual([3, 0, 2]);
  expect(split(new ArrayBuffer(0))).toEqual([]);
});

it('asks once for what is wanted together, and never again for what is here', async () => {
  const asked = vi.fn((_: string, how: { body: string }) => {
    const cells = (JSON.parse(how.body) as { cells: unknown[] }).cells;
    return Promise.resolve({ ok: true, arrayBuffer: () => Promise.resolve(joined(...cells.map(() => 'picture'))) });
  });
  vi.stubGlobal('fetch', asked);
  let number = 0;
  URL.createObjectURL = () => `blob:${++number}`;
  const wanted = (photo: number) => ({ photo, version: 1, key: 'k', edge: 280 });
  const got = (photo: number) => new Promise<string>((done) => thumb(wanted(photo), done));
  const passed = vi.fn();
  thumb(wanted(9), passed)();
  expect(await Promise.all([got(1), got(2), got(1)])).toEqual(['blob:1', 'blob:2', 'blob:1']);
  expect(await got(2)).toBe('blob:2');
  expect(asked).toHaveBeenCalledOnce();
  expect(asked.mock.calls[0]?.[1].body).not.toContain('9');
  expect(passed).not.toHaveBeenCalled();
});

it('does not hand over what came too late', async () => {
  let answer: (value: unknown) => void = () => undefined;
  vi.stubGlobal('fetch', () => new Promise((resolve) => (answer = resolve)));
  const late = vi.fn();
  const leave = thumb({ photo: 30, version: 1, key: 'old', edge: 280 }, late);
  await new Promise((resolve) => setTimeout(resolve, 80));
  leave();
  answer({ ok: true, arrayBuffer: () => Promise.resolve(joined('picture')) });
  await new Promise((resolve) => setTimeout(resolve, 10));
  expect(late).not.toHaveBeenCalled();
});
