import { describe, expect, it } from 'vitest';
import { sourceOf, textOf, typedWith, type WordsRow } from './columns';
import { fromTable, toTable } from './table';

const row = (more: Partial<WordsRow>): WordsRow => ({
  photo: 1, name: 'a.jpg', folder: '', digest: 'd', width: 3, height: 2, state: 'ready', version: 0, words: {}, typed: {}, origin: {}, unread: [], named: null, ...more,
});

describe('the clipboard of spreadsheets', () => {
  it('goes out and comes back', () => {
    const cells = [['One', 'a\tb'], ['say "x"', 'two\nlines'], ['', '']];
    expect(fromTable(toTable(cells))).toEqual(cells);
  });

  it('is read as they write it', () => {
    expect(fromTable('a\tb\r\nc\td\r\n')).toEqual([['a', 'b'], ['c', 'd']]);
    expect(fromTable('only')).toEqual([['only']]);
    expect(fromTable('he said "hi"\tx')).toEqual([['he said "hi"', 'x']]);
  });
});

describe('a row of words', () => {
  it('tells lists as one text, and where a word comes from', () => {
    const found = row({ words: { keywords: ['bird', 'brass'], title: 'Lark' }, typed: { title: 'Lark' }, origin: { keywords: 'xmp' } });
    expect(textOf(found, 'keywords')).toBe('bird, brass');
    expect(textOf(found, 'alt')).toBe('');
    expect([sourceOf(found, 'title'), sourceOf(found, 'keywords'), sourceOf(found, 'alt')]).toEqual(['typed', 'from the photo’s file', '']);
  });

  it('keeps what else was typed', () => {
    expect(typedWith({ title: 'Lark' }, 'keywords', ' bird; brass,, ')).toEqual({ title: 'Lark', keywords: ['bird', 'brass'] });
    expect(typedWith({ title: 'Lark' }, 'title', ' ')).toEqual({ title: '' });
  });
});
