import { render, screen, waitFor } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { notices } from '../shell/notices.svelte';
import Storage from './Storage.svelte';

const server = vi.hoisted(() => ({ days: [] as number[], cleared: [] as unknown[], hold: new Map<number, Promise<void>>() }));
vi.mock('../api/client', async (original) => {
  const storage = (old_runs: number) => ({ renditions: 3_000_000, uploads: 1_000_000, copies: 500_000, ahead: 0, quota: 10_000_000, old_runs, old_runs_bytes: 2_000_000, unused: 0, unused_bytes: 0 });
  const api = {
    GET: async (_: string, { params }: { params: { query: { days: number } } }) => {
      const { days } = params.query;
      server.days.push(days);
      await server.hold.get(days);
      return { data: storage(days === 30 ? 2 : 5), response: { ok: true, status: 200 } };
    },
    POST: (_: string, { body }: { body: unknown }) => {
      server.cleared.push(body);
      return Promise.resolve({ data: { freed: 2_000_000, storage: storage(0) }, response: { ok: true, status: 200 } });
    },
  };
  return { ...(await original<object>()), api };
});

beforeEach(() => {
  Object.assign(server, { days: [], cleared: [], hold: new Map() });
  notices.all = [];
});

describe('the storage page', () => {
  it('tells what takes room, and offers only what can be cleared', async () => {
    render(Storage);
    expect(await screen.findByText('4.5 MB')).toBeInTheDocument();
    expect(screen.getByText('of 10.0 MB used, 5.5 MB left', { exact: false })).toBeInTheDocument();
    expect(screen.getByText('2 runs made 2.0 MB.', { exact: false })).toBeInTheDocument();
    expect(screen.getByRole('button', { name: 'Delete unused uploads…' })).toBeDisabled();
  });

  it('asks before it clears, and says what came of it', async () => {
    const user = userEvent.setup();
    render(Storage);
    await user.click(await screen.findByRole('button', { name: 'Clear old runs…' }));
    expect(server.cleared).toEqual([]);
    expect(screen.getByText('Their files in the output folder stay', { exact: false })).toBeInTheDocument();
    await user.click(screen.getByRole('button', { name: 'Clear old runs' }));
    await waitFor(() => expect(screen.getByText('No run is that old.', { exact: false })).toBeInTheDocument());
    expect(server.cleared).toEqual([{ what: 'runs', days: 30, files: false }]);
    expect(notices.all[0]?.text).toMatch(/^Cleared 2\.0\sMB$/);
  });

  it('shows the answer to the days that were typed last', async () => {
    let answer: () => void = () => undefined;
    server.hold.set(3, new Promise((done) => (answer = done)));
    const user = userEvent.setup();
    render(Storage);
    const days = await screen.findByRole('spinbutton');
    await user.clear(days);
    await user.type(days, '3');
    await waitFor(() => expect(server.days).toContain(3));
    await user.type(days, '0');
    await waitFor(() => expect(screen.getByText('2 runs made', { exact: false })).toBeInTheDocument());
    answer();
    await new Promise((done) => setTimeout(done, 20));
    expect(screen.getByText('2 runs made', { exact: false })).toBeInTheDocument();
  });
});
