import { render, screen, waitFor } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { resync } from '../api/live';
import RunPage from './RunPage.svelte';

const counts = { total: 4, made: 2, asking: 1, failed: 1, kept: 0, stopped: 0, open: 0 };
const server = vi.hoisted(() => ({ asked: [] as string[], hold: undefined as Promise<void> | undefined, open: 0, gone: false }));
vi.mock('../api/client', async (original) => {
  const rendition = (id: number, name: string, state: string) => ({
    id, name, state, photo: 1, version: 1, recipe_title: 'Gridwick', part: 1, parts: 1, place: 'gridwick', path: '', lost: '', error: state === 'failed' ? 'The disk is full' : '',
    receipt: state === 'made' ? { width: 1200, height: 800, bytes: 200_000, format: 'JPEG', profile: 'sRGB', differences: [], notes: [] } : null,
  });
  const all = [rendition(1, 'bench-001.jpg', 'made'), rendition(2, 'dial-002.jpg', 'made'), rendition(3, 'hall-003.jpg', 'asking'), rendition(4, 'stair-004.jpg', 'failed')];
  const api = {
    GET: async (path: string, { params }: { params: { query?: { state: string } } }) => {
      const run = { id: 7, tray: 1, tray_name: 'Autumn rehang', started: '2031-10-14T09:00:00Z', finished: null, counts: { ...counts, open: server.open }, recipes: [], afterwards: [], held: false, per_minute: null, left_out: [], bytes: 400_000, originals: 5_000_000, differs: 0, fresh: 0, lost: 0, stop_asked: false, seconds_left: null };
      if (server.gone) return { error: { detail: 'Run not found.' }, response: { ok: false, status: 404 } };
      let data: unknown = run;
      if (path.endsWith('renditions')) {
        const state = params.query?.state ?? '';
        server.asked.push(state);
        if (state === 'failed') await server.hold;
        const found = all.filter((each) => !state || each.state === state);
        data = { renditions: found, total: found.length };
      }
      return { data, response: { ok: true, status: 200 } };
    },
    POST: (path: string) => (server.asked.push(path), Promise.resolve({ data: {}, response: { ok: true, status: 200 } })),
  };
  return { ...(await original<object>()), api };
});

const names = () => screen.getAllByRole('listitem').map((each) => each.querySelector('.name .whole')?.textContent);

beforeEach(() => Object.assign(server, { asked: [], hold: undefined, open: 0, gone: false }));

describe('the page of a run', () => {
  it('lists what was made and what was not, each link by its file', async () => {
    render(RunPage, { id: 7 });
    await waitFor(() => expect(names()).toHaveLength(4));
    expect(screen.getByRole('heading', { level: 1 })).toHaveTextContent('Autumn rehang');
    expect(document.title).toBe('Autumn rehang, run · Upper Tray');
    expect(screen.getByRole('link', { name: 'Download dial-002.jpg' })).toHaveAttribute('href', '/api/renditions/2/file?download=true');
    expect(screen.queryByRole('link', { name: 'Download hall-003.jpg' })).toBeNull();
    expect(screen.getByText('The disk is full')).toBeInTheDocument();
  });

  it('shows the filter that was pressed last, whichever answer comes last', async () => {
    render(RunPage, { id: 7 });
    await waitFor(() => expect(names()).toHaveLength(4));
    let answer: () => void = () => undefined;
    server.hold = new Promise((done) => (answer = done));
    const user = userEvent.setup();
    await user.click(screen.getByRole('button', { name: 'Failed 1' }));
    await user.click(screen.getByRole('button', { name: 'Made 2' }));
    await waitFor(() => expect(names()).toEqual(['bench-001.jpg', 'dial-002.jpg']));
    answer();
    await new Promise((done) => setTimeout(done, 20));
    expect(names()).toEqual(['bench-001.jpg', 'dial-002.jpg']);
    expect(screen.queryByRole('button', { name: 'Kept 0' })).toBeNull(); // a filter of nothing is not offered
  });

  it('says when it can no longer be asked for, and keeps what it shows', async () => {
    render(RunPage, { id: 7 });
    await screen.findAllByRole('listitem');
    server.gone = true;
    resync();
    expect(await screen.findByRole('alert')).toHaveTextContent('Run not found.');
    expect(names()).toHaveLength(4);
  });

  it('can be stopped while it makes something', async () => {
    server.open = 3;
    render(RunPage, { id: 7 });
    await userEvent.setup().click(await screen.findByRole('button', { name: 'Stop' }));
    expect(server.asked).toContain('/api/runs/{number}/stop');
  });
});
