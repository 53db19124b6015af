import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { onHint, paced, startLive, type Hint } from './live';

class Source {
  static last: Source;
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
