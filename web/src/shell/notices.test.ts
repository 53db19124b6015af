import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Problem } from '../api/client';
import { busy, notices, say, settled, showing, trying } from './notices.svelte';

beforeEach(() => vi.useFakeTimers());
afterEach(() => {
  vi.advanceTimersByTime(60_000);
  vi.useRealTimers();
});

const texts = () => notices.all.map((each) => each.text);

describe('what is said in the corner', () => {
  it('goes by itself, bad news and ways to somewhere more slowly', () => {
    say('Copied the path');
    say('The disk is full', { bad: true });
    say('Made 4 files', { link: { to: '/runs/3', text: 'Open the run' } });
    vi.advanceTimersByTime(4_000);
    expect(texts()).toEqual(['The disk is full', 'Made 4 files']);
    vi.advanceTimersByTime(8_000);
    expect(texts()).toEqual([]);
  });

  it('stays as long as it takes to read', () => {
    say('2 files of the folder are no pictures and were left out: list.csv, notes.txt');
    vi.advanceTimersByTime(5_000);
    expect(notices.all).toHaveLength(1);
    vi.advanceTimersByTime(3_000);
    expect(notices.all).toHaveLength(0);
  });

  it('says what went wrong with what was asked for, and no second time that the server is away where it was only looked at', async () => {
    const away = () => Promise.reject(new Problem(0, 'The server cannot be reached.'));
    await showing(away);
    expect(texts()).toEqual([]);
    await trying(away);
    await showing(() => Promise.reject(new Problem(404, 'Photo not found.')));
    expect(texts()).toEqual(['The server cannot be reached.', 'Photo not found.']);
  });

  it('counts what is said again instead of piling it up, and begins its time anew', () => {
    say('Nothing left to undo');
    vi.advanceTimersByTime(3_000);
    say('Nothing left to undo');
    expect(notices.all.map((each) => [each.text, each.times])).toEqual([['Nothing left to undo', 2]]);
    vi.advanceTimersByTime(3_000);
    expect(texts()).toHaveLength(1);
    vi.advanceTimersByTime(1_000);
    expect(texts()).toEqual([]);
  });

  it('is three things at most, the newest', () => {
    for (const text of ['one', 'two', 'three', 'four']) say(text);
    expect(texts()).toEqual(['two', 'three', 'four']);
  });
});

describe('work that somebody asked for', () => {
  const after = (ms: number) => new Promise<void>((done) => setTimeout(done, ms));

  it('is seen to go on only when it takes longer than 300 ms', async () => {
    const quick = trying(() => after(200));
    await vi.advanceTimersByTimeAsync(200);
    expect(busy.long).toBe(0);
    await quick;
    const slow = [trying(() => after(1000)), trying(() => after(500))];
    await vi.advanceTimersByTimeAsync(299);
    expect(busy.long).toBe(0);
    await vi.advanceTimersByTimeAsync(2);
    expect(busy.long).toBe(2);
    await vi.advanceTimersByTimeAsync(300);
    expect(busy.long).toBe(1);
    await vi.advanceTimersByTimeAsync(500);
    await Promise.all(slow);
    expect(busy.long).toBe(0);
  });

  it('says what went wrong, and is over then', async () => {
    const failed = trying(() => Promise.reject(new Error('The name is taken.')));
    await failed;
    expect(notices.all.at(-1)).toMatchObject({ text: 'The name is taken.', bad: true });
    expect(busy.long).toBe(0);
  });

  it('is waited for by what counts on it; what is only looked at is not', async () => {
    const seen: string[] = [];
    void trying(async () => {
      await after(100);
      seen.push('kept');
    });
    void showing(async () => {
      await after(5000);
      seen.push('shown');
    });
    const waited = settled().then(() => seen.push('undone'));
    await vi.advanceTimersByTimeAsync(150);
    await waited;
    expect(seen).toEqual(['kept', 'undone']);
  });
});
