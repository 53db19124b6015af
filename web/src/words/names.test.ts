import { expect, it } from 'vitest';
import { unused } from './names';

it('numbers a name that is taken, whatever its case', () => {
  expect(unused('Look', [])).toBe('Look');
  expect(unused('Look', ['', 'Look', 'look 2'])).toBe('Look 3');
});
