import { api, taken, type Tray } from '../api/client';
import { router } from '../shell/router.svelte';
import { studio } from '../shell/studio.svelte';
import type { Dropped } from './dropped';
import { uploads } from './uploads.svelte';

/** Make a tray from folders the server may read, or from files to upload, and go to its board. */
export async function makeTray(name: string, folders: { root: number; path: string }[], files: Dropped[] = []): Promise<Tray> {
  const tray = await taken(api.POST('/api/trays', { body: { name, folders } }));
  if (files.length) uploads.add(tray.id, files);
  await studio.loadTrays();
  router.go(`/trays/${tray.id}`);
  return tray;
}

/** Gather more into a tray that is there. */
export async function addToTray(tray: Tray, folders: { root: number; path: string }[], files: Dropped[] = []): Promise<void> {
  for (const body of folders) {
    await taken(api.POST('/api/trays/{number}/folders', { params: { path: { number: tray.id } }, body }));
  }
  if (files.length) uploads.add(tray.id, files);
  await studio.loadTrays();
}
