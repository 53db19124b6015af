import { api, taken, type Tray } from '../api/client';
import { router } from '../shell/router.svelte';
import { undo, type Call } from '../shell/undo.svelte';
import { studio } from '../shell/studio.svelte';
import type { Dropped } from './dropped';
import { gathered } from './gathered';
import { uploads } from './uploads.svelte';

const call = (tray: number, body: object): Call => ({ method: 'PUT', path: `/api/trays/${tray}`, body });

function did(tray: { id: number; name: string }, what: string, undoing: Call, redoing: Call): void {
  undo.push({ what, at: `/trays/${tray.id}`, place: tray.name, undo: [undoing], redo: [redoing] });
}

/** Make a tray from folders the server may read, or from files to upload, and go to its board. */
export async function makeTray(name: string, folders: { root: number; path: string }[], files: Dropped[] = []): Promise<Tray> {
  const tray = await taken(api.POST('/api/trays', { body: { name, folders } }));
  did(tray, `made the tray ${tray.name}`, call(tray.id, { archived: true }), call(tray.id, { archived: false }));
  await studio.loadTrays();
  router.go(`/trays/${tray.id}`);
  if (files.length) await uploads.add(tray, files);
  return tray;
}

/** Rename a tray, archive it or restore it. */
export async function changeTray(tray: { id: number; name: string }, change: { name?: string; archived?: boolean }): Promise<void> {
  const now = await taken(api.PUT('/api/trays/{number}', { params: { path: { number: tray.id } }, body: change }));
  const { archived, name } = change;
  if (archived !== undefined) did(tray, `${archived ? 'archived' : 'restored'} ${tray.name}`, call(tray.id, { archived: !archived }), call(tray.id, { archived }));
  else if (name !== undefined) did(tray, `renamed ${tray.name} to ${now.name}`, call(tray.id, { name: tray.name }), call(tray.id, { name: now.name }));
  await studio.loadTrays();
  if (archived) router.go('/');
}

/** Gather more into a tray that is there. */
export async function addToTray(tray: Tray, folders: { root: number; path: string }[], files: Dropped[] = []): Promise<void> {
  const params = { path: { number: tray.id } };
  const photos = async () => (await taken(api.GET('/api/trays/{number}/board', { params }))).photos;
  const before = new Set(folders.length ? await photos() : []);
  for (const body of folders) await taken(api.POST('/api/trays/{number}/folders', { params, body }));
  if (folders.length) {
    const added = (await photos()).filter((photo) => !before.has(photo));
    gathered(tray, added);
  }
  if (files.length) await uploads.add(tray, files);
  await studio.loadTrays();
}
