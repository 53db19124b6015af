import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { connection } from '../shell/connection.svelte';
import { Problem } from './client';
import { notices } from '../shell/notices.svelte';
import { onHint, paced, startLive, type Hint } from './live';

class Source {
  static readonly CONNECTING = 0;
  static last: Source;
  readyState = Source.CONNECTING;
  onopen?: () => void;
  onmessage?: (event: { data: string }) => void;
  onerror?: () => void;
  closed = false;

  constructor(readonly url: string) {
    Source.last = this;
  }

  close(): void {
    this.closed = true;
  }
}

beforeEach(() => {
  vi.useFakeTimers();
  vi.stubGlobal('EventSource', Source);
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe('hints', () => {
  it('are passed on, and polling takes their place while there is no stream', () => {
    const heard: Hint[] = [];
    const off = onHint((hint) => heard.push(hint));
    const stop = startLive();
    vi.advanceTimersByTime(2100);
    expect(heard).toEqual([{ kind: 'resync', id: 0 }]);
    Source.last.onopen?.();
    vi.advanceTimersByTime(2500);
    Source.last.onmessage?.({ data: '{"kind":"run","id":7}' });
    vi.advanceTimersByTime(10_000);
    expect(heard.slice(1)).toEqual([
      { kind: 'resync', id: 0 },
      { kind: 'run', id: 7 },
    ]);
    Source.last.onerror?.();
    vi.advanceTimersByTime(2100);
    expect(heard).toHaveLength(4);
    stop();
    off();
    expect(Source.last.closed).toBe(true);
  });
});

describe('a server that was away', () => {
  it('is asked for a new stream where the old one may be dead, and anything may have changed since', async () => {
    const heard: Hint[] = [];
    const off = onHint((hint) => heard.push(hint));
    const stop = startLive();
    const first = Source.last;
    first.readyState = 1;
    first.onopen?.();
    await vi.advanceTimersByTimeAsync(3000);
    connection.failed(); // a request did not come through
    await vi.advanceTimersByTimeAsync(1400);
    expect(connection.lost).toBe(false);
    await vi.advanceTimersByTimeAsync(1200);
    expect(connection.lost).toBe(true);
    expect(Source.last).not.toBe(first);
    heard.length = 0;
    Source.last.onopen?.();
    await vi.advanceTimersByTimeAsync(0);
    expect(connection.lost).toBe(false);
    expect(heard).toEqual([{ kind: 'back', id: 0 }, { kind: 'resync', id: 0 }]);
    stop();
    off();
  });

  it('is no reason to say anything more than once', async () => {
    const load = paced(() => Promise.reject(new Problem(0, 'The server cannot be reached.')), 10);
    load();
    await vi.advanceTimersByTimeAsync(50);
    expect(notices.all).toEqual([]);
    paced(() => Promise.reject(new Problem(409, 'Changed meanwhile')), 10)();
    await vi.advanceTimersByTimeAsync(50);
    expect(notices.all.map((each) => each.text)).toEqual(['Changed meanwhile']);
  });
});

describe('paced work', () => {
  it('is done once for many calls, and once more for calls that come meanwhile', async () => {
    let finish: () => void = () => undefined;
    const work = vi.fn(() => new Promise<void>((done) => (finish = done)));
    const call = paced(work, 100);
    call();
    call();
    await vi.advanceTimersByTimeAsync(100);
    expect(work).toHaveBeenCalledTimes(1);
    call();
    await vi.advanceTimersByTimeAsync(100);
    expect(work).toHaveBeenCalledTimes(1);
    finish();
    await vi.advanceTimersByTimeAsync(400);
    expect(work).toHaveBeenCalledTimes(2);
  });
});
