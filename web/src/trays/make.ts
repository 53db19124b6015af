import { api, taken, type Tray } from '../api/client';
import { router } from '../shell/router.svelte';
import { undo } from '../shell/undo.svelte';
import { studio } from '../shell/studio.svelte';
import type { Dropped } from './dropped';
import { uploads } from './uploads.svelte';

/** Make a tray from folders the server may read, or from files to upload, and go to its board. */
export async function makeTray(name: string, folders: { root: number; path: string }[], files: Dropped[] = []): Promise<Tray> {
  const tray = await taken(api.POST('/api/trays', { body: { name, folders } }));
  if (files.length) await uploads.add(tray.id, files);
  await studio.loadTrays();
  router.go(`/trays/${tray.id}`);
  undo.push(`made the tray ${tray.name}`, () => changeTray(tray.id, { archived: true }));
  return tray;
}

/** Rename a tray, put it away or bring it back. */
export async function changeTray(id: number, change: { name?: string; archived?: boolean }): Promise<void> {
  await taken(api.PUT('/api/trays/{number}', { params: { path: { number: id } }, body: change }));
  await studio.loadTrays();
  if (change.archived) router.go('/');
}

/** Gather more into a tray that is there. */
export async function addToTray(tray: Tray, folders: { root: number; path: string }[], files: Dropped[] = []): Promise<void> {
  const params = { path: { number: tray.id } };
  const photos = async () => (await taken(api.GET('/api/trays/{number}/board', { params }))).photos;
  const before = new Set(folders.length ? await photos() : []);
  for (const body of folders) await taken(api.POST('/api/trays/{number}/folders', { params, body }));
  if (folders.length) {
    const added = (await photos()).filter((photo) => !before.has(photo));
    undo.push(`added ${added.length} photos`, async () => {
      await taken(api.POST('/api/trays/{number}/take-out', { params, body: { photos: added } }));
    });
  }
  if (files.length) await uploads.add(tray.id, files);
  await studio.loadTrays();
}
