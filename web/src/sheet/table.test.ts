import { beforeEach, describe, expect, it } from 'vitest';
import { COLUMNS, sourceOf, textOf, typedWith, USUAL, type WordsRow } from './columns';
import { keep, kept } from './kept';
import { fromTable, toTable } from './table';

describe('cells on the clipboard', () => {
  it('come back as they were, whatever is in them', () => {
    const tables = [
      [['a', 'b'], ['c', 'd']],
      [['a clock, “walking”', ''], ['two\nlines', 'a\ttab']],
      [['he said "go"', '"quoted"'], ['', '']],
      [['']],
      [['ends with a break\n', 'x']],
    ];
    for (const table of tables) expect(fromTable(toTable(table))).toEqual(table);
  });

  it('come back as they were from any letters', () => {
    // Seeded, so that what fails once fails again.
    let seed = 7;
    const next = (below: number) => (seed = (seed * 48271) % 2147483647) % below;
    const letters = ['a', '"', '\t', '\n', ',', ' ', 'é', "'"];
    for (let round = 0; round < 300; round++) {
      const wide = 1 + next(4);
      const table = Array.from({ length: 1 + next(4) }, () => Array.from({ length: wide }, () => Array.from({ length: next(6) }, () => letters[next(letters.length)]).join('')));
      // A last line of one empty cell cannot be told from the end of the one before.
      if (wide === 1 && table.at(-1)?.[0] === '') continue;
      expect(fromTable(toTable(table)), JSON.stringify(table)).toEqual(table);
    }
  });

  it('are read as other programs write them: with any line ends, and one at the end', () => {
    expect(fromTable('a\tb\r\nc\td\r\n')).toEqual([['a', 'b'], ['c', 'd']]);
    expect(fromTable('a\rb')).toEqual([['a'], ['b']]);
    expect(fromTable('5" clock\tx')).toEqual([['5" clock', 'x']]); // a quote inside is no quotation
  });
});

describe('words of a photo', () => {
  const row = { words: { title: 'Lark', keywords: ['clock', 'bird'], people: [] }, typed: { title: 'Lark' }, origin: { keywords: 'sidecar', rights: 'file' } } as unknown as WordsRow;

  it('are told as people type them', () => {
    expect([textOf(row, 'title'), textOf(row, 'keywords'), textOf(row, 'people'), textOf(row, 'alt')]).toEqual(['Lark', 'clock, bird', '', '']);
  });

  it('become lists where they are lists, parted at commas, semicolons and lines', () => {
    expect(typedWith({ title: 'x' }, 'keywords', ' clock; bird,, brass\n')).toEqual({ title: 'x', keywords: ['clock', 'bird', 'brass'] });
    expect(typedWith({}, 'alt', '  A clock, walking ')).toEqual({ alt: 'A clock, walking' });
    expect(typedWith({ alt: 'old' }, 'alt', '')).toEqual({ alt: '' }); // emptied on purpose
  });

  it('say where they come from', () => {
    expect(['title', 'keywords', 'rights', 'alt'].map((word) => sourceOf(row, word as never))).toEqual(['typed', 'from the XMP beside the photo', 'from the photo’s file', '']);
  });

  it('have a column each, and some of them until somebody chooses', () => {
    const names = COLUMNS.map((column) => column.word);
    expect(new Set(names).size).toBe(names.length);
    expect(USUAL.every((word) => names.includes(word))).toBe(true);
  });
});

describe('how a sheet was left', () => {
  beforeEach(() => localStorage.clear());

  it('is known tray by tray, the usual words where nobody chose', () => {
    keep(3, { words: ['alt'], focus: [9, 'alt'] });
    keep(3, { recipe: 7 });
    expect(kept(3)).toEqual({ words: ['alt'], focus: [9, 'alt'], recipe: 7 });
    expect(kept(4)).toEqual({ words: USUAL });
  });

  it('is forgotten where it cannot be read', () => {
    localStorage.setItem('upper-tray.sheet.3', '{not json');
    expect(kept(3)).toEqual({ words: USUAL });
  });
});
