import { beforeEach, expect, it, vi } from 'vitest';
import { BoardState } from './board.svelte';

const server = vi.hoisted(() => ({ state: 'planned', rows: [] as ((state: string) => void)[], first: false, gate: undefined as Promise<void> | undefined }));
vi.mock('../api/client', async (original) => {
  const ok = (data: unknown) => ({ data, response: { ok: true, status: 200 } });
  const row = (state: string) => ({ photo: { id: 1, state: 'ready' }, cells: [{ recipe: 7, state, parts: 1 }] });
  const board = () => ({ photos: [1], recipes: [{ id: 7 }], groups: [], formats: [], total: 1, rows: server.first ? [row(server.state)] : [] });
  const api = {
    GET: async (path: string) => {
      if (path.endsWith('board')) await server.gate;
      return ok(path.endsWith('overview') ? { eye: 0, states: {} } : board());
    },
    POST: () => new Promise((done) => server.rows.push((state) => done(ok([row(state)])))),
  };
  return { ...(await original<object>()), api };
});

beforeEach(() => {
  server.rows = [];
  server.first = false;
  server.state = 'planned';
  server.gate = undefined;
});

it('never shows an older answer over a newer one', async () => {
  const board = new BoardState(1);
  const first = board.load();
  const leave = board.want(1);
  await vi.waitFor(() => expect(server.rows).toHaveLength(1)); // asked for while the cell was still left out
  server.first = true;
  await board.load(); // the change is known now
  expect(board.at({ row: 0, column: 0 })?.[1].state).toBe('planned');
  leave();
  server.rows[0]?.('excluded');
  await first;
  expect(board.at({ row: 0, column: 0 })?.[1].state).toBe('planned');
});

it('asks once more for a row whose answers were on their way together', async () => {
  // The board is asked for, then the row; the server answers the row by what was before, the board by what is now.
  let open = () => {};
  server.gate = new Promise((done) => (open = done));
  server.first = true;
  server.state = 'excluded';
  const board = new BoardState(1);
  const load = board.load();
  const leave = board.want(1);
  await vi.waitFor(() => expect(server.rows).toHaveLength(1));
  open();
  await vi.waitFor(() => expect(board.at({ row: 0, column: 0 })?.[1].state).toBe('excluded'));
  server.rows[0]?.('planned');
  await vi.waitFor(() => expect(server.rows).toHaveLength(2));
  server.rows[1]?.('excluded');
  await load;
  await vi.waitFor(() => expect(board.at({ row: 0, column: 0 })?.[1].state).toBe('excluded'));
  leave();
});

it('asks for a row once while it is in view, and again when the board has changed', async () => {
  const board = new BoardState(1);
  const first = board.load();
  const leave = board.want(1);
  await vi.waitFor(() => expect(server.rows).toHaveLength(1));
  server.rows[0]?.('planned');
  await first;
  const again = board.load();
  await vi.waitFor(() => expect(server.rows).toHaveLength(2));
  server.rows[1]?.('done');
  await again;
  expect(board.at({ row: 0, column: 0 })?.[1].state).toBe('done');
  leave();
  await board.load();
  expect(server.rows).toHaveLength(2);
});
