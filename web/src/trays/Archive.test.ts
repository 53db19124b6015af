import { fireEvent, render, screen, waitFor } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Recipe, Tray } from '../api/client';
import { router } from '../shell/router.svelte';
import { studio } from '../shell/studio.svelte';
import { undo } from '../shell/undo.svelte';
import { server } from '../test/server';
import Archive from './Archive.svelte';
import DropZone from './DropZone.svelte';
import { makeTray } from './make';
import { makeAtOnce } from './quick';
import { uploads } from './uploads.svelte';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));
vi.mock('./quick', () => ({ makeAtOnce: vi.fn() }));
vi.mock('./make', async (original) => ({ ...(await original<object>()), makeTray: vi.fn() }));

const tray = { id: 5, name: 'Autumn', photos: 13, folders: 2 } as unknown as Tray;

describe('the archive of trays', () => {
  beforeEach(() => {
    let archived = [tray];
    server.knows({
      'GET /api/trays': ({ query }) => (query['archived'] ? archived : []),
      'PUT /api/trays/{number}': () => {
        archived = [];
        return tray;
      },
    });
  });

  it('gives a tray back, and goes to its board', async () => {
    render(Archive);
    expect(await screen.findByText('13 photos from 2 folders')).toBeInTheDocument();
    await userEvent.setup().click(screen.getByRole('button', { name: 'Restore Autumn' }));
    await waitFor(() => expect(router.path).toBe('/trays/5'));
    expect(server.bodies('PUT /api/trays/{number}')).toEqual([{ archived: false }]);
    expect(undo.steps.at(-1)?.what).toBe('restored Autumn');
  });

  it('says where trays are archived when none is', async () => {
    server.on('GET /api/trays', []);
    render(Archive);
    expect(await screen.findByText(/^No tray is archived/)).toBeInTheDocument();
  });
});

describe('files over the window', () => {
  const file = new File(['x'], 'hall.jpg', { type: 'image/jpeg' });
  const carried = { types: ['Files'], items: [{ kind: 'file', webkitGetAsEntry: () => null, getAsFile: () => file }] };

  beforeEach(() => {
    vi.clearAllMocks();
    studio.recipes = [{ id: 7, title: 'Gridwick', archived: false, size_line: 'square', drawing: { canvas: [1, 1], photo: [0, 0, 1, 1] } }, { id: 8, title: 'Old', archived: true }] as unknown as Recipe[];
    vi.spyOn(uploads, 'add').mockResolvedValue(undefined);
  });

  async function over() {
    render(DropZone, { tray });
    await fireEvent.dragOver(document.body, { dataTransfer: carried });
    return screen.findByText('Add to Autumn');
  }

  it('may be added to the tray, make a new one, or be made at once by a recipe that is not archived', async () => {
    const here = await over();
    expect(screen.queryByText('Old')).toBeNull();
    await fireEvent.drop(here, { dataTransfer: carried });
    await waitFor(() => expect(uploads.add).toHaveBeenCalledOnce());
    expect(screen.queryByText('Add to Autumn')).toBeNull();
    await fireEvent.dragOver(document.body, { dataTransfer: carried });
    await fireEvent.drop(await screen.findByText('New tray'), { dataTransfer: carried });
    await waitFor(() => expect(makeTray).toHaveBeenCalledOnce());
    await fireEvent.dragOver(document.body, { dataTransfer: carried });
    await fireEvent.drop(await screen.findByText('Gridwick'), { dataTransfer: carried });
    await waitFor(() => expect(vi.mocked(makeAtOnce).mock.calls[0]?.[0].title).toBe('Gridwick'));
    expect(uploads.add).toHaveBeenCalledOnce();
  });

  it('are no reason to show anything where something else is dragged', async () => {
    render(DropZone, { tray });
    await fireEvent.dragOver(document.body, { dataTransfer: { types: ['text/plain'], items: [] } });
    expect(screen.queryByText('Add to Autumn')).toBeNull();
  });
});
