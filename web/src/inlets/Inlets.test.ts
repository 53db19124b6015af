import { render, screen, waitFor, within } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Recipe } from '../api/client';
import { notices } from '../shell/notices.svelte';
import { studio } from '../shell/studio.svelte';
import { server } from '../test/server';
import Inlets from './Inlets.svelte';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

const CHOICE = 'POST /api/inlets/{number}/choice';
const inlet = (more: object = {}) => ({ id: 1, name: 'Card reader', root_name: 'Photographs', path: 'cards', tray: 5, paused: false, choose: 'ask', writable: true, token: 'secret', address: '/inlets/1', problem: '', counts: { made: 3, waiting: 2, failed: 1 }, ...more });
const arrival = (id: number, state: string, more: object = {}) => ({ id, path: `cards/QM_${id}.jpg`, size: 4_000_000, came: '2031-10-14T09:00:00Z', state, reason: '', run: null, ...more });
let inlets = [inlet()];

beforeEach(() => {
  notices.all = [];
  inlets = [inlet()];
  studio.recipes = [{ id: 7, title: 'Gridwick', archived: false }, { id: 8, title: 'Old', archived: true }] as Recipe[];
  server.knows({
    'GET /api/inlets': () => inlets,
    'GET /api/roots': [{ id: 1, name: 'Photographs' }],
    'GET /api/inlets/{number}/arrivals': ({ query }) => {
      const all = [arrival(1, 'made', { run: 9 }), arrival(2, 'waiting'), arrival(3, 'failed', { reason: 'It is cut off. Copy it again.' })];
      const found = all.filter((each) => !query['state'] || each.state === query['state']);
      return { total: found.length, arrivals: found };
    },
    [CHOICE]: { count: 2 },
  });
});

const paths = () => screen.queryAllByRole('row').slice(1).map((each) => each.querySelector('td')?.textContent);
async function opened() {
  render(Inlets);
  await waitFor(() => expect(paths()).toHaveLength(3));
  return userEvent.setup();
}

describe('the page of inlets', () => {
  it('tells what arrived and what became of it', async () => {
    await opened();
    const [made, waits, failed] = screen.getAllByRole('row').slice(1) as [HTMLElement, HTMLElement, HTMLElement];
    expect(within(made).getByRole('link', { name: 'Run' })).toHaveAttribute('href', '/runs/9');
    expect(waits).toHaveTextContent('wait for you');
    expect(failed).toHaveTextContent('It is cut off. Copy it again.');
    expect(screen.getByText('3 made, 1 failed, 2 waiting')).toBeInTheDocument();
  });

  it('makes what waits by the recipes that were chosen, and by no others', async () => {
    const user = await opened();
    const choice = screen.getByRole('group', { name: 'Recipes for what waits' });
    const make = within(choice).getByRole('button', { name: 'Make 2 files' });
    expect(make).toBeDisabled(); // by nothing yet
    expect(within(choice).queryByLabelText('Old')).toBeNull();
    await user.click(within(choice).getByLabelText('Gridwick'));
    await user.click(make);
    await waitFor(() => expect(server.bodies(CHOICE)).toEqual([{ recipes: [7], arrivals: null }]));
    await waitFor(() => expect(notices.all.at(-1)?.text).toBe('Making 2 files.'));
  });

  it('asks for no recipes where the inlet has its own', async () => {
    inlets = [inlet({ choose: 'recipes' })];
    await opened();
    expect(screen.queryByRole('group', { name: 'Recipes for what waits' })).toBeNull();
  });

  it('pauses, and goes on', async () => {
    const user = await opened();
    server.on('POST /api/inlets/{number}/paused', (ask) => {
      inlets = [inlet(ask.body as object)];
      return {};
    });
    await user.click(screen.getByRole('button', { name: 'Pause' }));
    expect(await screen.findByText('Photographs/cards · paused')).toBeInTheDocument();
    await user.click(await screen.findByRole('button', { name: 'Go on' }));
    expect(await screen.findByRole('button', { name: 'Pause' })).toBeInTheDocument();
    expect(server.bodies('POST /api/inlets/{number}/paused')).toEqual([{ paused: true }, { paused: false }]);
  });

  it('gives the line that another program posts files with, only when it is asked for', async () => {
    const user = await opened();
    expect(screen.queryByText(/Bearer/)).toBeNull();
    await user.click(screen.getByRole('button', { name: 'Send by HTTP' }));
    expect(screen.getByText(/Bearer secret/)).toHaveTextContent(`${location.origin}/inlets/1`);
  });

  it('asks before it watches no more', async () => {
    const user = await opened();
    server.on('DELETE /api/inlets/{number}', () => {
      inlets = [];
      return {};
    });
    await user.click(screen.getByRole('button', { name: 'Stop watching Card reader' }));
    expect(server.asked.some((each) => each.call.startsWith('DELETE'))).toBe(false);
    await user.click(within(await screen.findByRole('dialog')).getByRole('button', { name: /Stop watching/ }));
    expect(await screen.findByText(/^No inlets yet/)).toBeInTheDocument();
    expect(notices.all.at(-1)?.text).toBe('Card reader is watched no more. Its tray and what was made stay.');
  });

  it('says what is missing where there is no folder to watch', async () => {
    inlets = [];
    server.on('GET /api/roots', []);
    render(Inlets);
    expect(await screen.findByText('There is no root to watch a folder in. Whoever runs the server adds one.')).toBeInTheDocument();
    expect(screen.getByRole('button', { name: 'New inlet' })).toBeDisabled();
  });
});
