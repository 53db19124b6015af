import { beforeEach, describe, expect, it, vi } from 'vitest';
import { Link, Refused, weight, type Room, type Thing } from './room.svelte';

const thing = { id: 4, name: 'hall.jpg', says: null, comments: [] } as unknown as Thing;
const room = { kind: 'proof', name: 'Spring', done: true, things: [thing] } as unknown as Room;
let asked: { url: string; method: string; body: unknown }[] = [];
let answer: () => Response = () => Response.json(room);

beforeEach(() => {
  asked = [];
  answer = () => Response.json(room);
  vi.stubGlobal('fetch', async (url: string, init: RequestInit) => {
    asked.push({ url, method: init.method ?? '', body: init.body ? JSON.parse(String(init.body)) : undefined });
    return Promise.resolve(answer());
  });
});

describe('a link', () => {
  const link = () => new Link({ pathname: '/proof/12', hash: '#s3cret' });

  it('brings its secret in a body, and never in an address', async () => {
    const one = link();
    await one.open('Odile', '');
    expect(asked).toEqual([{ url: '/guest/12/open', method: 'POST', body: { secret: 's3cret', name: 'Odile', passphrase: '' } }]);
    expect(one.room?.name).toBe('Spring');
  });

  it('comes back by its cookie, or asks to be opened', async () => {
    expect(await link().back()).toBe(true);
    answer = () => Response.json({ detail: 'Open it again' }, { status: 401 });
    expect(await link().back()).toBe(false);
    answer = () => Response.json({ detail: 'Ended' }, { status: 410 });
    await expect(link().back()).rejects.toMatchObject({ status: 410, message: 'Ended' });
  });

  it('shows what is said at once, and takes it back where the server does not know of it', async () => {
    const one = link();
    await one.back();
    answer = () => new Response(null, { status: 204 });
    await one.say(thing, 'yes');
    expect([one.room?.things[0]?.says, one.room?.done]).toEqual(['yes', false]);
    answer = () => Response.json({ detail: 'Too many tries' }, { status: 429 });
    const now = one.room?.things[0];
    if (!now) throw new Error('it is gone');
    await expect(one.say(now, 'no')).rejects.toBeInstanceOf(Refused);
    expect(one.room?.things[0]?.says).toBe('yes');
  });

  it('keeps comments with their spots', async () => {
    const one = link();
    await one.back();
    answer = () => Response.json({ id: 1, by: 'Odile', mine: true, text: 'Here', x: 0.5, y: 0.25 });
    await one.write(thing, 'Here', { x: 0.5, y: 0.25 });
    expect(asked.at(-1)?.body).toEqual({ text: 'Here', x: 0.5, y: 0.25 });
    const [comment] = one.room?.things[0]?.comments ?? [];
    if (!comment) throw new Error('it is gone');
    answer = () => new Response(null, { status: 204 });
    await one.unwrite(thing, comment);
    expect(one.room?.things[0]?.comments).toEqual([]);
  });

  it('tells weights as phones do', () => {
    expect([weight(400), weight(168_400), weight(7_900_000), weight(996_000)]).toEqual(['1 kB', '168 kB', '7.9 MB', '1.0 MB']);
  });
});
