import type { Content } from './draft';

/** A mark of the finish station while it is being changed: values may be unfinished, and are kept as typed. */
export type Mark = Record<string, unknown>;
export type Border = Record<string, unknown>;

export const ANCHORS = ['top-left', 'top', 'top-right', 'left', 'middle', 'right', 'bottom-left', 'bottom', 'bottom-right'] as const;

export function list(station: Content | undefined, name: 'borders' | 'marks'): Record<string, unknown>[] {
  return (station?.[name] ?? []) as Record<string, unknown>[];
}

/** What a mark is called in a list of several. */
export function markName(mark: Mark): string {
  return 'picture' in mark ? String(mark['picture']) : String(mark['text'] ?? '');
}

export function isPicture(mark: Mark): boolean {
  return 'picture' in mark;
}

/** Without what says nothing: undefined where nothing is left of the station. */
export function tidied(station: Content): Content | undefined {
  const empty = (value: unknown) => value === undefined || (Array.isArray(value) && value.length === 0);
  const left = Object.fromEntries(Object.entries(station).filter(([, value]) => !empty(value)));
  const says = list(left, 'borders').length || list(left, 'marks').length || left['proof'] !== undefined || left['corners'] !== undefined;
  return says ? left : undefined;
}

/** Two short lines for the closed station. */
export function finishSummary(station: Content | undefined): [string, string] {
  const borders = list(station, 'borders').length;
  const marks = list(station, 'marks').length;
  const said = [
    borders ? (borders === 1 ? 'a border' : `${borders} borders`) : '',
    marks ? (marks === 1 ? 'a mark' : `${marks} marks`) : '',
    station?.['proof'] !== undefined ? 'a proof stamp' : '',
    station?.['corners'] !== undefined ? 'round corners' : '',
  ].filter(Boolean);
  if (!said.length) return ['as it is', 'nothing around it'];
  return [said.slice(0, 2).join(', '), said.slice(2).join(', ')];
}

/** Where the middle of a mark is, in shares of the picture, about: anchors are told by their side. */
export function spotOf(mark: Mark): [number, number] {
  const at = mark['at'] ?? 'bottom-right';
  if (Array.isArray(at)) return [Number(at[0]), Number(at[1])];
  const name = String(at);
  return [name.includes('left') ? 0.06 : name.includes('right') ? 0.94 : 0.5, name.includes('top') ? 0.06 : name.includes('bottom') ? 0.94 : 0.5];
}

export function rounded(share: number): number {
  return Math.min(1, Math.max(0, Math.round(share * 1000) / 1000));
}
