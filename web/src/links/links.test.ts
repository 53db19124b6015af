import { render, screen, waitFor, within } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { notices } from '../shell/notices.svelte';
import { undo } from '../shell/undo.svelte';
import { server } from '../test/server';
import LinkPage from './LinkPage.svelte';
import Links from './Links.svelte';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

const link = (id: number, name: string, kind: string, more: object = {}) => ({ id, name, kind, passphrase: false, files: 12, opened: 3, saved: 5, guests: 2, expires: '2031-11-14T12:00:00Z', good: true, withdrawn: false, address: `/guest/${id}#key`, wanted: null, ...more });
let links = [link(1, 'Spring', 'pickup'), link(2, 'Portraits', 'proof', { passphrase: true }), link(3, 'Old', 'pickup', { good: false })];

beforeEach(() => {
  links = [link(1, 'Spring', 'pickup'), link(2, 'Portraits', 'proof', { passphrase: true }), link(3, 'Old', 'pickup', { good: false })];
  notices.all = [];
  undo.clear();
  server.knows({
    'GET /api/links': () => links,
    'PUT /api/links/{number}': ({ path, body }) => {
      const { withdrawn } = body as { withdrawn: boolean };
      links = links.map((each) => (each.id === path['number'] ? { ...each, withdrawn, good: !withdrawn } : each));
      return {};
    },
  });
});

describe('the page of links', () => {
  const rowOf = (name: string) => screen.getByRole('link', { name }).closest('tr') as HTMLTableRowElement;

  it('tells what each is for, how often it was used, and until when', async () => {
    render(Links);
    await screen.findByText('3 links');
    expect([...rowOf('Spring').cells].map((each) => each.textContent.trim())).toEqual(['Spring', 'picking up', '12', '3', '5', '', 'until Nov 14, 2031', 'Copy Withdraw']);
    expect([...rowOf('Portraits').cells].slice(1, 7).map((each) => each.textContent.trim())).toEqual(['choosing, with a passphrase', '12', '3', '', '2', 'until Nov 14, 2031']);
    expect(rowOf('Old')).toHaveTextContent('ended');
    expect(within(rowOf('Old')).queryByRole('button')).toBeNull();
  });

  it('withdraws one and opens it again, and undo knows both', async () => {
    render(Links);
    const user = userEvent.setup();
    await user.click(await screen.findByRole('button', { name: 'Withdraw Spring' }));
    await waitFor(() => expect(rowOf('Spring')).toHaveTextContent('withdrawn'));
    expect(notices.all.at(-1)?.text).toBe('Spring opens for nobody now.');
    await user.click(screen.getByRole('button', { name: 'Open Spring again' }));
    await waitFor(() => expect(rowOf('Spring')).toHaveTextContent('until Nov 14, 2031'));
    expect(undo.steps.map((step) => [step.what, step.undo])).toEqual([
      ['withdrew Spring', [{ method: 'PUT', path: '/api/links/1', body: { withdrawn: false } }]],
      ['opened Spring', [{ method: 'PUT', path: '/api/links/1', body: { withdrawn: true } }]],
    ]);
  });

  it('copies the whole address, key and all', async () => {
    const user = userEvent.setup();
    render(Links);
    await user.click(await screen.findByRole('button', { name: 'Copy the address of Portraits' }));
    expect(await navigator.clipboard.readText()).toBe(`${location.origin}/guest/2#key`);
    expect(notices.all.at(-1)?.text).toBe('The address is copied.');
  });
});

describe('the page of a proof room', () => {
  const said = (guest: number, says: string, text = '', at: number[] = []) => ({ guest, says, text, x: at[0] ?? null, y: at[1] ?? null });
  const detail = () => ({
    ...link(2, 'Portraits', 'proof', { wanted: 2 }),
    people: [{ id: 1, name: 'Orla', yes: 2, maybe: 0, no: 0, done: true }, { id: 2, name: 'Tam', yes: 1, maybe: 1, no: 0, done: false }],
    judged: [
      { id: 11, name: 'dial-001.jpg', tray: 4, said: [said(1, 'yes'), said(2, 'maybe'), said(2, '', 'Warmer, please', [0.5, 0.254])] },
      { id: 12, name: 'lark-002.jpg', tray: 4, said: [said(1, 'yes'), said(2, 'yes')] },
      { id: 13, name: 'hall-003.jpg', tray: null, said: [] },
    ],
  });

  it('tells what every guest said of every picture, and where', async () => {
    server.on('GET /api/links/{number}', detail());
    render(LinkPage, { id: 2 });
    await screen.findByText('dial-001.jpg', { selector: '.cut', exact: false, ignore: 'span span' }).catch(() => screen.findAllByRole('row'));
    const rows = screen.getAllByRole('row').slice(1) as HTMLTableRowElement[];
    expect(screen.getAllByRole('columnheader').map((each) => each.textContent.trim())).toEqual(['Picture', 'Orla', 'Tam', 'Comments']);
    expect(rows.map((row) => [...row.cells].slice(1).map((cell) => cell.textContent.trim()))).toEqual([
      ['yes', 'maybe', 'Tam, at 50 % across, 25 % down: Warmer, please'],
      ['yes', 'yes', ''],
      ['', '', ''],
    ]);
    expect(screen.getByText(/2 yes, 0 maybe, 0 no of 2 agreed · done/)).toBeInTheDocument();
  });

  it('leads to what was chosen on the board of its tray', async () => {
    server.on('GET /api/links/{number}', detail());
    render(LinkPage, { id: 2 });
    expect(await screen.findByRole('link', { name: 'Show the 2 with yes on the board' })).toHaveAttribute('href', '/trays/4?picks=2%3Ayes');
    expect(screen.getByRole('link', { name: 'Show the 1 with maybe on the board' })).toBeInTheDocument();
    expect(screen.queryByRole('link', { name: /with no on/ })).toBeNull();
  });

  it('copies the names of what was chosen', async () => {
    server.on('GET /api/links/{number}', detail());
    const user = userEvent.setup();
    render(LinkPage, { id: 2 });
    await user.click(await screen.findByRole('button', { name: 'Copy the names of yes' }));
    expect(await navigator.clipboard.readText()).toBe('dial-001.jpg\nlark-002.jpg');
    expect(notices.all.at(-1)?.text).toBe('2 names copied.');
  });

  it('says so before anybody has come, and where its address is lost', async () => {
    server.on('GET /api/links/{number}', { ...detail(), people: [], address: '' });
    render(LinkPage, { id: 2 });
    expect(await screen.findByText('Nobody has come yet. What they choose appears here at once.')).toBeInTheDocument();
    expect(screen.getByText(/^Its address can no longer be shown/)).toBeInTheDocument();
  });
});
