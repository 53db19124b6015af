import { render, screen, waitFor } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { connection } from '../shell/connection.svelte';
import { notices } from '../shell/notices.svelte';
import Runs from '../runs/Runs.svelte';
import Storage from '../storage/Storage.svelte';
import { NobodyThere, Refusal, server } from '../test/server';
import { Problem } from './client';
import { resync } from './live';
import { Query } from './query.svelte';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

const CARDS = 'GET /api/run-cards';
const card = (id: number, tray_name: string) => ({ id, tray_name, recipes: ['Journal'], started: '2031-10-14T09:00:00Z', finished: '2031-10-14T09:01:00Z', held: false, urgency: 0, bytes: 4000, pictures: [], counts: { total: 4, made: 4, failed: 0, asking: 0, kept: 0, stopped: 0, open: 0 } });

beforeEach(() => {
  notices.all = [];
  connection.came();
  server.knows({ [CARDS]: { total: 1, runs: [card(1, 'Autumn')] } });
});

describe('a query', () => {
  it('shows the newest answer, though an older one comes after it', async () => {
    const waiting: ((value: string) => void)[] = [];
    const query = new Query(() => new Promise<string>((done) => waiting.push(done)));
    const both = [query.load(), query.load()];
    waiting[1]?.('new');
    waiting[0]?.('old');
    await Promise.all(both);
    expect(query.data).toBe('new');
  });

  it('keeps what a change was answered with over what was asked before it', async () => {
    let answer: (value: string) => void = () => undefined;
    const query = new Query(() => new Promise<string>((done) => (answer = done)));
    const asked = query.load();
    query.answered('changed');
    answer('as it was');
    await asked;
    expect(query.data).toBe('changed');
  });

  it('keeps what it has while asking fails, and says so unless the page does already', async () => {
    let fails: Error | undefined;
    const query = new Query(() => (fails ? Promise.reject(fails) : Promise.resolve('here')));
    await query.load();
    fails = new Problem(500, 'The server did not answer as it should. Try again.');
    await query.load();
    expect([query.data, query.stale]).toEqual(['here', 'The server did not answer as it should. Try again.']);
    fails = new Problem(0, 'The server cannot be reached.');
    await query.load();
    expect([query.problem, query.stale]).toEqual([fails, '']);
    fails = undefined;
    await query.load();
    expect(query.problem).toBeUndefined();
  });
});

describe('a page', () => {
  it('that was opened while the server was away is there by itself when it is back', async () => {
    server.on(CARDS, () => {
      throw new NobodyThere();
    });
    render(Runs);
    expect(await screen.findByRole('alert')).toHaveTextContent('The server cannot be reached. Is it still running?');
    server.on(CARDS, { total: 1, runs: [card(1, 'Autumn')] });
    resync();
    expect(await screen.findByRole('link', { name: 'Autumn' })).toBeInTheDocument();
    expect(screen.queryByRole('alert')).toBeNull();
  });

  it('tries again when it is told to', async () => {
    server.on('GET /api/storage', () => {
      throw new Refusal(500, {});
    });
    render(Storage);
    expect(await screen.findByRole('alert')).toHaveTextContent('The server did not answer as it should. Try again.');
    server.on('GET /api/storage', { quota: 1e9, renditions: 1e6, uploads: 0, copies: 0, ahead: 0, old_runs: 0, old_runs_bytes: 0, unused_uploads: 0, unused_uploads_bytes: 0 });
    await userEvent.setup().click(screen.getByRole('button', { name: 'Try again' }));
    await waitFor(() => expect(screen.queryByRole('alert')).toBeNull());
    expect(screen.getByText(/used, .* left/)).toHaveTextContent('1.0 GB');
  });
});
