import { beforeEach, describe, expect, it, vi } from 'vitest';
import { undo } from '../shell/undo.svelte';
import { Refusal, server } from '../test/server';
import { NUMBERS, RAW_NUMBERS, ToneState, told, within } from './tone.svelte';

vi.mock('../api/client', async (original) => ({ ...(await original<object>()), api: (await import('../test/server')).server.api }));

const NEUTRAL = { exposure: 0, contrast: 0, saturation: 0, temperature: 0, tint: 0, curve: [], balance: 'shot', mirror: false };
let kept = { tone: { exposure: 0.5 } as object, looks: [] as object[], version: 4 };
const photo = { id: 9, name: 'lark.dng', width: 6000, height: 4000 };

beforeEach(() => {
  kept = { tone: { exposure: 0.5 }, looks: [], version: 4 };
  sessionStorage.clear();
  undo.clear();
  vi.useRealTimers();
  server.knows({
    'GET /api/trays/{number}/tone/{photo}': () => ({ photo, ...kept, neutral: NEUTRAL, raw: true, patch: 0.012, recipes: [{ id: 7, title: 'Gridwick' }, { id: 8, title: 'Dailyloom' }], near: [], next: null }),
    'PUT /api/trays/{number}/tones': (ask) => {
      const edit = (ask.body as { edits: { tone: object; looks: object[]; version: number }[] }).edits[0];
      if (!edit || edit.version !== kept.version) throw new Refusal(409, { detail: 'Somebody else changed its tone.' });
      const before = { photo: photo.id, tone: kept.tone, looks: kept.looks, version: kept.version + 1 };
      kept = { tone: edit.tone, looks: edit.looks, version: kept.version + 1 };
      return { edits: [before] };
    },
  });
});

async function opened(recipe = 0): Promise<ToneState> {
  const state = new ToneState(1, 9, recipe);
  await state.load();
  return state;
}

describe('numbers of a tone', () => {
  it('stay between their ends and at their places', () => {
    const [exposure, light] = NUMBERS as [(typeof NUMBERS)[0], (typeof NUMBERS)[0]];
    expect(within(exposure, 7)).toBe(5);
    expect(within(exposure, -0.333)).toBe(-0.33);
    expect(within(light, -140)).toBe(-100);
    expect(Object.is(within(light, -0.2), 0)).toBe(true); // no −0 on the screen
    expect(within(RAW_NUMBERS[0]!, -5)).toBe(0);
  });

  it('are told by their distance from neutral', () => {
    const [exposure, light] = NUMBERS as [(typeof NUMBERS)[0], (typeof NUMBERS)[0]];
    expect([told(exposure, 0), told(exposure, 1.5), told(exposure, -0.05), told(light, 20)]).toEqual(['0.00', '+1.50', '−0.05', '+20']);
  });
});

describe('a tone that is tried', () => {
  it('is one step while a hand draws along a number, and another one for the next', async () => {
    const state = await opened();
    for (const exposure of [0.6, 0.7, 0.8]) state.set({ exposure });
    for (const contrast of [5, 10]) state.set({ contrast });
    expect(state.number('exposure')).toBe(0.8);
    state.steps.back();
    expect([state.number('contrast'), state.number('exposure')]).toEqual([0, 0.8]);
    state.steps.back();
    expect(state.number('exposure')).toBe(0.5);
    expect([state.changed, state.steps.past]).toEqual([false, false]);
    state.steps.forth();
    state.steps.forth();
    expect([state.number('contrast'), state.number('exposure')]).toEqual([10, 0.8]);
  });

  it('says nothing of what is neutral', async () => {
    const state = await opened();
    state.set({ exposure: 0, contrast: 0, curve: [], mirror: false });
    expect(state.tone).toEqual({});
    expect(state.neutral).toBe(true);
    expect(state.changed).toBe(true); // the kept one had an exposure
    state.set({ balance: 'shade' });
    expect(state.tone).toEqual({ balance: 'shade' });
  });

  it('goes back to neutral in one step that can be undone', async () => {
    const state = await opened();
    state.set({ contrast: 30 });
    state.setNeutral();
    expect(state.tone).toEqual({});
    state.steps.back();
    expect(state.tone).toEqual({ exposure: 0.5, contrast: 30 });
  });

  it('takes a proposal as values to change, and keeps nothing by itself', async () => {
    server.on('GET /api/trays/{number}/tone/{photo}/proposal', { exposure: 0.35, temperature: -12 });
    const state = await opened();
    state.set({ saturation: 40 });
    await state.propose();
    expect(state.tone).toEqual({ exposure: 0.35, temperature: -12 });
    expect(server.bodies('PUT /api/trays/{number}/tones')).toEqual([]);
    state.steps.back();
    expect(state.tone).toEqual({ exposure: 0.5, saturation: 40 });
  });

  it('makes what lies somewhere grey, of the picture as it is seen now', async () => {
    server.on('POST /api/trays/{number}/tone/{photo}/grey', { temperature: 14, tint: -3 });
    const state = await opened();
    state.set({ contrast: 10 });
    await state.grey(0.25, 0.75);
    expect(server.bodies('POST /api/trays/{number}/tone/{photo}/grey')).toEqual([{ x: 0.25, y: 0.75, tone: { exposure: 0.5, contrast: 10 } }]);
    expect([state.number('temperature'), state.number('tint')]).toEqual([14, -3]);
  });
});

describe('keeping a tone', () => {
  it('says which version it changes, and gives undo the one before', async () => {
    const state = await opened();
    state.set({ exposure: 1 });
    await state.keep();
    expect(server.bodies('PUT /api/trays/{number}/tones')).toEqual([{ edits: [{ photo: 9, tone: { exposure: 1 }, looks: [], version: 4 }] }]);
    expect(state.changed).toBe(false);
    expect(sessionStorage.getItem('upper-tray.looks.9')).toBeNull();
    expect(undo.steps.at(-1)?.what).toBe('gave lark.dng its tone');
  });

  it('asks nothing where nothing was changed', async () => {
    const state = await opened();
    await state.keep();
    expect(server.bodies('PUT /api/trays/{number}/tones')).toEqual([]);
  });

  it('leaves what is tried where somebody else was faster', async () => {
    const state = await opened();
    state.set({ exposure: 2 });
    kept = { ...kept, tone: { exposure: -1 }, version: 5 };
    await expect(state.keep()).rejects.toThrow('Somebody else changed its tone.');
    expect(state.number('exposure')).toBe(2);
    expect(undo.steps).toEqual([]);
  });

  it('gives other photos the values that were chosen, neutral ones too', async () => {
    server.on('POST /api/trays/{number}/tones/given', { edits: [{ photo: 3 }, { photo: 5 }] });
    const state = await opened();
    expect(await state.give([3, 5], ['exposure', 'tint'])).toBe(2);
    expect(server.bodies('POST /api/trays/{number}/tones/given')).toEqual([{ photos: [3, 5], values: { exposure: 0.5, tint: 0 } }]);
    expect(undo.steps.at(-1)?.what).toBe('gave its tone to 2 photos');
  });

  it('puts nothing on the list of undo where no photo was changed', async () => {
    server.on('POST /api/trays/{number}/tones/given', { edits: [] });
    expect(await (await opened()).give([3], ['exposure'])).toBe(0);
    expect(undo.steps).toEqual([]);
  });
});

describe('looks of a photo', () => {
  it('begin as the one that is seen, under a name of their own', async () => {
    const state = await opened();
    state.add();
    state.set({ contrast: 25 });
    state.add();
    expect(state.looks.map((look) => look.title)).toEqual(['', 'Look', 'Look 2']);
    expect(state.looks.map((look) => look.values['contrast'] ?? 0)).toEqual([0, 25, 25]);
    expect(state.at).toBe(2);
  });

  it('are for one recipe each: tying one to it unties the other', async () => {
    const state = await opened();
    state.add();
    state.tie(7, true);
    state.add();
    state.tie(7, true);
    expect(state.looks.map((look) => look.recipes)).toEqual([[], [], [7]]);
    state.tie(7, false);
    expect(state.looks.map((look) => look.recipes)).toEqual([[], [], []]);
  });

  it('come first where the page was opened for their recipe', async () => {
    kept.looks = [{ title: 'Warm', recipes: [8], tone: { temperature: 20 } }];
    const state = await opened(8);
    expect([state.at, state.look.title, state.number('temperature')]).toEqual([1, 'Warm', 20]);
    expect((await opened(7)).at).toBe(0);
  });

  it('are taken away and brought back as a step', async () => {
    kept.looks = [{ title: 'Warm', recipes: [8], tone: { temperature: 20 } }];
    const state = await opened(8);
    state.remove();
    expect([state.looks.length, state.at]).toEqual([1, 0]);
    state.steps.back();
    expect(state.looks[1]?.title).toBe('Warm');
    expect(state.changed).toBe(false);
  });
});
