import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Framing, Tray } from '../api/client';
import { studio } from '../shell/studio.svelte';
import { undo } from '../shell/undo.svelte';
import { Refusal, server } from '../test/server';
import { Framings } from './framings';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

const framing: Framing = { name: 'close', x: 0.1, y: 0.1, width: 0.5, height: 0.5, angle: 0, turn: 0, recipe: null };
const changed = vi.fn(() => Promise.resolve());
const chosen = { all: false, rows: [], cells: [[3, 7]] } as never;

beforeEach(() => {
  undo.clear();
  changed.mockClear();
  studio.trays = [{ id: 1, name: 'Autumn rehang' } as Tray];
});

describe('framings of photos', () => {
  it('are given whole, and undone by giving the photo those it had', async () => {
    server.knows({ 'PUT /api/trays/{number}/framings': { photos: { 3: [] } } });
    await new Framings(1, changed).keep(3, [framing], 'framed dial.jpg');
    const step = undo.steps.at(-1);
    expect(step).toMatchObject({ what: 'framed dial.jpg', place: 'Autumn rehang', at: '/trays/1' });
    expect(step?.undo).toEqual([{ method: 'PUT', path: '/api/trays/1/framings', body: { photos: { 3: [] } } }]);
    expect(step?.redo).toEqual([{ method: 'PUT', path: '/api/trays/1/framings', body: { photos: { 3: [framing] } } }]);
    expect(changed).toHaveBeenCalledOnce();
  });

  it('put nothing on the list of undo where the server refused them', async () => {
    server.knows({ 'PUT /api/trays/{number}/framings': () => { throw new Refusal(422, { detail: 'The framing lies outside the photo.' }); } });
    await expect(new Framings(1, changed).keep(3, [framing], 'framed')).rejects.toThrow('outside the photo');
    expect([undo.steps.length, changed.mock.calls.length]).toEqual([0, 0]);
  });

  it('by a place say how many cells they framed, and how many have no crop', async () => {
    server.knows({ 'POST /api/trays/{number}/anchor': { photos: {}, framed: 8, uncropped: 48 } });
    const framings = new Framings(1, changed);
    expect(await framings.byAnchor(chosen, 'top', 'top')).toBe('8 framed, 48 have no crop');
    expect(undo.steps.at(-1)?.what).toBe('framed 8 cells by the top');
    server.on('POST /api/trays/{number}/anchor', { photos: {}, framed: 1, uncropped: 1 });
    expect(await framings.byAnchor(chosen, 'top', 'top')).toBe('1 framed, 1 has no crop');
    server.on('POST /api/trays/{number}/anchor', { photos: {}, framed: 3, uncropped: 0 });
    expect(await framings.byAnchor(chosen, 'middle', 'middle')).toBe('3 framed');
  });

  it('carried to similar photos can be done again with the very same ones', async () => {
    server.knows({ 'POST /api/trays/{number}/carry': { photos: { 4: [], 5: [] }, framed: 2 } });
    expect(await new Framings(1, changed).carry(3, framing, { photos: [4, 5] } as never)).toBe('2 framed');
    expect(undo.steps.at(-1)).toMatchObject({
      what: 'framed 2 photos alike',
      undo: [{ method: 'PUT', body: { photos: { 4: [], 5: [] } } }],
      redo: [{ method: 'POST', path: '/api/trays/1/carry', body: { photos: [4, 5], source: 3, framing } }],
    });
  });
});
