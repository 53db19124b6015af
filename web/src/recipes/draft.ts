import type { FieldProblem } from '../api/client';

/** A recipe's JSON while it is being changed: values may be unfinished or wrong, and are kept as typed. */
export type Content = Record<string, unknown>;
export type StationName = 'prep' | 'cutout' | 'frame' | 'size' | 'sharpen' | 'finish' | 'color' | 'file' | 'name' | 'place';

export const STATIONS: { name: StationName; title: string; about: string }[] = [
  { name: 'prep', title: 'Prep', about: 'the whole photo, before anything else' },
  { name: 'cutout', title: 'Cut-out', about: 'the object of a photo without its ground' },
  { name: 'frame', title: 'Frame', about: 'the shape, and what of the photo is in it' },
  { name: 'size', title: 'Size', about: 'how many pixels' },
  { name: 'sharpen', title: 'Sharpen', about: 'after resizing, on luminance' },
  { name: 'finish', title: 'Finish', about: 'what lies around it and over it' },
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

/** What was typed in a station before something else was tried there: coming back brings it back. */
export interface Tried {
  frame: Record<string, unknown>;
  size: Record<string, unknown>;
  /** Portraits' and squares' own values, by measure. */
  shapes: Record<string, Record<string, unknown>>;
  /** How heavy the file is: quality, limit, look. */
  weight: Record<string, unknown>;
  /** What else the file station said, and its quality, by format. */
  files: Record<string, Record<string, unknown>>;
}

export const NOTHING_TRIED: Tried = { frame: {}, size: {}, shapes: {}, weight: {}, files: {} };

const WEIGHT = ['quality', 'under_kb', 'looks', 'lowest'];
const LOSSY = ['jpeg', 'webp', 'avif', 'pdf'];

/** Stations that change the picture: a file that stays as it is has none of them. */
export const CHANGING: readonly StationName[] = ['prep', 'cutout', 'frame', 'size', 'sharpen', 'finish', 'color'];

export function only(from: Record<string, unknown>, names: readonly string[]): Record<string, unknown> {
  return Object.fromEntries(names.filter((name) => from[name] !== undefined).map((name) => [name, from[name]]));
}

export function except(from: Record<string, unknown>, names: readonly string[]): Record<string, unknown> {
  return Object.fromEntries(Object.entries(from).filter(([name]) => !names.includes(name)));
}

/** What is typed now, added to what was tried before. */
export function remembered(tried: Tried, content: Content): Tried {
  const [frame, size, file] = [station(content, 'frame') ?? {}, station(content, 'size') ?? {}, station(content, 'file') ?? {}];
  return {
    frame: { ...tried.frame, ...except(frame, ['way']) },
    size: { ...tried.size, ...except(size, ['by', 'portrait', 'square']) },
    shapes: { ...tried.shapes, [String(size['by'])]: only(size, ['portrait', 'square']) },
    weight: { ...tried.weight, ...only(file, WEIGHT) },
    files: { ...tried.files, [String(file['format'])]: except(file, ['format', 'under_kb', 'looks', 'lowest']) },
  };
}

/** The file station weighed in another way: by quality, under a limit, by its look. */
export function weighedBy(file: Record<string, unknown>, way: string, tried: Tried = NOTHING_TRIED): Record<string, unknown> {
  const rest = except(file, WEIGHT);
  const lowest = only({ ...tried.weight, ...file }, ['lowest']);
  if (way === 'limit') return { ...rest, under_kb: tried.weight['under_kb'] ?? 300, ...lowest };
  if (way === 'looks') return { ...rest, looks: tried.weight['looks'] ?? 88, ...lowest };
  const own = tried.files[String(file['format'])]?.['quality'];
  return { ...rest, quality: file['quality'] ?? own ?? (file['format'] === 'avif' ? 65 : 84) };
}

/** The file station in another format: as heavy as before by the same measure, with what was said of that format. */
export function savedAs(file: Record<string, unknown>, format: string, tried: Tried = NOTHING_TRIED): Record<string, unknown> {
  const known = tried.files[format] ?? {};
  const plain = { format, ...except(known, ['quality']) };
  if (!LOSSY.includes(format) || known['lossless'] === true) return plain;
  const before = LOSSY.includes(String(file['format'])) ? file : { ...tried.weight, ...file };
  const way = before['under_kb'] !== undefined ? 'limit' : before['looks'] !== undefined ? 'looks' : 'quality';
  return weighedBy({ ...plain, ...only(known, ['quality']) }, way, { ...tried, weight: { ...tried.weight, ...only(before, WEIGHT) } });
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
export function measuredBy(content: Content, by: string, tried: Tried = NOTHING_TRIED): Content {
  const now = station(content, 'size') ?? {};
  const before = { ...tried.size, ...now };
  const edge = before['pixels'] ?? before['width'] ?? 1200;
  const usual: Record<string, unknown> = {
    pixels: edge,
    width: edge,
    height: before['height'] ?? edge,
    percent: 50,
    megapixels: 2,
    widths: [480, 960, 1440, 1920],
  };
  const rest = { ...tried.shapes[by], ...only(before, ['light', 'ppi', 'minimum']) };
  const values = Object.fromEntries(valuesOf(by).map((name) => [name, before[name] ?? usual[name]]));
  const size = { by, ...values, enlarge: before['enlarge'] ?? 'never', ...rest };
  return agreeing(withStation(content, 'size', size), now, tried);
}

/** The recipe with another way of framing; shape and anchor are kept where they mean something. */
export function framedBy(content: Content, way: string, tried: Tried = NOTHING_TRIED): Content {
  const before = { ...tried.frame, ...station(content, 'frame') };
  const kept = (names: string[]) => only(before, names);
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
function agreeing(content: Content, sizeBefore?: Record<string, unknown>, tried: Tried = NOTHING_TRIED): Content {
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
    const shape = tried.frame['shape'] ?? (sizeBefore?.['width'] && sizeBefore['height'] ? `${String(sizeBefore['width'])}:${String(sizeBefore['height'])}` : '1:1');
    return withStation(content, 'frame', { ...frame, shape });
  }
  return content;
}

/** What a person typed where a number belongs: the number, with a point or a comma, or the text as it stands. */
export function typedNumber(text: string): number | string {
  const trimmed = text.trim();
  return /^-?\d+([.,]\d+)?$/.test(trimmed) ? Number(trimmed.replace(',', '.')) : trimmed;
}

/** What a person typed where a color belongs, as recipes say it: `#f0a` and `ff00aa` are `#ff00aa`. */
export function typedColor(text: string): string {
  const typed = text.trim().toLowerCase();
  const digits = /^#?([0-9a-f]{3}|[0-9a-f]{6})$/.exec(typed)?.[1];
  if (!digits) return typed;
  return `#${digits.length === 3 ? [...digits].map((each) => each + each).join('') : digits}`;
}

/** The recipe up to a station, as a picture of good quality: what travels on from there. */
export function upTo(content: Content, name: StationName): Content {
  const cutout = station(content, 'cutout');
  // What goes into files and beside them is of no matter for a picture.
  if (cutout && ('path' in cutout || 'svg' in cutout)) return upTo(withStation(content, 'cutout', except(cutout, ['path', 'svg'])), name);
  const plain = (cutout?.['ground'] ?? 'keep') === 'clear' ? { format: 'png', effort: 1 } : { format: 'jpeg', quality: 92 };
  if (name === 'prep') {
    const whole = withStation(withStation(withStation(content, 'frame', undefined), 'size', undefined), 'cutout', undefined);
    return upTo(whole, 'frame');
  }
  if (name === 'frame' || name === 'cutout') {
    const exact = station(content, 'size')?.['by'] === 'exact';
    const framed = exact ? content : withStation(content, 'size', undefined);
    return shown({ ...except(framed, ['sharpen', 'finish']), file: plain });
  }
  if (name === 'size') return shown({ ...except(content, ['sharpen', 'finish']), file: plain });
  if (name === 'sharpen') return shown({ ...except(content, ['finish']), file: plain });
  if (name === 'finish') return shown({ ...content, file: plain });
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
  const said = (each: FieldProblem) => `Expected ${each.expected}, found ${each.found}.${/^Correct /.test(each.remedy) ? '' : ` ${each.remedy}`}`;
  return Object.fromEntries(problems.map((each) => [each.field, said(each)]));
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
