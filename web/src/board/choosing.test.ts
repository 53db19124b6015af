import { beforeEach, describe, expect, it, vi } from 'vitest';
import { Choosing } from './choosing.svelte';

/** A tray of six photos by two recipes; the third cannot be read, and rows come only where they are asked for. */
const server = vi.hoisted(() => ({ photos: [1, 2, 3, 4, 5, 6], rows: [1, 2], asked: [] as unknown[], portraits: [2, 5] }));
vi.mock('../api/client', async (original) => {
  const ok = (data: unknown) => Promise.resolve({ data, response: { ok: true, status: 200 } });
  const cells = (photo: number) => (photo === 3 ? [] : [7, 8].map((recipe) => ({ recipe, state: photo === 1 && recipe === 8 ? 'excluded' : 'planned', parts: recipe === 8 ? 4 : 1, bytes: 100 })));
  const row = (photo: number) => ({ photo: { id: photo, state: 'ready' }, cells: cells(photo) });
  const api = {
    GET: (path: string, { params }: { params: { query?: { shape?: string } } }) => {
      if (path.endsWith('overview')) return ok({ to_make: 21, open: 0, made: 0, eye: 0, renditions: 21, about: 900, states: { unreadable: 1 } });
      if (path.endsWith('/eye')) return ok([{ photo: 4, recipe: 7 }, { photo: 4, recipe: 8 }, { photo: 6, recipe: 7 }]);
      const photos = params.query?.shape ? server.portraits : server.photos;
      return ok({ id: 1, name: 'Autumn', recipes: [{ id: 7 }, { id: 8 }], photos, groups: [], formats: [], total: 6, rows: server.rows.filter((each) => photos.includes(each)).map(row) });
    },
    POST: (path: string, { body }: { body: unknown }) => {
      server.asked.push(body);
      return ok(path.endsWith('chosen') ? { cells: 10, hidden: 0, photos: 5, whole: true, unread: 1, renditions: 19, to_make: 19, open: 0, made: 0, excluded: 1, eye: 0, about: 800 } : []);
    },
  };
  return { ...(await original<object>()), api };
});

beforeEach(() => {
  vi.useFakeTimers();
  Object.assign(server, { photos: [1, 2, 3, 4, 5, 6], rows: [1, 2], asked: [] });
  return () => vi.useRealTimers();
});

async function loaded(): Promise<Choosing> {
  const board = new Choosing(1);
  await board.load();
  return board;
}

describe('what is chosen', () => {
  it('is counted here where its rows are, and by the server where they are not', async () => {
    const board = await loaded();
    expect(board.counts).toMatchObject({ to_make: 21 });
    board.click({ row: 0, column: 0 }, { shift: false, add: false });
    board.click({ row: 1, column: 1 }, { shift: true, add: false });
    expect(board.size).toBe(4);
    expect(board.counts).toMatchObject({ to_make: 6, excluded: 1, renditions: 6, whole: true, about: 300 });
    board.all();
    expect(board.counts).toBeUndefined(); // not known, so nothing is said
    await vi.advanceTimersByTimeAsync(200);
    expect(board.counts).toMatchObject({ to_make: 19, unread: 1 });
    expect(server.asked.at(-1)).toMatchObject({ areas: [{}] });
    board.clickRow(3, { shift: false, add: false });
    expect(board.counts).toBeUndefined(); // that answer was of another choice
  });

  it('is what is shown: a filter hides it, and it is there again after', async () => {
    const board = await loaded();
    board.all();
    await board.show({ shape: 'portrait' });
    expect([board.size, board.hidden]).toEqual([4, 8]);
    const chosen = board.chosen();
    expect(chosen.how).toMatchObject({ shape: 'portrait' });
    expect(chosen.areas?.every((area) => area.photos?.length)).toBe(true);
    await board.show({ shape: '' });
    expect([board.size, board.hidden]).toEqual([12, 0]);
  });

  it('is all that is shown where nothing is chosen and a filter is on, and everything without one', async () => {
    const board = await loaded();
    expect(board.chosen().areas).toBeNull();
    await board.show({ shape: 'portrait' });
    expect(board.chosen().areas).toEqual([{}]);
  });

  it('keeps the photos of a rectangle when another comes between, and loses none when a corner goes', async () => {
    const board = await loaded();
    board.click({ row: 1, column: 0 }, { shift: false, add: false });
    board.click({ row: 4, column: 0 }, { shift: true, add: false });
    expect([...board.picked.keys()]).toEqual([2, 3, 4, 5]);
    server.photos = [1, 3, 4, 5, 6]; // the corner was taken out
    await board.load();
    expect([...board.picked.keys()].filter((photo) => server.photos.includes(photo))).toEqual([3, 4, 5]);
  });

  it('follows rules, keys and single presses', async () => {
    const board = await loaded();
    await board.chooseBy('state', 'eye');
    expect([board.isChosen(4, 7), board.isChosen(4, 8), board.isChosen(6, 8)]).toEqual([true, true, false]);
    await board.chooseBy('shape', 'portrait');
    expect([...board.picked.keys()]).toEqual([2, 5]);
    board.click({ row: 1, column: 0 }, { shift: false, add: true });
    expect(board.isChosen(2, 7)).toBe(false);
    board.clear();
    expect(board.move('ArrowDown', false)).toBe(true);
    expect(board.move('ArrowRight', true)).toBe(true);
    expect(board.size).toBe(2);
    board.clickColumn(1, { shift: false, add: false });
    expect(board.size).toBe(6);
    expect(board.chosenOrFocus()).toMatchObject({ areas: [{ recipes: [8] }] });
    board.clear();
    expect(board.chosenOrFocus()).toMatchObject({ areas: [{ photos: [1], recipes: [8] }] });
  });

  it('grows with Shift from the cell that somebody came back to', async () => {
    const board = await loaded();
    board.stand({ row: 3, column: 0 });
    expect(board.move('ArrowDown', true)).toBe(true);
    expect([...board.picked.keys()]).toEqual([4, 5]);
    board.clear();
    expect(board.move('ArrowDown', true)).toBe(true);
    expect([...board.picked.keys()]).toEqual([5, 6]);
  });

  it('keeps the focus on its photo when others come before it', async () => {
    const board = await loaded();
    board.focus = { row: 2, column: 1 };
    server.photos = [9, 8, 1, 2, 3, 4, 5, 6];
    await board.load();
    expect(board.focus).toEqual({ row: 4, column: 1 });
  });
});
