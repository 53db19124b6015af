import { beforeEach, expect, it } from 'vitest';
import { addressOf, ALL, howOf, keep, kept } from './kept';
import { view } from './view.svelte';

beforeEach(() => {
  sessionStorage.clear();
  localStorage.clear();
});

it('says in the address what is shown, and reads it from there', () => {
  const how = { ...ALL, sort: 'name', name: 'bell & tower', state: 'eye' };
  const address = addressOf(3, how);
  expect(address).toMatch(/^\/trays\/3\?/);
  expect(howOf(address.split('?')[1] ?? '')).toEqual(how);
  expect(addressOf(3, ALL)).toBe('/trays/3');
  expect(howOf('?x=1')).toBeUndefined();
});

it('keeps each tray as it was left', () => {
  keep(3, { how: { ...ALL, shape: 'square' } });
  keep(3, { focus: [5, 7], top: 480 });
  expect(kept(3)).toEqual({ how: { ...ALL, shape: 'square' }, focus: [5, 7], top: 480 });
  expect(kept(4)).toEqual({ how: ALL });
  sessionStorage.setItem('upper-tray.board.3', '{broken');
  expect(kept(3)).toEqual({ how: ALL });
});

it('keeps a row height for each tray; a new one takes the last', () => {
  view.of(1);
  view.set({ height: 200 });
  view.of(2);
  expect(view.height).toBe(200);
  view.set({ height: 20 });
  expect(view.height).toBe(84);
  view.of(1);
  expect(view.height).toBe(200);
});
