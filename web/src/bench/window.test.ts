import { describe, expect, it } from 'vitest';
import { panned, windowFor } from './geometry';

const SIZE = { width: 1600, height: 1067 };
const ROOM = { width: 600, height: 500 };

describe('a window on a rendition', () => {
  it('shows as many of its pixels as there is room for, and never beyond its edges', () => {
    expect(windowFor(SIZE, ROOM, 1, { x: 0.5, y: 0.5 })).toEqual({ x: 500, y: 284, width: 600, height: 500 });
    expect(windowFor(SIZE, ROOM, 2, { x: 0, y: 1 })).toEqual({ x: 0, y: 817, width: 300, height: 250 });
    expect(windowFor({ width: 90, height: 60 }, ROOM, 1, { x: 0.9, y: 0.1 })).toEqual({ x: 0, y: 0, width: 90, height: 60 });
  });

  it('follows the hand pixel for pixel, and stops at the edge', () => {
    const part = windowFor(SIZE, ROOM, 2, { x: 0.5, y: 0.5 });
    const moved = windowFor(SIZE, ROOM, 2, panned(part, { x: -40, y: 20 }, 2, SIZE));
    expect([moved.x - part.x, moved.y - part.y]).toEqual([20, -10]);
    const far = windowFor(SIZE, ROOM, 2, panned(part, { x: 99_999, y: -99_999 }, 2, SIZE));
    expect([far.x, far.y]).toEqual([0, SIZE.height - far.height]);
  });
});
