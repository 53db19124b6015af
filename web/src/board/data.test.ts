import { beforeEach, describe, expect, it, vi } from 'vitest';
import { server } from '../test/server';
import { BoardData } from './data.svelte';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

const ROWS = 'POST /api/trays/{number}/rows';
const row = (photo: number) => ({ photo: { id: photo, state: 'ready' }, cells: [{ recipe: 7, state: 'planned', parts: 1, bytes: 1 }] });
const asked = () => server.bodies(ROWS).map((body) => (body as { photos: number[] }).photos);
let photos: number[] = [];

beforeEach(() => {
  photos = Array.from({ length: 10_000 }, (_, i) => i + 1);
  server.knows({
    'GET /api/trays/{number}/board': () => ({ photos, recipes: [{ id: 7 }], groups: [{ start: 0, count: 2, folder: 'gallery' }, { start: 2, count: photos.length - 2, folder: 'shop' }], formats: [], total: photos.length, rows: photos.slice(0, 2).map(row) }),
    'GET /api/trays/{number}/overview': { states: { planned: 9000, reading: 3, unreadable: 2, gone: 1 } },
    [ROWS]: (ask) => (ask.body as { photos: number[] }).photos.map(row),
  });
});

describe('what the board asks for', () => {
  it('is the same for ten thousand photos as for twenty: the rows in view', async () => {
    const board = new BoardData(1);
    const leave = photos.slice(100, 115).map((photo) => board.want(photo));
    await board.load();
    await vi.waitFor(() => expect(asked()).toEqual([photos.slice(100, 115)]));
    await vi.waitFor(() => expect(board.cell(101, 7)?.[1].state).toBe('planned'));
    expect(board.rows.size).toBe(2 + 15); // the first two came with the board
    leave.forEach((left) => left());
  });

  it('comes in windows of sixty, each photo once', async () => {
    const board = new BoardData(1);
    const leave = photos.slice(10, 160).map((photo) => board.want(photo));
    await board.load();
    await vi.waitFor(() => expect(asked().flat()).toHaveLength(150));
    expect(asked().map((each) => each.length)).toEqual([60, 60, 30]);
    expect(new Set(asked().flat()).size).toBe(150);
    leave.forEach((left) => left());
  });

  it('is let go of when it is far away, so that the page stays light', async () => {
    const board = new BoardData(1);
    await board.load();
    for (let start = 0; start < 900; start += 60) {
      const leave = photos.slice(start, start + 60).map((photo) => board.want(photo));
      await vi.waitFor(() => expect(board.rows.has(photos[start + 59] ?? 0)).toBe(true));
      leave.forEach((left) => left());
    }
    expect(board.rows.size).toBeLessThanOrEqual(460);
    expect(board.rows.has(900)).toBe(true);
    expect(board.cell(5, 7)).toBeUndefined();
  });
});

describe('what the board says', () => {
  it('has a heading over each folder, and photos in their order', async () => {
    photos = [5, 3, 9, 4];
    const board = new BoardData(1);
    await board.load();
    expect(board.items.map((item) => (item.kind === 'folder' ? `${item.name} ${item.photos}` : item.photo))).toEqual(['gallery 2', 5, 3, 'shop 2', 9, 4]);
    expect(board.extent).toEqual({ rows: 4, columns: 1 });
  });

  it('counts by what the server says of the tray, not by what is here', async () => {
    const board = new BoardData(1);
    await board.load();
    expect([board.number(''), board.number('planned'), board.number('eye'), board.reading, board.unreadable]).toEqual([10_000, 9000, 0, 3, 3]);
  });

  it('knows whether something is filtered: an order is no filter', () => {
    const how = { state: '', folder: '', format: '', shape: '', name: '', sort: 'name' };
    expect(new BoardData(1, how as never).filtered).toBe(false);
    expect(new BoardData(1, { ...how, shape: 'portrait' } as never).filtered).toBe(true);
  });

  it('knows nothing of cells whose rows are not here', async () => {
    const board = new BoardData(1);
    await board.load();
    expect([board.cell(5000, 7), board.cell(undefined, 7), board.cell(1, 99)]).toEqual([undefined, undefined, undefined]);
    expect(board.cell(1, 7)?.[0].id).toBe(1);
  });
});
