import { render, screen, waitFor } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Tray } from '../api/client';
import { router } from '../shell/router.svelte';
import { Refusal, server } from '../test/server';
import NewTray from './NewTray.svelte';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

const ROOT = { id: 1, name: 'Photographs' };
const folder = (path: string, photos: number, folders = 0) => ({ path, name: path.split('/').at(-1) ?? '', photos, folders });
const FOLDERS = 'GET /api/roots/{number}/folders';
const tray = { id: 5, name: 'Autumn' } as Tray;

beforeEach(() => {
  router.go('/');
  server.knows({
    'GET /api/roots': [ROOT],
    'GET /api/trays': [],
    [FOLDERS]: ({ query }) =>
      query['path'] === 'shop' ? { root: ROOT, path: 'shop', photos: 5, folders: [folder('shop/clocks', 3)] } : { root: ROOT, path: '', photos: 0, folders: [folder('shop', 8, 1), folder('new-hall', 2)] },
    'POST /api/trays': ({ body }) => ({ id: 7, ...(body as object) }),
    'POST /api/trays/{number}/folders': {},
    'GET /api/trays/{number}/board': { photos: [1, 2], recipes: [] },
  });
});

async function opened(more: object = {}) {
  render(NewTray, { open: true, tray: undefined, ...more });
  await screen.findByLabelText('shop');
  return userEvent.setup();
}

describe('gathering photos', () => {
  it('makes a tray of folders, named after the first where nobody names it', async () => {
    const user = await opened();
    expect(screen.getByRole('button', { name: 'Choose a folder' })).toBeDisabled();
    await user.click(screen.getByLabelText('new-hall'));
    expect(screen.getByLabelText('Name')).toHaveAttribute('placeholder', 'new hall');
    await user.dblClick(screen.getByRole('button', { name: 'Make a tray of 1 folder' }));
    await waitFor(() => expect(router.path).toBe('/trays/7'));
    expect(server.bodies('POST /api/trays')).toEqual([{ name: 'new hall', folders: [{ root: 1, path: 'new-hall' }] }]);
  });

  it('goes down into folders and up again, and keeps what was chosen on the way', async () => {
    const user = await opened();
    await user.click(screen.getByLabelText('new-hall'));
    await user.click(screen.getByRole('button', { name: 'Open' }));
    await user.click(await screen.findByLabelText('clocks'));
    expect(screen.getByText('this folder, with all below it')).toBeInTheDocument();
    await user.click(screen.getByRole('button', { name: 'Photographs' }));
    expect(await screen.findByLabelText('new-hall')).toBeChecked();
    await user.type(screen.getByLabelText('Name'), 'Clocks');
    await user.click(screen.getByRole('button', { name: 'Make a tray of 2 folders' }));
    await waitFor(() => expect(server.bodies('POST /api/trays')).toEqual([{ name: 'Clocks', folders: [{ root: 1, path: 'new-hall' }, { root: 1, path: 'shop/clocks' }] }]));
  });

  it('adds to the tray that is open where that is chosen', async () => {
    const user = await opened({ tray });
    await user.click(screen.getByLabelText('Autumn'));
    expect(screen.queryByLabelText('Name')).toBeNull();
    await user.click(screen.getByLabelText('shop'));
    await user.click(screen.getByRole('button', { name: 'Add 1 folder' }));
    await waitFor(() => expect(server.bodies('POST /api/trays/{number}/folders')).toEqual([{ root: 1, path: 'shop' }]));
  });

  it('says why a folder cannot be opened, and stays where it was', async () => {
    const user = await opened();
    server.on(FOLDERS, () => {
      throw new Refusal(404, { detail: 'The folder shop is not there any more. Choose another.' });
    });
    await user.click(screen.getByRole('button', { name: 'Open' }));
    expect(await screen.findByRole('alert')).toHaveTextContent('The folder shop is not there any more.');
    expect(screen.getByLabelText('shop')).toBeInTheDocument();
  });

  it('shows the folder that was opened last, whichever answer comes last', async () => {
    const user = await opened();
    const answers: ((found: object) => void)[] = [];
    server.on(FOLDERS, () => new Promise((done) => answers.push(done as (found: object) => void)));
    await user.click(screen.getByRole('button', { name: 'Open' }));
    await user.click(screen.getByRole('button', { name: 'Photographs' }));
    answers[1]?.({ root: ROOT, path: '', photos: 0, folders: [folder('hall', 2)] });
    expect(await screen.findByLabelText('hall')).toBeInTheDocument();
    answers[0]?.({ root: ROOT, path: 'shop', photos: 5, folders: [folder('shop/clocks', 3)] });
    await new Promise((done) => setTimeout(done, 20));
    expect(screen.getByLabelText('hall')).toBeInTheDocument();
  });

  it('says whom to ask where no folder is registered', async () => {
    server.on('GET /api/roots', []);
    render(NewTray, { open: true, tray: undefined });
    expect(await screen.findByText(/^No folder is registered for your studio yet/)).toBeInTheDocument();
  });
});
