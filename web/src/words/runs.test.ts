import { expect, test } from 'vitest';
import { going, stand, worked } from './runs';

const none = { total: 0, open: 0, asking: 0, made: 0, failed: 0, kept: 0, stopped: 0 };
const run = (counts: Partial<typeof none>, finished = false, stop_asked = false, seconds_left: number | null = null) => ({
  counts: { ...none, ...counts },
  finished: finished ? '2031-10-14T10:00:00Z' : null,
  stop_asked,
  seconds_left,
});

test('a run that was stopped does not say that all of it is done', () => {
  const stopped = run({ total: 425, made: 125, stopped: 300 }, true, true);
  expect(stand(stopped)).toBe('125 made, 300 stopped');
  expect(worked(stopped.counts)).toBe(125);
  expect(going(stopped)).toBe(false);
});

test('a run of which the rest waits for a crop is done but for that', () => {
  const waiting = run({ total: 40, made: 32, asking: 8 });
  expect(stand(waiting)).toBe('done but for 8');
  expect(going(waiting)).toBe(false);
});

test('a run that is worked on tells how far it is', () => {
  expect(stand(run({ total: 40, made: 10, failed: 1, open: 21, asking: 8 }, false, false, 75))).toBe('10 made, 1 failed, 21 to go · 1 min left');
  expect(stand(run({ total: 40, made: 10, open: 30 }, false, true, 75))).toBe('10 made, 30 to go · stopping…');
  expect(going(run({ total: 40, open: 40 }))).toBe(true);
});

test('what failed or was kept is said at the end', () => {
  expect(stand(run({ total: 6, made: 3, kept: 2, failed: 1 }, true))).toBe('3 made, 2 kept, 1 failed');
});
