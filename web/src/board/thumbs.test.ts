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
  const all = await Promise.all([thumb(wanted(1)), thumb(wanted(2)), thumb(wanted(1))]);
  expect(all).toEqual(['blob:1', 'blob:2', 'blob:1']);
  expect(await thumb(wanted(2))).toBe('blob:2');
  expect(asked).toHaveBeenCalledOnce();
});
