import { render, screen, waitFor, within } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { resync } from '../api/live';
import { notices } from '../shell/notices.svelte';
import { Refusal, server } from '../test/server';
import Deliveries from './Deliveries.svelte';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

const account = (id: number, name: string, counts: Record<string, number>, paused = false) => ({ id, name, kind: 'sftp', paused, counts });
const delivery = (id: number, state: string, more: object = {}) => ({ id, name: `bench-${String(id).padStart(3, '0')}.jpg`, run: 9, bytes: 200_000, state, tries: 1, finished: null, remote: '', remote_sha256: '', error: '', notes: [], due: null, ...more });
const AGAIN = 'POST /api/accounts/{number}/again';
let rows: ReturnType<typeof delivery>[] = [];
let accounts: ReturnType<typeof account>[] = [];

beforeEach(() => {
  notices.all = [];
  accounts = [account(1, 'Archive', {}), account(2, 'Dailyloom', { sent: 2, failed: 1 })];
  rows = [
    delivery(1, 'sent', { remote: 'https://dailyloom.example/p/1', remote_sha256: 'abcdef0123456789', finished: '2031-10-14T09:00:00Z' }),
    delivery(2, 'failed', { error: 'Dailyloom refused it: too wide.', tries: 3 }),
    delivery(3, 'sent', { remote: '/press/bench-003.jpg', notes: ['The color profile was dropped there.'] }),
  ];
  server.knows({
    'GET /api/accounts': () => accounts,
    'GET /api/outlets': [],
    'GET /api/accounts/{number}/deliveries': ({ query }) => {
      const found = rows.filter((each) => !query['state'] || each.state === query['state']);
      return { total: found.length, deliveries: found };
    },
    [AGAIN]: { count: 1 },
  });
});

const names = () => screen.queryAllByRole('row').slice(1).map((each) => within(each).getByRole('link', { name: /bench/ }).querySelector('.whole')?.textContent);
async function opened() {
  render(Deliveries);
  await waitFor(() => expect(names()).toHaveLength(3));
  return userEvent.setup();
}
const said = () => notices.all.map((each) => each.text);

describe('the page of deliveries', () => {
  it('opens with the first account that sent anything, and tells where each file is', async () => {
    await opened();
    expect(screen.getByRole('button', { name: /^Dailyloom/ })).toHaveAttribute('aria-pressed', 'true');
    const [first, second, third] = screen.getAllByRole('row').slice(1) as [HTMLElement, HTMLElement, HTMLElement];
    expect(within(first).getByRole('link', { name: 'https://dailyloom.example/p/1' })).toHaveAttribute('target', '_blank');
    expect(first).toHaveTextContent('SHA-256 abcdef012345…, as it was made');
    expect(second).toHaveTextContent('failed, 3 tries');
    expect(second).toHaveTextContent('Dailyloom refused it: too wide.');
    expect(within(third).queryByRole('link', { name: /press/ })).toBeNull(); // a path on another machine leads nowhere from here
    expect(third).toHaveTextContent('The color profile was dropped there.');
  });

  it('has columns with heads that a screen reader tells', async () => {
    await opened();
    expect(screen.getAllByRole('columnheader').map((each) => each.textContent)).toEqual(['File', 'Weight', 'State', 'There', 'What can be done']);
    expect(screen.getAllByRole('columnheader').every((each) => each.getAttribute('scope') === 'col')).toBe(true);
  });

  it('shows one state where it is asked to, and offers those that there are', async () => {
    const user = await opened();
    const show = screen.getByRole('group', { name: 'Show' });
    expect(within(show).getAllByRole('button').map((each) => each.textContent).slice(0, 3)).toEqual(['All 3', 'Sent 2', 'Failed 1']);
    await user.click(within(show).getByRole('button', { name: 'Failed 1' }));
    await waitFor(() => expect(names()).toEqual(['bench-002.jpg']));
  });

  it('sends one file again, or all that failed', async () => {
    const user = await opened();
    await user.click(screen.getByRole('button', { name: 'Send bench-002.jpg again' }));
    await user.click(screen.getByRole('button', { name: 'Send the failed again' }));
    await waitFor(() => expect(server.bodies(AGAIN)).toEqual([{ deliveries: [2] }, { deliveries: null }]));
    await waitFor(() => expect(said()).toContain('Sending 1 file again.'));
    expect(screen.queryByRole('button', { name: 'Send bench-001.jpg again' })).toBeNull();
  });

  it('says what an account answers to a try', async () => {
    const user = await opened();
    server.on('POST /api/accounts/{number}/try', { problem: '' });
    await user.click(screen.getByRole('button', { name: 'Try it: Archive' }));
    await waitFor(() => expect(said()).toContain('Archive answers and lets us in.'));
    server.on('POST /api/accounts/{number}/try', { problem: 'Archive does not know this key.' });
    await user.click(screen.getByRole('button', { name: 'Try it: Archive' }));
    await waitFor(() => expect(notices.all.at(-1)).toMatchObject({ text: 'Archive does not know this key.', bad: true }));
  });

  it('asks before an account goes, and says that what was sent stays', async () => {
    const user = await opened();
    server.on('DELETE /api/accounts/{number}', {});
    await user.click(screen.getByRole('button', { name: 'Delete Dailyloom' }));
    expect(server.asked.some((each) => each.call.startsWith('DELETE'))).toBe(false);
    accounts = accounts.slice(0, 1);
    await user.click(within(await screen.findByRole('dialog')).getByRole('button', { name: /Delete/ }));
    await waitFor(() => expect(said()).toContain('Dailyloom is deleted. What was sent stays where it is.'));
    await waitFor(() => expect(screen.queryByRole('button', { name: /^Dailyloom/ })).toBeNull());
  });

  it('follows what is sent while it is looked at', async () => {
    await opened();
    rows = [delivery(4, 'sending'), ...rows];
    accounts = [accounts[0]!, account(2, 'Dailyloom', { sent: 2, failed: 1, sending: 1 })];
    resync();
    await waitFor(() => expect(names()).toHaveLength(4));
    expect(screen.getByText('2 sent, 1 failed, 1 waiting')).toBeInTheDocument();
  });

  it('says what to do where there is no account, and why where the server refuses', async () => {
    accounts = [];
    const { unmount } = render(Deliveries);
    expect(await screen.findByText(/^No accounts yet/)).toBeInTheDocument();
    unmount();
    server.on('GET /api/accounts', () => { throw new Refusal(500, { detail: 'The database is away. Try again.' }); });
    render(Deliveries);
    expect(await screen.findByText('The database is away. Try again.')).toBeInTheDocument();
  });
});
