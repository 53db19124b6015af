import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { connection } from '../shell/connection.svelte';
import { answered, csrf, fieldsOf, Problem, problemOf, sent, taken } from './client';

beforeEach(() => {
  vi.useFakeTimers();
  connection.came();
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

const response = (status: number) => ({ ok: status < 400, status }) as Response;
const problemWith = (work: Promise<unknown>) => work.then(() => undefined, (error: unknown) => error as Problem);

describe('an answer of the server', () => {
  it('is its data, or its problem in words', async () => {
    expect(await taken(Promise.resolve({ data: { id: 3 }, response: response(200) }))).toEqual({ id: 3 });
    const problem = await problemWith(taken(Promise.resolve({ error: { detail: 'Tray not found.' }, response: response(404) })));
    expect([problem?.message, problem?.status]).toEqual(['Tray not found.', 404]);
  });

  it('is asked to be tried again where the server says nothing that can be read', () => {
    expect(problemOf(502, '<html>').message).toBe('The server did not answer as it should. Try again.');
    expect(problemOf(500, null).fields).toEqual([]);
  });

  it('that does not come says so, and the page tells of it when that lasts', async () => {
    const problem = await problemWith(taken(Promise.reject(new TypeError('network'))));
    expect([problem?.status, problem?.message]).toEqual([0, 'The server cannot be reached. Is it still running?']);
    expect(connection.lost).toBe(false);
    await vi.advanceTimersByTimeAsync(1500);
    expect(connection.lost).toBe(true);
    await taken(Promise.resolve({ data: 1, response: response(200) }));
    expect(connection.lost).toBe(false);
  });

  it('that comes in between ends the waiting: a stream opened anew is no outage', async () => {
    connection.failed();
    await vi.advanceTimersByTimeAsync(1000);
    connection.came();
    await vi.advanceTimersByTimeAsync(5000);
    expect(connection.lost).toBe(false);
  });
});

describe('problems of fields', () => {
  const field = { field: 'size.pixels', expected: 'at most 30,000', found: '99,999', remedy: 'Type less.' };

  it('stand by their fields as sentences', () => {
    expect(fieldsOf(new Problem(422, 'no', [field]))).toEqual({ 'size.pixels': 'Expected at most 30,000, found 99,999. Type less.' });
  });

  it('are no hiding place for what else went wrong', () => {
    for (const error of [new Problem(409, 'changed', [field]), new Problem(422, 'no'), new Error('other')]) expect(() => fieldsOf(error)).toThrow(error);
  });
});

describe('an answer that is no JSON', () => {
  it('is refused in words, also where something between answers in its own markup', async () => {
    vi.stubGlobal('fetch', () => Promise.resolve(new Response('{"detail": "Photo not found."}', { status: 404 })));
    expect((await problemWith(answered('/api/pictures')))?.message).toBe('Photo not found.');
    vi.stubGlobal('fetch', () => Promise.resolve(new Response('<html>', { status: 502 })));
    expect((await problemWith(answered('/api/pictures')))?.message).toBe('The server did not answer as it should. Try again.');
  });

  it('tells an outage in words, and no outage where the page itself wants it no more', async () => {
    vi.stubGlobal('fetch', () => Promise.reject(new TypeError('Failed to fetch')));
    expect((await problemWith(answered('/api/pictures')))?.message).toBe('The server cannot be reached. Is it still running?');
    connection.came();
    vi.stubGlobal('fetch', () => Promise.reject(new DOMException('no longer', 'AbortError')));
    expect((await problemWith(answered('/api/pictures')))?.name).toBe('AbortError');
    await vi.advanceTimersByTimeAsync(5000);
    expect(connection.lost).toBe(false);
  });
});

describe('a file that is sent', () => {
  const file = new File(['x'], 'mark.svg');

  it('comes with its words and the token of the page', async () => {
    document.cookie = 'csrftoken=abc123';
    const fetched = vi.fn((_path: string, _how: RequestInit) => Promise.resolve(new Response('{"name": "mark.svg"}')));
    vi.stubGlobal('fetch', fetched);
    expect(await sent('/api/marks', file, { folder: 'hall' })).toEqual({ name: 'mark.svg' });
    const how = fetched.mock.calls[0]?.[1];
    const body = how?.body as FormData;
    expect([(body.get('file') as File).name, body.get('folder'), (how?.headers as Record<string, string>)['X-CSRFToken']]).toEqual(['mark.svg', 'hall', csrf()]);
    expect(csrf()).toBe('abc123');
  });

  it('is refused with the reason', async () => {
    vi.stubGlobal('fetch', () => Promise.resolve(new Response('{"detail": "That is no picture."}', { status: 422 })));
    expect((await problemWith(sent('/api/marks', file)))?.message).toBe('That is no picture.');
  });
});
