import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Steps } from './steps.svelte';

describe('steps', () => {
  beforeEach(() => vi.useFakeTimers());
  afterEach(() => vi.useRealTimers());

  function started(): { steps: Steps<number>; value: () => number } {
    let value = 0;
    return { steps: new Steps(() => value, (next) => (value = next)), value: () => value };
  }

  it('go back and forth', () => {
    const { steps, value } = started();
    steps.set(1, 'a');
    steps.set(2, 'b');
    steps.back();
    expect(value()).toBe(1);
    steps.back();
    steps.back();
    expect([value(), steps.past, steps.future]).toEqual([0, false, true]);
    steps.forth();
    steps.forth();
    steps.forth();
    expect([value(), steps.past, steps.future]).toEqual([2, true, false]);
    steps.back();
    steps.set(7, 'c');
    expect(steps.future).toBe(false);
  });

  it('are one while a hand draws, and several when it rests or changes something else', () => {
    const { steps, value } = started();
    for (const next of [1, 2, 3]) steps.set(next, 'a');
    steps.back();
    expect(value()).toBe(0);
    steps.set(1, 'a');
    vi.advanceTimersByTime(800);
    steps.set(2, 'a');
    steps.set(3);
    steps.set(4);
    for (const expected of [3, 2, 1, 0]) {
      steps.back();
      expect(value()).toBe(expected);
    }
  });

  it('are forgotten once the value is kept', () => {
    const { steps } = started();
    steps.set(1);
    steps.forget();
    expect([steps.past, steps.future]).toEqual([false, false]);
  });
});
