/** What a sheet's form asks for, in its order; `at` is the path below a use or the sheet. */
export interface Field {
  at: string;
  label: string;
  kind: 'pair' | 'text' | 'number' | 'choice' | 'check' | 'widths';
  unit?: string;
  hint?: string;
  options?: readonly (readonly [string, string])[];
}

export const FORMATS = [['jpeg', 'JPEG'], ['png', 'PNG'], ['webp', 'WebP'], ['avif', 'AVIF'], ['gif', 'GIF'], ['tiff', 'TIFF'], ['pdf', 'PDF']] as const;

export const RULES: readonly Field[] = [
  { at: 'rules.best', label: 'Best', kind: 'pair', hint: '1080 × 1350' },
  { at: 'rules.least', label: 'Smallest', kind: 'pair', hint: 'none' },
  { at: 'rules.most', label: 'Largest', kind: 'pair', hint: 'none' },
  { at: 'rules.narrowest', label: 'Narrowest', kind: 'text', hint: '4:5' },
  { at: 'rules.widest', label: 'Widest', kind: 'text', hint: '1.91:1' },
  { at: 'rules.kilobytes', label: 'Heaviest', kind: 'number', unit: 'kB', hint: 'none' },
  { at: 'rules.outside', label: 'Other shapes', kind: 'choice', options: [['refused', 'refused'], ['cropped', 'cropped']] },
  { at: 'rules.color', label: 'Colors', kind: 'choice', options: [['srgb', 'taken for sRGB'], ['any', 'by their profile']] },
];

export const INTAKE: readonly Field[] = [
  { at: 'intake.crop', label: 'Crops to', kind: 'text', hint: 'nothing' },
  { at: 'intake.largest', label: 'Fits into', kind: 'pair', hint: 'any size' },
  { at: 'intake.resampling', label: 'Resampling', kind: 'choice', options: [['lanczos', 'good'], ['bicubic', 'usual'], ['bilinear', 'coarse']] },
  { at: 'intake.format', label: 'Saves as', kind: 'choice', options: [['jpeg', 'JPEG'], ['webp', 'WebP'], ['same', 'as sent']] },
  { at: 'intake.quality', label: 'Quality', kind: 'number' },
  { at: 'intake.chroma', label: 'Fine color', kind: 'choice', options: [['420', 'half'], ['444', 'all of it']] },
  { at: 'intake.profile', label: 'Profile', kind: 'choice', options: [['srgb', 'to sRGB'], ['drop', 'dropped'], ['keep', 'kept']] },
  { at: 'intake.metadata', label: 'Words in files', kind: 'choice', options: [['strip', 'removed'], ['keep', 'kept']] },
  { at: 'intake.untouched', label: 'Files that fit are served as sent', kind: 'check' },
  { at: 'intake.copies', label: 'Copies', kind: 'widths', unit: 'px wide', hint: '480, 960' },
];

export const SEEN: readonly Field[] = [
  { at: 'shown', label: 'Seen at', kind: 'pair', hint: 'the best pixels' },
  { at: 'page', label: 'Page', kind: 'choice', options: [['grid', 'square grid'], ['feed', 'feed'], ['story', 'story'], ['article', 'article']] },
];

export const WORDS: readonly Field[] = [
  { at: 'words.title', label: 'Title', kind: 'number', unit: 'characters', hint: 'any' },
  { at: 'words.description', label: 'Description', kind: 'number', unit: 'characters', hint: 'any' },
  { at: 'words.alt', label: 'Alt text', kind: 'number', unit: 'characters', hint: 'any' },
  { at: 'words.keywords', label: 'Keywords', kind: 'number', unit: 'of them', hint: 'any' },
];

export type Json = Record<string, unknown>;

export function valueAt(from: Json, path: string): unknown {
  return path.split('.').reduce<unknown>((found, key) => (found as Json | undefined)?.[key], from);
}

/** A copy with another value at a path; what is undefined is null, as the server writes it. */
export function withValue(from: Json, path: string, value: unknown): Json {
  const [key = '', ...rest] = path.split('.');
  const inner = rest.length ? withValue((from[key] as Json | undefined) ?? {}, rest.join('.'), value) : (value ?? null);
  return { ...from, [key]: inner };
}

/** As a person reads a value in its field. */
export function asText(field: Field, value: unknown): string {
  if (value === undefined || value === null) return '';
  if (field.kind === 'pair' && Array.isArray(value)) return value.join(' × ');
  if (field.kind === 'widths' && Array.isArray(value)) return value.join(', ');
  return String(value as string | number);
}

/** What a person typed, as the sheet holds it; what cannot be read stays as it is, and the server says what is wrong. */
export function fromText(field: Field, text: string): unknown {
  const typed = text.trim();
  if (!typed) return field.kind === 'widths' ? [] : undefined;
  if (field.kind === 'pair') {
    const found = /^(\d+)\s*[x×*, ]\s*(\d+)$/i.exec(typed);
    return found ? [Number(found[1]), Number(found[2])] : typed;
  }
  if (field.kind === 'widths') {
    const parts = typed.split(/[\s,;]+/).filter(Boolean);
    return parts.every((each) => /^\d+$/.test(each)) ? parts.map(Number) : typed;
  }
  if (field.kind === 'number') return /^\d+$/.test(typed) ? Number(typed) : typed;
  return typed.replace(/\s*:\s*/, ':').replace(/,(?=\d)/g, '.');
}
