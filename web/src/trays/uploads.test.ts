import { beforeEach, describe, expect, it, vi } from 'vitest';
import { uploads } from './uploads.svelte';

vi.mock('../api/client', async (original) => {
  const POST = (_: string, { body }: { body: { count: number } }) => {
    promised += body.count;
    return Promise.resolve({ data: { start: promised - body.count }, response: { ok: true, status: 200 } });
  };
  return { ...(await original<object>()), api: { POST } };
});
let promised = 0;

class Request {
  static all: Request[] = [];
  upload: { onprogress?: (event: { loaded: number }) => void } = {};
  onload?: () => void;
  onerror?: () => void;
  status = 200;
  response: unknown = {};
  responseType = '';
  open = vi.fn();
  setRequestHeader = vi.fn();
  send = vi.fn((_: unknown) => Request.all.push(this));

  answer(status: number, response: unknown = {}): void {
    this.status = status;
    this.response = response;
    this.onload?.();
  }
}

const file = (name: string) => ({ file: new File(['12345'], name), path: name });

beforeEach(() => {
  Request.all = [];
  uploads.all = [];
  vi.stubGlobal('XMLHttpRequest', Request);
});

describe('uploads', () => {
  it('sends three at a time, each by itself, and tells how far all are', async () => {
    await uploads.add({ id: 1, name: 'Here' }, ['a', 'b', 'c', 'd'].map(file));
    expect(Request.all).toHaveLength(3);
    Request.all[0]?.upload.onprogress?.({ loaded: 3 });
    expect([uploads.sent, uploads.total]).toEqual([3, 20]);
    Request.all[1]?.answer(200);
    expect(Request.all).toHaveLength(4);
    expect(uploads.done).toBe(1);
  });

  it('keeps what failed with its reason, and tries it again', async () => {
    await uploads.add({ id: 1, name: 'Here' }, [file('a'), file('b')]);
    Request.all[0]?.answer(413, { detail: 'a: expected at most 1000 MB.' });
    Request.all[1]?.onerror?.();
    expect(uploads.all.map((each) => each.reason)).toEqual(['a: expected at most 1000 MB.', 'The connection was lost. Try again.']);
    expect([uploads.failed, uploads.busy]).toEqual([2, false]);
    uploads.retry(uploads.all[0]);
    expect(Request.all).toHaveLength(3);
    Request.all[2]?.answer(200);
    expect([uploads.failed, uploads.done]).toEqual([1, 1]);
  });

  it('gives files places in the order of their names, before any is sent', async () => {
    promised = 40;
    await uploads.add({ id: 1, name: 'Here' }, ['shoot/c', 'shoot/a', 'shoot/b'].map((path) => ({ ...file('x'), path })));
    const sent = Request.all.map((each) => each.send.mock.calls[0]?.[0] as FormData);
    expect(sent.map((body) => [body.get('path'), body.get('place')])).toEqual([['shoot/a', '40'], ['shoot/b', '41'], ['shoot/c', '42']]);
  });
});
