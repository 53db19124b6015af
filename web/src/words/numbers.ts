const SPACE = '\u202f';

/** Bytes for people, decimal units, three digits at most: 940 B, 127 kB, 19.4 MB. */
export function bytes(count: number): string {
  const units = ['B', 'kB', 'MB', 'GB', 'TB'];
  let value = count;
  let unit = 0;
  while (value >= 999.5 && unit < units.length - 1) {
    value /= 1000;
    unit += 1;
  }
  const digits = unit >= 2 && value < 99.95 ? 1 : 0;
  return `${value.toFixed(digits)}${SPACE}${units[unit]}`;
}

export function pixels(width: number, height: number): string {
  return `${width} × ${height}`;
}

/** "1 photo", "20 photos". */
export function count(number: number, one: string, many = `${one}s`): string {
  return `${number.toLocaleString('en-US')} ${number === 1 ? one : many}`;
}

/** Time left, rounded as people say it: "12 s", "3 min", "1 h 20 min". */
export function duration(seconds: number): string {
  if (seconds < 60) return `${Math.max(1, Math.round(seconds))} s`;
  const minutes = Math.round(seconds / 60);
  if (minutes < 60) return `${minutes} min`;
  return `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
}

/** Characters that an end of a name may have and still leave room for its beginning. */
const END = 17;

/**
 * A name in two pieces, so that only its beginning is cut when there is no room. It is cut at a separator: the end tells
 * one rendition from another, and keeps the extension.
 */
export function halves(name: string): [string, string] {
  const at = [...name.matchAll(/[-_. ]/g)].map((found) => found.index).find((index) => index > 0 && name.length - index <= END) ?? Math.max(0, name.length - 10);
  return [name.slice(0, at), name.slice(at)];
}

export function when(iso: string): string {
  return new Date(iso).toLocaleString('en-US', { dateStyle: 'medium', timeStyle: 'short' });
}

/** Whole numbers as ranges, as short as can be: 3,7-12. */
export function ranges(numbers: Iterable<number>): string {
  const found: [number, number][] = [];
  for (const each of [...numbers].sort((a, b) => a - b)) {
    const last = found.at(-1);
    if (last && each <= last[1] + 1) last[1] = each;
    else found.push([each, each]);
  }
  return found.map(([first, last]) => (first === last ? String(first) : `${first}-${last}`)).join(',');
}
