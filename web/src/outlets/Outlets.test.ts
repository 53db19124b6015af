import { fireEvent, render, screen, waitFor, within } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { notices } from '../shell/notices.svelte';
import { router } from '../shell/router.svelte';
import { Refusal, server } from '../test/server';
import Outlets from './Outlets.svelte';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

const MAKE = 'POST /api/outlets';
const sheet = (id: number, name: string, recipes: object[] = [], more: object = {}) => ({ id, name, version: 1, recipes, content: { format: 'upper-tray/outlet', version: 1, name, uses: [{ use: 'Post' }], ...more } });
const follows = (title: string, more: object = {}) => ({ id: 7, title, changed: false, gone: false, ...more });
let outlets = [sheet(1, 'Gridwick'), sheet(2, 'Dailyloom')];

beforeEach(() => {
  outlets = [sheet(1, 'Gridwick', [follows('Grid'), follows('Story', { changed: true })], { checked: '2031-09-02' }), sheet(2, 'Dailyloom')];
  notices.all = [];
  router.go('/outlets');
  server.knows({
    'GET /api/outlets': () => outlets,
    [MAKE]: { id: 9 },
    'DELETE /api/outlets/{number}': ({ path }) => {
      outlets = outlets.filter((each) => each.id !== path['number']);
      return {};
    },
  });
});

const cardOf = (name: string) => screen.getByText(name, { selector: '.title' }).closest('article') as HTMLElement;
async function opened() {
  render(Outlets);
  await screen.findByText('Gridwick', { selector: '.title' });
  return userEvent.setup();
}

describe('the page of outlets', () => {
  it('says when each was checked, what is for it, and what has older rules', async () => {
    await opened();
    expect(cardOf('Gridwick')).toHaveTextContent('checked Sep 2, 2031');
    expect(cardOf('Gridwick')).toHaveTextContent('For it: Grid, Story · one has older rules');
    expect(cardOf('Dailyloom')).toHaveTextContent('never checked');
    expect(cardOf('Dailyloom')).toHaveTextContent('No recipe is for it yet');
  });

  it('asks before one goes, says what stays, and then it is gone', async () => {
    const user = await opened();
    await user.click(screen.getByRole('button', { name: 'Delete Gridwick' }));
    const dialog = await screen.findByRole('dialog');
    expect(dialog).toHaveTextContent('2 recipes for it will keep the rules they took over.');
    await user.click(within(dialog).getByRole('button', { name: 'Delete the outlet' }));
    await waitFor(() => expect(notices.all.at(-1)?.text).toBe('Gridwick is deleted. 2 recipes kept its rules.'));
    expect(screen.queryByText('Gridwick', { selector: '.title' })).toBeNull();
  });

  it('deletes nothing where the question is left', async () => {
    const user = await opened();
    await user.click(screen.getByRole('button', { name: 'Delete Dailyloom' }));
    await user.click(within(await screen.findByRole('dialog')).getByRole('button', { name: 'Cancel' }));
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
    expect(server.asked.filter((each) => each.call.startsWith('DELETE'))).toEqual([]);
  });

  it('makes one outlet of a double press, and opens it', async () => {
    let answer: (made: object) => void = () => undefined;
    server.on(MAKE, () => new Promise((done) => (answer = done)));
    const user = await opened();
    await user.dblClick(screen.getByRole('button', { name: 'New outlet' }));
    answer({ id: 9 });
    await waitFor(() => expect(router.path).toBe('/outlets/9'));
    expect(server.bodies(MAKE)).toHaveLength(1);
  });

  it('duplicates a sheet whole, under a name of its own', async () => {
    const user = await opened();
    await user.click(screen.getByRole('button', { name: 'Duplicate Gridwick' }));
    await waitFor(() => expect(server.bodies(MAKE)).toEqual([{ content: { ...outlets[0]!.content, name: 'Gridwick copy' } }]));
  });

  it('takes in a sheet that was saved, and says what is wrong with a file that is none', async () => {
    await opened();
    const chooser = screen.getByLabelText('The sheet of an outlet');
    const take = (text: string) => fireEvent.change(chooser, { target: { files: [Object.assign(new File([text], 'loom.json'), { text: () => Promise.resolve(text) })] } });
    Object.defineProperty(chooser, 'value', { set: () => undefined, get: () => '', configurable: true });
    await take('no json');
    await waitFor(() => expect(notices.all.at(-1)?.text).toBe('loom.json: expected the sheet of an outlet, found no JSON. Choose a file that was saved here.'));
    expect(server.bodies(MAKE)).toEqual([]);
    await take(JSON.stringify(outlets[1]!.content));
    await waitFor(() => expect(server.bodies(MAKE)).toEqual([{ content: outlets[1]!.content }]));
  });

  it('can be tried again where the server was away', async () => {
    server.on('GET /api/outlets', () => { throw new Refusal(503, { detail: 'The database is away.' }); });
    render(Outlets);
    const again = await screen.findByRole('button', { name: 'Try again' });
    expect(screen.getByText(/The database is away/)).toBeInTheDocument();
    server.on('GET /api/outlets', () => outlets);
    await userEvent.setup().click(again);
    expect(await screen.findByText('Dailyloom', { selector: '.title' })).toBeInTheDocument();
  });
});
