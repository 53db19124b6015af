import { api, taken, type Schemas } from '../api/client';
import { undo, type Call } from '../shell/undo.svelte';

export type SavedPart = Schemas['SavedPartOut'];
export type Setting = Record<string, unknown>;

const path = (part: SavedPart) => `/api/parts/${part.id}`;

function did(part: SavedPart, at: string, what: string, back: Call, again: Call): void {
  undo.push({ what, at, place: part.name, undo: [back], redo: [again] });
}

/** Give a part another setting, unless somebody else did meanwhile. Answers all parts. */
export async function setPart(part: SavedPart, setting: Setting, at: string, what = `changed ${part.name}`): Promise<SavedPart[]> {
  const body = { setting, version: part.version };
  const parts = await taken(api.PUT('/api/parts/{number}', { params: { path: { number: part.id } }, body }));
  const put = (to: Setting, version: number): Call => ({ method: 'PUT', path: path(part), body: { setting: to, version } });
  did(part, at, what, put(part.setting, part.version + 1), put(setting, part.version + 2));
  return parts;
}

export async function renamePart(part: SavedPart, name: string, at: string): Promise<SavedPart[]> {
  const parts = await taken(api.PUT('/api/parts/{number}', { params: { path: { number: part.id } }, body: { name } }));
  const put = (to: string): Call => ({ method: 'PUT', path: path(part), body: { name: to } });
  did(part, at, `renamed ${part.name}`, put(part.name), put(name));
  return parts;
}

/** Recipes that followed it keep its setting, and follow it again when this is undone. */
export async function deletePart(part: SavedPart, at: string): Promise<void> {
  await taken(api.DELETE('/api/parts/{number}', { params: { path: { number: part.id } } }));
  const { station, name, setting } = part;
  const body = { station, name, setting, recipes: part.used.map((each) => each.id) };
  // It has another number once it is back: deleting it again is pressed anew.
  undo.push({ what: `deleted ${name}`, at, place: name, undo: [{ method: 'POST', path: '/api/parts/again', body }], redo: [] });
}

export async function makePart(station: string, name: string, at: string, setting: Setting): Promise<SavedPart[]> {
  const body = { station, name, setting, recipes: [] };
  const parts = await taken(api.POST('/api/parts/again', { body }));
  const made = parts.find((part) => part.station === station && part.name === name);
  if (made) undo.push({ what: `made ${name}`, at, place: name, undo: [{ method: 'DELETE', path: path(made) }], redo: [] });
  return parts;
}
