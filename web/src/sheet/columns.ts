import type { Schemas } from '../api/client';

export type WordsRow = Schemas['WordsRowOut'];
export type Word = 'title' | 'alt' | 'description' | 'keywords' | 'creator' | 'credit' | 'rights' | 'usage' | 'contact' | 'place' | 'people';

/** wide: in parts of the room that columns share. */
export interface Column {
  word: Word;
  name: string;
  wide: number;
}

/** All words of a photo, as columns, in their usual order. */
export const COLUMNS: readonly Column[] = [
  { word: 'title', name: 'Title', wide: 15 },
  { word: 'alt', name: 'Alt text', wide: 24 },
  { word: 'description', name: 'Description', wide: 24 },
  { word: 'keywords', name: 'Keywords', wide: 13 },
  { word: 'creator', name: 'Creator', wide: 10 },
  { word: 'rights', name: 'Copyright', wide: 13 },
  { word: 'credit', name: 'Credit line', wide: 12 },
  { word: 'usage', name: 'Usage terms', wide: 13 },
  { word: 'contact', name: 'Contact', wide: 13 },
  { word: 'place', name: 'Place', wide: 13 },
  { word: 'people', name: 'People', wide: 11 },
];

/** Those that are shown until somebody chooses. */
export const USUAL: readonly Word[] = ['title', 'alt', 'keywords', 'creator', 'rights'];

const LISTS = new Set<Word>(['keywords', 'people']);

/** A word as one text, as people type it. */
export function textOf(row: WordsRow, word: Word): string {
  const value: unknown = row.words[word];
  return Array.isArray(value) ? value.join(', ') : typeof value === 'string' ? value : '';
}

/** A row's typed words with a text typed into one of them; as the server keeps them, lists parted at commas. */
export function typedWith(typed: Record<string, unknown>, word: Word, text: string): Record<string, string | string[]> {
  const value = LISTS.has(word) ? text.split(/[;,\n]/).map((each) => each.trim()).filter(Boolean) : text.trim();
  return { ...(typed as Record<string, string | string[]>), [word]: value };
}

/** Where a word comes from, in words; empty where there is none. */
export function sourceOf(row: WordsRow, word: Word): string {
  if (word in row.typed) return 'typed';
  const origin = row.origin[word];
  return origin === undefined ? '' : origin === 'sidecar' ? 'from the XMP beside the photo' : 'from the photo’s file';
}
