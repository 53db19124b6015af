import { expect, it } from 'vitest';
import { same } from './same';

it('looks at what is said, in whatever order', () => {
  expect(same({ size: { by: 'long', pixels: 900 }, title: 'a' }, { title: 'a', size: { pixels: 900, by: 'long' } })).toBe(true);
  expect(same({ widths: [1, 2] }, { widths: [2, 1] })).toBe(false);
  expect(same({ size: { by: 'long' } }, { size: { by: 'long', pixels: 900 } })).toBe(false);
  expect(same({ a: undefined }, {})).toBe(true);
  expect([same(null, undefined), same(null, null), same(1, '1')]).toEqual([false, true, false]);
});
