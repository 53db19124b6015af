import { render, screen, waitFor, within } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { notices } from '../shell/notices.svelte';
import { router } from '../shell/router.svelte';
import { Refusal, server } from '../test/server';
import HandOver from './HandOver.svelte';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

const LINKS = 'POST /api/links';
const SEND = 'POST /api/accounts/{number}/send';
const link = { id: 5, kind: 'pickup', name: 'Spring', address: '/guest/5#key', expires: '2031-11-14T12:00:00Z', passphrase: true, good: true, withdrawn: false };
const onclose = vi.fn();

beforeEach(() => {
  notices.all = [];
  onclose.mockClear();
  router.go('/runs/9');
  server.knows({ 'GET /api/accounts': [{ id: 2, name: 'Dailyloom' }, { id: 3, name: 'Archive' }], [LINKS]: (ask) => ({ ...link, kind: (ask.body as { kind: string }).kind }), [SEND]: { count: 3 } });
});

async function opened(renditions = [11, 12, 13]) {
  render(HandOver, { run: 9, name: 'Autumn rehang', renditions, files: 3, onclose });
  await screen.findByRole('dialog');
  return userEvent.setup();
}
const press = (name: string) => within(screen.getByRole('dialog')).getByRole('button', { name });

describe('handing over', () => {
  it('makes one link for what was ticked, however often it is pressed', async () => {
    let answer: (made: object) => void = () => undefined;
    server.on(LINKS, () => new Promise((done) => (answer = done)));
    const user = await opened();
    await user.type(screen.getByLabelText(/^Passphrase/), 'brass');
    await user.dblClick(press('Make the link'));
    answer(link);
    expect(await screen.findByDisplayValue(`${location.origin}/guest/5#key`)).toBeInTheDocument();
    expect(server.bodies(LINKS)).toEqual([{ kind: 'pickup', name: 'Autumn rehang', run: 9, renditions: [11, 12, 13], days: 14, passphrase: 'brass', wanted: null, stamp: 'PROOF' }]);
    expect(screen.getByText(/It asks for its passphrase/)).toBeInTheDocument();
  });

  it('asks a proof room how many are agreed, and refuses what is no number', async () => {
    const user = await opened();
    await user.click(screen.getByLabelText('choosing'));
    const wanted = screen.getByLabelText(/agreed/i);
    await user.type(wanted, 'ten');
    expect(wanted).toHaveAccessibleErrorMessage('Expected a number of pictures, or nothing.');
    expect(press('Make the link')).toBeDisabled();
    await user.clear(wanted);
    await user.type(wanted, '10');
    await user.click(press('Make the link'));
    await waitFor(() => expect(server.bodies(LINKS)).toEqual([expect.objectContaining({ kind: 'proof', wanted: 10 })]));
  });

  it('sends to an account, and says where that is seen', async () => {
    const user = await opened();
    await user.click(screen.getByLabelText('an account'));
    await user.click(press('Send'));
    await waitFor(() => expect(server.asked.find((each) => each.call === SEND)).toMatchObject({ path: { number: 2 }, body: { run: 9, renditions: [11, 12, 13] } }));
    await waitFor(() => expect(notices.all.at(-1)).toMatchObject({ text: 'Sending 3 files.', link: { to: '/deliveries' } }));
    expect(onclose).toHaveBeenCalledOnce();
  });

  it('says so where everything was sent there before', async () => {
    server.on(SEND, { count: 0 });
    const user = await opened();
    await user.click(screen.getByLabelText('an account'));
    await user.click(press('Send'));
    await waitFor(() => expect(notices.all.at(-1)?.text).toBe('They were sent there already.'));
  });

  it('stays open with what was typed where the server refuses', async () => {
    server.on(LINKS, () => { throw new Refusal(409, { detail: 'None of these files is there any more.' }); });
    const user = await opened();
    await user.type(screen.getByLabelText(/^Passphrase/), 'brass');
    await user.click(press('Make the link'));
    await waitFor(() => expect(notices.all.at(-1)?.text).toBe('None of these files is there any more.'));
    expect(screen.getByLabelText(/^Passphrase/)).toHaveValue('brass');
    expect(press('Make the link')).toBeEnabled();
    expect(onclose).not.toHaveBeenCalled();
  });
});
