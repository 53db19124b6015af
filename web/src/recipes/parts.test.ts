import { beforeEach, describe, expect, it, vi } from 'vitest';
import { undo } from '../shell/undo.svelte';
import { Refusal, server } from '../test/server';
import { deletePart, makePart, renamePart, setPart, type SavedPart } from './parts';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

const part = { id: 3, station: 'finish', name: 'Credit line', setting: { marks: [{ text: '©' }] }, version: 4, used: [{ id: 7, title: 'Gridwick' }, { id: 9, title: 'Journal' }] } as unknown as SavedPart;
const last = () => undo.steps.at(-1);

beforeEach(() => undo.clear());

describe('a part that recipes share', () => {
  it('is changed over the version it began from; undo and redo each know theirs', async () => {
    server.knows({ 'PUT /api/parts/{number}': [part] });
    const next = { marks: [{ text: '© {creator}' }] };
    await setPart(part, next, '/marks');
    expect(server.bodies('PUT /api/parts/{number}')).toEqual([{ setting: next, version: 4 }]);
    expect(last()).toMatchObject({
      what: 'changed Credit line',
      undo: [{ method: 'PUT', path: '/api/parts/3', body: { setting: part.setting, version: 5 } }],
      redo: [{ method: 'PUT', path: '/api/parts/3', body: { setting: next, version: 6 } }],
    });
  });

  it('is not put on the list of undo where it was not taken', async () => {
    server.knows({ 'PUT /api/parts/{number}': () => { throw new Refusal(409, { detail: 'Credit line was changed meanwhile.' }); } });
    await expect(setPart(part, {}, '/marks')).rejects.toThrow('changed meanwhile');
    expect(undo.steps).toEqual([]);
  });

  it('gets its old name back', async () => {
    server.knows({ 'PUT /api/parts/{number}': [part] });
    await renamePart(part, 'Copyright', '/marks');
    expect(last()).toMatchObject({ what: 'renamed Credit line', undo: [{ body: { name: 'Credit line' } }], redo: [{ body: { name: 'Copyright' } }] });
  });

  it('comes back with the recipes that followed it', async () => {
    server.knows({ 'DELETE /api/parts/{number}': {} });
    await deletePart(part, '/marks');
    expect(last()?.undo).toEqual([{ method: 'POST', path: '/api/parts/again', body: { station: 'finish', name: 'Credit line', setting: part.setting, recipes: [7, 9] } }]);
    expect(last()?.redo).toEqual([]);
  });

  it('that was made is deleted by undo, by the number it was given', async () => {
    server.knows({ 'POST /api/parts/again': [{ ...part, id: 1, name: 'Border' }, { ...part, id: 12 }] });
    await makePart('finish', 'Credit line', '/marks', {});
    expect(last()?.undo).toEqual([{ method: 'DELETE', path: '/api/parts/12' }]);
  });
});
