import { beforeEach, describe, expect, it, vi } from 'vitest';
import { undo } from '../shell/undo.svelte';
import { Refusal, server } from '../test/server';
import { SheetState } from './sheet.svelte';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

const SAVE = 'PUT /api/outlets/{number}';
const first = () => ({ outlet: 'Gridwick', uses: [{ use: 'Post', size: { width: 1080, height: 1080 } }, { use: 'Avatar', size: { width: 320, height: 320 } }] });
let kept = { id: 5, name: 'Gridwick', content: first() as Record<string, unknown>, version: 1 };

beforeEach(() => {
  kept = { id: 5, name: 'Gridwick', content: first(), version: 1 };
  sessionStorage.clear();
  undo.clear();
  server.knows({
    'GET /api/outlets/{number}': () => kept,
    [SAVE]: (ask) => {
      const given = ask.body as { content: Record<string, unknown>; version: number };
      if (given.version !== kept.version) throw new Refusal(409, { detail: 'Somebody else changed this sheet.' });
      kept = { ...kept, content: given.content, version: kept.version + 1 };
      return kept;
    },
  });
});

async function opened(): Promise<SheetState> {
  const sheet = new SheetState(5);
  await sheet.load();
  return sheet;
}

describe('a sheet of an outlet', () => {
  it('is changed use by use, typing in a field being one step', async () => {
    const sheet = await opened();
    sheet.at = 1;
    for (const width of [4, 40, 400]) sheet.setUse('size.width', width);
    sheet.setUse('size.height', 400);
    expect(sheet.use).toEqual({ use: 'Avatar', size: { width: 400, height: 400 } });
    expect((sheet.uses[0]?.['size'] as { width: number }).width).toBe(1080);
    sheet.steps.back();
    sheet.steps.back();
    expect(sheet.changed).toBe(false);
  });

  it('is saved over the version that it was begun on, and undone only where it still says so', async () => {
    const sheet = await opened();
    sheet.set('note', 'Cuts squares to their middle.');
    expect(await sheet.save()).toBe(true);
    expect((server.bodies(SAVE)[0] as { version: number }).version).toBe(1);
    expect([sheet.changed, sheet.steps.past, sessionStorage.getItem('upper-tray.outlet.5')]).toEqual([false, false, null]);
    const step = undo.steps.at(-1);
    expect(step).toMatchObject({ what: 'changed Gridwick', undo: [{ body: { content: first(), was: kept.content } }], redo: [{ body: { was: first() } }] });
  });

  it('keeps what is typed where somebody else was faster', async () => {
    const sheet = await opened();
    sheet.set('note', 'mine');
    kept = { ...kept, content: { ...first(), note: 'theirs' }, version: 2 };
    await sheet.load();
    expect(sheet.get('note')).toBe('mine');
    await expect(sheet.save()).rejects.toThrow('Somebody else');
    expect(sheet.get('note')).toBe('mine');
    sheet.drop();
    expect(sheet.get('note')).toBe('theirs');
    sheet.set('note', 'both');
    expect(await sheet.save()).toBe(true);
  });

  it('follows somebody else’s change where nothing was typed', async () => {
    const sheet = await opened();
    kept = { ...kept, content: { ...first(), note: 'theirs' }, version: 2 };
    await sheet.load();
    expect([sheet.get('note'), sheet.changed]).toEqual(['theirs', false]);
  });

  it('opens the use whose field is wrong, with the reason, until something is typed', async () => {
    const sheet = await opened();
    server.on(SAVE, () => { throw new Refusal(422, { detail: 'no', fields: [{ field: 'uses.1.size.width', expected: '1 or more', found: '0', remedy: 'Type a width.' }] }); });
    sheet.set('note', 'x');
    expect(await sheet.save()).toBe(false);
    expect([sheet.at, sheet.problems]).toEqual([1, { 'uses.1.size.width': 'Expected 1 or more, found 0. Type a width.' }]);
    sheet.setUse('size.width', 320);
    expect(sheet.problems).toEqual({});
  });

  it('has what was typed after a reload, unless the sheet is another one now', async () => {
    (await opened()).set('note', 'half a sent');
    expect((await opened()).get('note')).toBe('half a sent');
    kept = { ...kept, version: 2 };
    expect((await opened()).get('note')).toBeUndefined();
  });
});

describe('uses of a sheet', () => {
  it('begin as a copy of the one that is open, under names of their own', async () => {
    const sheet = await opened();
    sheet.addUse();
    sheet.addUse();
    expect(sheet.uses.map((use) => use['use'])).toEqual(['Post', 'Avatar', 'New use', 'New use 2']);
    sheet.setUse('size.width', 99);
    expect(sheet.uses.map((use) => (use['size'] as { width: number }).width)).toEqual([1080, 320, 1080, 99]);
    expect(sheet.keptUse).toBeUndefined(); // recipes know it once it is saved
  });

  it('go, and the one before is open then', async () => {
    const sheet = await opened();
    sheet.at = 1;
    sheet.removeUse();
    expect([sheet.uses.length, sheet.at, sheet.keptUse]).toEqual([1, 0, 'Post']);
  });
});
