import type { FieldProblem } from '../api/client';

/** A recipe's JSON while it is being changed: values may be unfinished or wrong, and are kept as typed. */
export type Content = Record<string, unknown>;
export type StationName = 'prep' | 'frame' | 'size' | 'sharpen' | 'color' | 'file' | 'name' | 'place';

export const STATIONS: { name: StationName; title: string; about: string }[] = [
  { name: 'prep', title: 'Prep', about: 'the whole photo, before anything else' },
  { name: 'frame', title: 'Frame', about: 'the shape, and what of the photo is in it' },
  { name: 'size', title: 'Size', about: 'how many pixels' },
  { name: 'sharpen', title: 'Sharpen', about: 'after resizing, on luminance' },
  { name: 'color', title: 'Color', about: 'the space, and what is put into the file' },
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

/** The name of the part that a station follows. */
export function follows(content: Content, name: StationName): string | undefined {
  return (content['parts'] as Record<string, string> | undefined)?.[name];
}

/** The content with a station that follows a part from now on. */
export function following(content: Content, name: StationName, part: string, setting: Record<string, unknown>): Content {
  return { ...withStation(content, name, setting), parts: { ...(content['parts'] as object | undefined), [name]: part } };
}

/** The content with a station that keeps its setting and follows nothing any more. */
export function detached(content: Content, name: StationName): Content {
  const { [name]: _, ...parts } = (content['parts'] ?? {}) as Record<string, string>;
  const { parts: __, ...rest } = content;
  return Object.keys(parts).length ? { ...rest, parts } : rest;
}

/** The file station weighed in another way: by quality, under a limit, by its look. */
export function weighedBy(file: Record<string, unknown>, way: string): Record<string, unknown> {
  const { quality, under_kb: _, looks: __, lowest: ___, ...rest } = file;
  if (way === 'limit') return { ...rest, under_kb: 300 };
  if (way === 'looks') return { ...rest, looks: 88 };
  return { ...rest, quality: quality ?? (file['format'] === 'avif' ? 65 : 84) };
}

/** The values of the size station that belong to one way of measuring. */
const VALUES: Record<string, readonly string[]> = {
  'long-edge': ['pixels'],
  'short-edge': ['pixels'],
  width: ['pixels'],
  height: ['pixels'],
  box: ['width', 'height'],
  exact: ['width', 'height'],
  percent: ['percent'],
  megapixels: ['megapixels'],
  widths: ['widths'],
  own: [],
};

export function valuesOf(by: string): readonly string[] {
  return VALUES[by] ?? [];
}

/** The recipe measured in another way, keeping the numbers that were there; the frame follows where it must. */
export function measuredBy(content: Content, by: string): Content {
  const before = station(content, 'size') ?? {};
  const edge = before['pixels'] ?? before['width'] ?? 1200;
  const usual: Record<string, unknown> = {
    pixels: edge,
    width: edge,
    height: before['height'] ?? edge,
    percent: 50,
    megapixels: 2,
    widths: [480, 960, 1440, 1920],
  };
  const rest = Object.fromEntries(['light', 'ppi', 'minimum'].filter((name) => name in before).map((name) => [name, before[name]]));
  const values = Object.fromEntries(valuesOf(by).map((name) => [name, before[name] ?? usual[name]]));
  const size = { by, ...values, enlarge: before['enlarge'] ?? 'never', ...rest };
  return agreeing(withStation(content, 'size', size), before);
}

/** The recipe with another way of framing; shape and anchor are kept where they mean something. */
export function framedBy(content: Content, way: string): Content {
  const before = station(content, 'frame') ?? {};
  const kept = (names: string[]) => Object.fromEntries(names.filter((name) => name in before).map((name) => [name, before[name]]));
  const common = kept(['fill', 'panels']);
  if (way === 'keep') return agreeing(withStation(content, 'frame', 'panels' in common ? { way, ...common } : undefined));
  if (way === 'bounds') {
    const bounds = { narrowest: '4:5', widest: '1.91:1', outside: 'crop', anchor: 'interest', ...kept(['narrowest', 'widest', 'outside', 'anchor']) };
    return agreeing(withStation(content, 'frame', { way, ...bounds, ...common }));
  }
  const shape = before['shape'] ?? '1:1';
  const anchor = way === 'stretch' ? {} : { anchor: before['anchor'] ?? (way === 'crop' ? 'interest' : 'middle') };
  return agreeing(withStation(content, 'frame', { way, shape, ...anchor, ...common }));
}

/** Exact pixels and a shape cannot both be given: the one that was changed last wins. */
function agreeing(content: Content, sizeBefore?: Record<string, unknown>): Content {
  const size = station(content, 'size');
  const frame = station(content, 'frame');
  const way = String(frame?.['way'] ?? 'keep');
  const shaped = ['crop', 'pad', 'stretch'].includes(way);
  if (size?.['by'] === 'exact') {
    if (!shaped) return sizeBefore ? withStation(content, 'frame', { ...frame, way: 'crop', anchor: 'interest', shape: undefined }) : measuredBy(content, 'box');
    const { shape: _, ...rest } = frame ?? {};
    return withStation(content, 'frame', rest);
  }
  if (shaped && frame?.['shape'] === undefined) {
    const shape = sizeBefore?.['width'] && sizeBefore['height'] ? `${String(sizeBefore['width'])}:${String(sizeBefore['height'])}` : '1:1';
    return withStation(content, 'frame', { ...frame, shape });
  }
  return content;
}

/** What a person typed where a number belongs: the number, or the text as it stands. */
export function typedNumber(text: string): number | string {
  const trimmed = text.trim();
  return /^-?\d+(\.\d+)?$/.test(trimmed) ? Number(trimmed) : trimmed;
}

/** The recipe up to a station, as a picture of good quality: what travels on from there. */
export function upTo(content: Content, name: StationName): Content {
  const plain = { format: 'jpeg', quality: 92 };
  if (name === 'prep') {
    const whole = withStation(withStation(content, 'frame', undefined), 'size', undefined);
    return upTo(whole, 'frame');
  }
  if (name === 'frame') {
    const exact = station(content, 'size')?.['by'] === 'exact';
    const framed = exact ? content : withStation(content, 'size', undefined);
    return shown({ ...withStation(framed, 'sharpen', undefined), file: plain });
  }
  if (name === 'size') return shown({ ...withStation(content, 'sharpen', undefined), file: plain });
  if (name === 'sharpen') return shown({ ...content, file: plain });
  if (name === 'color') return { ...withoutBits(content), file: plain };
  return content;
}

/** Before the color station a picture is shown as screens show it; parts are of no matter for a picture. */
function shown(content: Content): Content {
  const { parts: _, ...rest } = content;
  return withStation(rest, 'color', { profile: 'srgb' });
}

function withoutBits(content: Content): Content {
  const { parts: _, ...rest } = content;
  const { bits: __, ...color } = station(content, 'color') ?? {};
  return station(content, 'color') ? withStation(rest, 'color', color) : rest;
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
