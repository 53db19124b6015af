import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { notices } from '../shell/notices.svelte';
import { server } from '../test/server';
import { makeAtOnce } from './quick';
import { uploads } from './uploads.svelte';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

const recipe = { id: 7, title: 'Gridwick' };
const files = ['hall/a.jpg', 'hall/b.jpg'].map((path) => ({ file: new File(['x'], path.slice(5)), path }));
const counts = { total: 2, open: 0, asking: 0, made: 2, failed: 0, kept: 0, stopped: 0 };
const away: string[] = [];
let reading = 0;
let runs: object[] = [];

beforeEach(() => {
  vi.useFakeTimers();
  notices.all = [];
  away.length = 0;
  reading = 2;
  runs = [{ id: 9, counts: { ...counts, open: 2, made: 0 } }, { id: 9, counts: { ...counts, open: 1, made: 1 } }, { id: 9, counts }];
  vi.spyOn(uploads, 'add').mockResolvedValue();
  vi.spyOn(HTMLAnchorElement.prototype, 'click').mockImplementation(function (this: HTMLAnchorElement) { away.push(this.getAttribute('href') ?? ''); });
  server.knows({
    'POST /api/trays': { id: 4, name: 'hall, Gridwick' },
    'GET /api/trays': [],
    'PUT /api/trays/{number}/recipes': {},
    'GET /api/trays/{number}/overview': () => ({ states: { reading: reading-- } }),
    'POST /api/trays/{number}/runs': { id: 9 },
    'GET /api/runs/{number}': () => runs.length > 1 ? runs.shift()! : runs[0]!,
  });
});
afterEach(() => {
  vi.restoreAllMocks();
  vi.useRealTimers();
});

async function dropped(given = files): Promise<string[]> {
  const done = makeAtOnce(recipe, given);
  await vi.advanceTimersByTimeAsync(5000);
  await done;
  return notices.all.map((each) => each.text);
}

describe('files dropped on a recipe', () => {
  it('are gathered, read, made and downloaded, in this order', async () => {
    expect(await dropped()).toEqual(['Making 2 photos by Gridwick; the download starts by itself', 'Made 2 files by Gridwick']);
    const calls = server.asked.map((each) => each.call.replace('/api/', ''));
    expect(calls.slice(0, 2)).toEqual(['POST trays', 'PUT trays/{number}/recipes']);
    expect(calls.filter((each) => each.endsWith('overview'))).toHaveLength(3); // until nothing is being read
    expect(calls.indexOf('POST trays/{number}/runs')).toBeGreaterThan(calls.lastIndexOf('GET trays/{number}/overview'));
    expect(away).toEqual(['/api/runs/9/zip']);
    expect(server.bodies('POST /api/trays')).toEqual([{ name: 'hall, Gridwick', folders: [] }]);
  });

  it('say what became of those that were not made', async () => {
    runs = [{ id: 9, counts: { ...counts, made: 0, failed: 1, asking: 1 } }];
    expect(await dropped()).toEqual(['Making 2 photos by Gridwick; the download starts by itself', '1 rendition waits for your answer', '1 rendition failed']);
    expect(away).toEqual([]); // there is nothing to download
  });

  it('make no tray where there is no photo among them', async () => {
    expect(await dropped([])).toEqual(['There is no photo in what you dropped.']);
    expect(server.asked).toEqual([]);
  });
});
