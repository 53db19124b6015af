import { render, screen, waitFor, within } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { notices } from '../shell/notices.svelte';
import { server } from '../test/server';
import Runs from './Runs.svelte';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

const COUNTS = { total: 8, open: 0, asking: 0, made: 8, failed: 0, kept: 0, stopped: 0 };
const card = (id: number, tray_name: string, more: object = {}) => ({ id, tray_name, recipes: ['Journal', 'Square'], started: '2031-10-14T09:00:00Z', finished: '2031-10-14T09:02:05Z', stop_asked: false, held: false, seconds_left: null, urgency: 0, bytes: 240_000, pictures: [], counts: COUNTS, ...more });
const going = (id: number, tray_name: string, more: object = {}) => card(id, tray_name, { finished: null, counts: { ...COUNTS, open: 5, made: 3 }, ...more });
let cards: { id: number; urgency: number; held: boolean; counts: typeof COUNTS }[] = [];

beforeEach(() => {
  notices.all = [];
  cards = [going(1, 'First'), going(2, 'Second'), card(3, 'Asks', { finished: null, counts: { ...COUNTS, made: 6, asking: 2 } }), card(4, 'Old', { counts: { ...COUNTS, made: 3, stopped: 5 } })];
  server.knows({
    'GET /api/run-cards': ({ query }) => {
      const found = cards.filter((each) => (each as unknown as { tray_name: string }).tray_name.includes(String(query['find'])));
      return { total: found.length, runs: found.slice(Number(query['start']), Number(query['start']) + 3) };
    },
    'GET /api/runs': [],
    'PUT /api/run-order': ({ body }) => {
      const { runs } = body as { runs: number[] };
      cards = cards.map((each) => ({ ...each, urgency: runs.includes(each.id) ? runs.length - runs.indexOf(each.id) : each.urgency }));
      return {};
    },
    'POST /api/runs/{number}/hold': ({ path }) => {
      cards = cards.map((each) => (each.id === path['number'] ? { ...each, held: true } : each));
      return {};
    },
    'POST /api/storage/clear': { freed: 120_000, storage: {} },
  });
});

const names = (list: string) => within(screen.getByRole('list', { name: list })).getAllByRole('listitem').map((each) => each.querySelector('.name a')?.textContent);
async function opened() {
  render(Runs);
  await waitFor(() => expect(names('Runs being made')).toHaveLength(2));
  return userEvent.setup();
}

describe('the list of runs', () => {
  it('tells apart what is being made, what waits, and what is over, and says how each stands', async () => {
    const user = await opened();
    expect(names('Runs that wait')).toEqual(['Asks']);
    expect(screen.getByText('done but for 2')).toBeInTheDocument();
    expect(screen.getByRole('link', { name: 'Answer the questions of Asks' })).toHaveAttribute('href', '/questions');
    expect(screen.queryByRole('list', { name: 'Runs that are over' })).toBeNull(); // on the next page
    await user.click(screen.getByRole('button', { name: 'Show more (1 left)' }));
    expect(await screen.findByText('3 made, 5 stopped')).toBeInTheDocument();
    expect(screen.getByText(/in 2 min/)).toBeInTheDocument();
  });

  it('makes one earlier, and never beyond the ends', async () => {
    const user = await opened();
    expect(screen.getByRole('button', { name: 'Make First earlier' })).toBeDisabled();
    expect(screen.getByRole('button', { name: 'Make Second later' })).toBeDisabled();
    await user.click(screen.getByRole('button', { name: 'Make Second earlier' }));
    await waitFor(() => expect(names('Runs being made')).toEqual(['Second', 'First']));
    expect(server.bodies('PUT /api/run-order')).toEqual([{ runs: [2, 1] }]);
  });

  it('holds one, which then says so', async () => {
    const user = await opened();
    await user.click(screen.getByRole('button', { name: 'Hold First' }));
    expect(await screen.findByRole('button', { name: 'Go on with First' })).toBeInTheDocument();
    expect(screen.getByText('3 made, 5 to go · held')).toBeInTheDocument();
  });

  it('finds by name once typing rests, and says when nothing has it', async () => {
    const user = await opened();
    await user.type(screen.getByRole('searchbox'), 'Second');
    await waitFor(() => expect(names('Runs being made')).toEqual(['Second']));
    expect(server.asked.filter((each) => each.query['find']).map((each) => each.query['find'])).toEqual(['Second']);
    await user.type(screen.getByRole('searchbox'), 'x');
    expect(await screen.findByText('No run has a tray, photo or file of that name.')).toBeInTheDocument();
  });

  it('clears one away only when asked again, and leaves its files unless told to delete them', async () => {
    cards = [card(4, 'Old')] as typeof cards;
    render(Runs);
    const user = userEvent.setup();
    await user.click(await screen.findByRole('button', { name: /^Clear away the run of Old/ }));
    expect(server.bodies('POST /api/storage/clear')).toEqual([]);
    const asks = await screen.findByRole('dialog');
    await user.click(within(asks).getByRole('checkbox'));
    await user.click(within(asks).getByRole('button', { name: 'Clear away, delete its files' }));
    await waitFor(() => expect(server.bodies('POST /api/storage/clear')).toEqual([{ what: 'run', run: 4, files: true, days: 0 }]));
    await waitFor(() => expect(notices.all.at(-1)?.text).toMatch(/^Cleared the run of Old, 120.kB$/));
  });

  it('says what to do where nothing was made yet', async () => {
    cards = [];
    render(Runs);
    expect(await screen.findByText(/^Nothing has been made yet/)).toBeInTheDocument();
  });
});
