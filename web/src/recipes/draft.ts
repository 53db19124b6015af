import type { FieldProblem } from '../api/client';

/** A recipe's JSON while it is being changed: values may be unfinished or wrong, and are kept as typed. */
export type Content = Record<string, unknown>;
export type StationName = 'size' | 'sharpen' | 'color' | 'file' | 'name' | 'place';

export const STATIONS: { name: StationName; title: string; about: string }[] = [
  { name: 'size', title: 'Size', about: 'each photo in its own shape' },
  { name: 'sharpen', title: 'Sharpen', about: 'after resizing, on luminance' },
  { name: 'color', title: 'Color', about: 'what browsers show rightly' },
  { name: 'file', title: 'File', about: 'format and weight' },
  { name: 'name', title: 'Name', about: 'the extension follows the format' },
  { name: 'place', title: 'Place', about: 'where finished files go' },
];

export function station(content: Content, name: StationName): Record<string, unknown> | undefined {
  return content[name] as Record<string, unknown> | undefined;
}

/** The content with one station replaced; undefined takes the station out. */
export function withStation(content: Content, name: StationName, value: Record<string, unknown> | undefined): Content {
  const next = { ...content };
  if (value === undefined) delete next[name];
  else next[name] = value;
  return next;
}

/** The size station for another way of measuring, keeping the number that was there. */
export function sizeBy(by: string, before: Record<string, unknown> | undefined): Record<string, unknown> | undefined {
  if (by === 'own') return undefined;
  const pixels = before?.['pixels'] ?? before?.['width'] ?? 1600;
  if (by === 'box') return { by, width: before?.['width'] ?? pixels, height: before?.['height'] ?? pixels, enlarge: 'never' };
  return { by, pixels, enlarge: 'never' };
}

/** What a person typed where a number belongs: the number, or the text as it stands. */
export function typedNumber(text: string): number | string {
  const trimmed = text.trim();
  return /^-?\d+$/.test(trimmed) ? Number(trimmed) : trimmed;
}

/** The recipe up to a station, as a picture of good quality: what travels on from there. */
export function upTo(content: Content, name: StationName): Content {
  const plain = { format: 'jpeg', quality: 92 };
  if (name === 'size') return { ...withStation(content, 'sharpen', undefined), file: plain };
  if (name === 'sharpen' || name === 'color') return { ...content, file: plain };
  return content;
}

/** Problems in words, by the field they belong to. */
export function byField(problems: FieldProblem[]): Record<string, string> {
  return Object.fromEntries(problems.map((each) => [each.field, `Expected ${each.expected}, found ${each.found}.`]));
}

export const BLANK: Content = {
  format: 'upper-tray/recipe',
  version: 1,
  title: 'New recipe',
  size: { by: 'long-edge', pixels: 1600, enlarge: 'never' },
  sharpen: { strength: 100 },
  color: { profile: 'srgb' },
  file: { format: 'jpeg', quality: 84 },
  name: { pattern: '{stem}' },
  place: { to: 'output', subfolder: '{recipe}', taken: 'new-name' },
};
