import { USUAL, type Word } from './columns';

/** How somebody left the sheet of a tray: which columns, which recipe's names, which cell. */
interface Kept {
  words: readonly Word[];
  recipe?: number | undefined;
  focus?: [number, Word];
  top?: number;
}

const key = (tray: number) => `upper-tray.sheet.${tray}`;

export function kept(tray: number): Kept {
  try {
    return { words: USUAL, ...(JSON.parse(localStorage.getItem(key(tray)) ?? '{}') as Partial<Kept>) };
  } catch {
    return { words: USUAL };
  }
}

export function keep(tray: number, change: Partial<Kept>): void {
  localStorage.setItem(key(tray), JSON.stringify({ ...kept(tray), ...change }));
}
