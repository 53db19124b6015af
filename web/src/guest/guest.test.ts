import { fireEvent, render, screen, waitFor, within } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import Guest from './Guest.svelte';
import type { Room, Thing } from './room.svelte';

const thing = (id: number, more: object = {}): Thing => ({ id, name: `hall-${id}.jpg`, width: 1200, height: 800, bytes: 240_000, format: 'JPEG', title: '', alt: '', there: true, says: null, comments: [], ...more });
const proofs = (more: object = {}): Room => ({ kind: 'proof', name: 'Spring', studio: 'Quillmarsh', expires: '2031-11-01T00:00:00Z', guest: 'Odile', done: false, wanted: 1, things: [thing(1), thing(2), thing(3)], ...more });

/** What the guest's browser asks, and what is answered to it: by method and path. */
let asked: [string, unknown][] = [];
let answers: Record<string, () => Response | Promise<Response>>;
const nothing = () => new Response(null, { status: 204 });

beforeEach(() => {
  asked = [];
  answers = {};
  vi.stubGlobal('fetch', async (url: string, init: RequestInit = {}) => {
    const call = `${init.method ?? 'GET'} ${url}`;
    asked.push([call, typeof init.body === 'string' ? JSON.parse(init.body) : null]);
    const answer = answers[call];
    if (!answer) throw new TypeError(`nobody answers ${call}`);
    return answer();
  });
  history.replaceState({}, '', '/proof/12#s3cret');
});

async function opened(room: Room) {
  answers['GET /guest/12'] = () => Response.json(room);
  history.replaceState({}, '', `/${room.kind}/12#s3cret`);
  render(Guest);
  await screen.findByRole('heading', { name: room.name });
  return userEvent.setup();
}

describe('the door of a link', () => {
  const closed = () => Response.json({ detail: 'Open it again' }, { status: 401 });

  it('asks who comes to look at proofs, and for a passphrase only where there is one', async () => {
    answers['GET /guest/12'] = closed;
    answers['POST /guest/12/open'] = () => Response.json({ detail: 'Wrong passphrase' }, { status: 401 });
    const user = userEvent.setup();
    render(Guest);
    await user.type(await screen.findByLabelText('Your name'), 'Odile');
    expect(screen.queryByLabelText('Passphrase')).toBeNull();
    await user.click(screen.getByRole('button', { name: 'Look at the pictures' }));
    await user.type(await screen.findByLabelText('Passphrase'), 'brass');
    expect(screen.queryByRole('alert')).toBeNull(); // none was given, so none was wrong
    await user.click(screen.getByRole('button', { name: 'Look at the pictures' }));
    expect(await screen.findByRole('alert')).toHaveTextContent('Wrong passphrase');
    answers['POST /guest/12/open'] = () => Response.json(proofs());
    await user.click(screen.getByRole('button', { name: 'Look at the pictures' }));
    expect(await screen.findByRole('heading', { name: 'Spring' })).toBeInTheDocument();
    expect(asked.at(-1)).toEqual(['POST /guest/12/open', { secret: 's3cret', name: 'Odile', passphrase: 'brass' }]);
  });

  it('gives files to pick up to whoever has the address', async () => {
    history.replaceState({}, '', '/pickup/12#s3cret');
    answers['GET /guest/12'] = closed;
    answers['POST /guest/12/open'] = () => Response.json(proofs({ kind: 'pickup' }));
    render(Guest);
    expect(await screen.findByRole('link', { name: 'Save hall-1.jpg' })).toHaveAttribute('href', '/guest/12/things/1/file');
  });

  it('says that a link has ended, and tries again where nobody answers', async () => {
    const user = userEvent.setup();
    render(Guest);
    expect(await screen.findByRole('alert')).toHaveTextContent('There is no connection. Nothing is lost: try again.');
    answers['GET /guest/12'] = () => Response.json({ detail: 'Ended' }, { status: 410 });
    await user.click(screen.getByRole('button', { name: 'Try again' }));
    expect(await screen.findByRole('heading', { name: 'This link has ended' })).toBeInTheDocument();
  });

  it('never reads out what a server between says in its own markup', async () => {
    answers['GET /guest/12'] = () => new Response('<html>Bad gateway</html>', { status: 502 });
    render(Guest);
    expect(await screen.findByRole('alert')).toHaveTextContent('The server did not answer as it should. Try again.');
  });
});

describe('a room of proofs', () => {
  beforeEach(() => {
    for (const id of [1, 2, 3]) answers[`PUT /guest/12/things/${id}/says`] = nothing;
  });

  it('is judged by keys: the same once more takes it back, and the gallery is there again', async () => {
    const user = await opened(proofs());
    await user.click(screen.getByRole('button', { name: /hall-1/ }));
    await user.keyboard('y');
    await waitFor(() => expect(screen.getByRole('button', { name: /^Yes/ })).toHaveAttribute('aria-pressed', 'true'));
    await user.keyboard('{ArrowRight}N');
    await waitFor(() => expect(screen.getByRole('button', { name: /^No/ })).toHaveAttribute('aria-pressed', 'true'));
    await user.keyboard('n');
    await waitFor(() => expect(screen.getByRole('button', { name: /^No/ })).toHaveAttribute('aria-pressed', 'false'));
    expect(asked.slice(1)).toEqual([
      ['PUT /guest/12/things/1/says', { says: 'yes' }],
      ['PUT /guest/12/things/2/says', { says: 'no' }],
      ['PUT /guest/12/things/2/says', { says: null }],
    ]);
    await user.keyboard('{Escape}');
    await waitFor(() => expect(screen.getByRole('button', { name: /hall-2/ })).toHaveFocus());
    expect(screen.getByRole('status')).toHaveTextContent('1 of 1 chosen');
  });

  it('goes by a swipe to the side, and says yes by one upward', async () => {
    const user = await opened(proofs());
    await user.click(screen.getByRole('button', { name: /hall-1/ }));
    const swipe = async (x: number, y: number) => {
      const stage = screen.getByRole('button', { name: 'Next picture' });
      await fireEvent.touchStart(stage, { touches: [{ clientX: 200, clientY: 200 }] });
      await fireEvent.touchEnd(stage, { changedTouches: [{ clientX: 200 + x, clientY: 200 + y }] });
    };
    await swipe(-90, 10);
    expect(screen.getByText('2 of 3')).toBeInTheDocument();
    await swipe(20, -30); // too short to mean anything
    await swipe(5, -120);
    await waitFor(() => expect(asked.at(-1)).toEqual(['PUT /guest/12/things/2/says', { says: 'yes' }]));
  });

  it('keeps what was written where it could not be sent', async () => {
    const user = await opened(proofs());
    await user.click(screen.getByRole('button', { name: /hall-1/ }));
    await user.keyboard('c');
    const field = await screen.findByRole('textbox');
    await waitFor(() => expect(field).toHaveFocus());
    await user.type(field, 'Less yellow, please');
    await user.click(screen.getByRole('button', { name: 'Send' }));
    expect(await screen.findByRole('alert')).toHaveTextContent('There is no connection');
    expect(field).toHaveValue('Less yellow, please');
    answers['POST /guest/12/things/1/comments'] = () => Response.json({ id: 8, by: 'Odile', mine: true, text: 'Less yellow, please', x: null, y: null });
    await user.click(screen.getByRole('button', { name: 'Send' }));
    const said = await screen.findByRole('list', { name: 'What you wrote' });
    expect(screen.queryByRole('textbox')).toBeNull();
    answers['DELETE /guest/12/comments/8'] = nothing;
    await user.click(within(said).getByRole('button', { name: 'Delete: Less yellow, please' }));
    await waitFor(() => expect(screen.queryByRole('list', { name: 'What you wrote' })).toBeNull());
  });

  it('walks through what the filter shows, and an answer takes nothing away on the way', async () => {
    const user = await opened(proofs({ things: [thing(1), thing(2, { says: 'no' }), thing(3)] }));
    await user.click(screen.getByRole('button', { name: 'Not judged 2' }));
    await user.click(screen.getByRole('button', { name: /hall-1/ }));
    expect(screen.getByRole('main', { name: 'hall-1.jpg, 1 of 2' })).toBeInTheDocument();
    await user.keyboard('y');
    await waitFor(() => expect(screen.getByRole('button', { name: /^Yes/ })).toHaveAttribute('aria-pressed', 'true'));
    await user.keyboard('{ArrowRight}');
    expect(screen.getByRole('main', { name: 'hall-3.jpg, 2 of 2' })).toBeInTheDocument();
    await user.keyboard('{ArrowRight}{ArrowLeft}');
    expect(screen.getByRole('main', { name: 'hall-1.jpg, 1 of 2' })).toBeInTheDocument();
    await user.keyboard('{Escape}');
    expect(screen.getAllByRole('listitem')).toHaveLength(1);
  });

  it('shows one filter at a time, says when more are chosen than agreed, and is done when the guest says so', async () => {
    const user = await opened(proofs({ things: [thing(1, { says: 'yes' }), thing(2, { says: 'yes' }), thing(3)] }));
    expect(screen.getByRole('status')).toHaveTextContent('2 of 1 chosen · 1 more than agreed');
    await user.click(screen.getByRole('button', { name: 'Not judged 1' }));
    expect(screen.getAllByRole('listitem')).toHaveLength(1);
    await user.click(screen.getByRole('button', { name: 'Maybe 0' }));
    expect(screen.getByText('None.')).toBeInTheDocument();
    answers['PUT /guest/12/done'] = nothing;
    await user.click(screen.getByRole('button', { name: 'I am done' }));
    expect(await screen.findByRole('button', { name: 'Done. Change something' })).toBeInTheDocument();
  });
});

describe('files to pick up', () => {
  it('count only what is still there, and copy the words that go with them', async () => {
    const copied = vi.fn().mockResolvedValue(undefined);
    const user = await opened(proofs({ kind: 'pickup', things: [thing(1, { alt: 'A brass bell' }), thing(2), thing(3, { there: false })] }));
    Object.defineProperty(navigator, 'clipboard', { value: { writeText: copied }, configurable: true });
    expect(screen.getByRole('link', { name: 'Save all 2 480 kB, as a zip' })).toHaveAttribute('href', '/guest/12/all');
    expect(screen.getByText('It was moved or deleted. Ask whoever sent you the link.')).toBeInTheDocument();
    await user.click(screen.getByRole('button', { name: 'Copy alt text' }));
    expect(copied).toHaveBeenCalledWith('A brass bell');
    await waitFor(() => expect(screen.getByRole('status')).toHaveTextContent('Alt text copied.'));
    copied.mockRejectedValue(new Error('not allowed'));
    await user.click(screen.getByRole('button', { name: 'Copy alt text' }));
    await waitFor(() => expect(screen.getByRole('status')).toHaveTextContent('Press and hold the text instead.'));
  });
});
