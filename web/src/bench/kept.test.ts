import { beforeEach, describe, expect, it, vi } from 'vitest';

const server = vi.hoisted(() => ({ version: 0, outline: {} as Record<string, unknown>, tone: {} as Record<string, unknown>, sent: [] as { version: number }[] }));
vi.mock('../api/client', async (original) => {
  const ok = <T,>(data: T) => ({ data, response: new Response() });
  const photo = { id: 7, name: 'a.jpg', width: 900, height: 600 };
  const GET = (path: string) => Promise.resolve(ok(path.includes('outline') ? { photo, outline: server.outline, version: server.version, why: [], next: null, waiting: 0 } : { photo, tone: server.tone, looks: [], recipes: [], version: server.version, neutral: { exposure: 0, contrast: 0 }, near: [], next: null }));
  const PUT = (_: string, { body }: { body: { edits: { version: number; outline?: object; tone?: object }[] } }) => {
    const edit = body.edits[0];
    if (!edit) throw new Error('nothing was sent');
    server.sent.push(edit);
    if (edit.version !== server.version) throw new Error('Somebody else changed it');
    server.version += 1;
    if (edit.outline) server.outline = edit.outline as Record<string, unknown>;
    if (edit.tone) server.tone = edit.tone as Record<string, unknown>;
    return Promise.resolve(ok({ edits: [{ photo: 7, version: server.version }] }));
  };
  return { ...(await original<object>()), api: { GET, PUT } };
});

const { OutlineState } = await import('./outline.svelte');
const { ToneState } = await import('./tone.svelte');

const square = (x: number) => ({ paths: [[{ at: [x, 0.2] }, { at: [0.8, 0.2] }, { at: [0.5, 0.8] }]] });

beforeEach(() => {
  sessionStorage.clear();
  Object.assign(server, { version: 3, outline: square(0.2), tone: { exposure: 1 }, sent: [] });
});

describe('what is drawn and not kept', () => {
  it('is there on return, and after a reload', async () => {
    const one = new OutlineState(1, 7);
    await one.load();
    one.move({ path: 0, node: 0 }, [0.05, 0]);
    const other = new OutlineState(1, 7);
    await other.load();
    expect(other.changed).toBe(true);
    expect(other.shape).toEqual(one.shape);
    await other.keep();
    expect(server.sent.at(-1)?.version).toBe(3);
    expect(other.changed).toBe(false);
    const third = new OutlineState(1, 7);
    await third.load();
    expect(third.changed).toBe(false);
  });

  it('is not written over somebody else’s newer one, and stays', async () => {
    const outline = new OutlineState(1, 7);
    const tone = new ToneState(1, 7);
    for (const [state, change] of [[outline, () => outline.move({ path: 0, node: 0 }, [0.05, 0])], [tone, () => tone.set({ exposure: 2 })]] as const) {
      server.version = 3;
      await state.load();
      change();
      Object.assign(server, { version: 4, outline: square(0.4), tone: { exposure: -1 } });
      await state.load();
      await expect(state.keep()).rejects.toThrow('Somebody else');
      expect(server.sent.at(-1)?.version).toBe(3);
      expect(state.changed).toBe(true);
    }
  });

  it('gives way to a newer one where nothing was drawn', async () => {
    const one = new OutlineState(1, 7);
    await one.load();
    Object.assign(server, { version: 4, outline: square(0.4) });
    await one.load();
    expect(one.shape.paths[0]?.[0]?.at).toEqual([0.4, 0.2]);
    one.move({ path: 0, node: 0 }, [0.01, 0]);
    one.steps.back();
    expect(one.changed).toBe(false);
    expect(sessionStorage.length).toBe(0);
  });
});
