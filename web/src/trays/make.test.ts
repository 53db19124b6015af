import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Tray } from '../api/client';
import { router } from '../shell/router.svelte';
import { undo } from '../shell/undo.svelte';
import { server } from '../test/server';
import { addToTray, changeTray, makeTray } from './make';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

const tray = { id: 4, name: 'Autumn' } as Tray;
const last = () => undo.steps.at(-1);
let photos: number[] = [];

beforeEach(() => {
  undo.clear();
  router.go('/');
  photos = [1, 2];
  server.knows({
    'GET /api/trays': [tray],
    'POST /api/trays': { ...tray, name: 'Autumn 2' },
    'PUT /api/trays/{number}': (ask) => ({ ...tray, ...(ask.body as object) }),
    'GET /api/trays/{number}/board': () => ({ photos }),
    'POST /api/trays/{number}/folders': (ask) => {
      const added = { gallery: [5, 6], shop: [7], empty: [] }[(ask.body as { path: string }).path] ?? [];
      photos = [...photos, ...added];
      return {};
    },
  });
});

describe('a tray', () => {
  it('is opened once it is made, under the name that the server gave it', async () => {
    await makeTray('Autumn', [{ root: 1, path: 'gallery' }]);
    expect(router.path).toBe('/trays/4');
    expect(last()).toMatchObject({ what: 'made the tray Autumn 2', undo: [{ body: { archived: true } }], redo: [{ body: { archived: false } }] });
  });

  it('is left when it is archived, and comes back by undo', async () => {
    router.go('/trays/4');
    await changeTray(tray, { archived: true });
    expect(router.path).toBe('/');
    expect(last()).toMatchObject({ what: 'archived Autumn', undo: [{ method: 'PUT', path: '/api/trays/4', body: { archived: false } }] });
    await changeTray(tray, { archived: false });
    expect(last()?.what).toBe('restored Autumn');
  });

  it('is renamed to what the server made of it', async () => {
    server.on('PUT /api/trays/{number}', { ...tray, name: 'Winter 2' });
    await changeTray(tray, { name: 'Winter' });
    expect(last()).toMatchObject({ what: 'renamed Autumn to Winter 2', undo: [{ body: { name: 'Autumn' } }], redo: [{ body: { name: 'Winter 2' } }] });
    expect(router.path).toBe('/');
  });
});

describe('what is gathered into a tray', () => {
  it('is taken out again by undo: the new photos alone', async () => {
    await addToTray(tray, [{ root: 1, path: 'gallery' }, { root: 1, path: 'shop' }]);
    expect(last()).toMatchObject({ what: 'added 3 photos', undo: [{ method: 'POST', path: '/api/trays/4/take-out', body: { photos: [5, 6, 7] }, feeds: true }] });
  });

  it('is no step where nothing came', async () => {
    await addToTray(tray, [{ root: 1, path: 'empty' }]);
    expect(undo.steps).toEqual([]);
  });
});
