import { describe, expect, it } from 'vitest';
import type { Framing } from '../api/client';
import { moved, onStage, pulled, quarter, sizeOf, zoomed } from './geometry';

const photo = { width: 6000, height: 4000 };
const view = { middle: { x: 450, y: 300 }, scale: 0.1 };
const square: Framing = { name: '', x: 0.1, y: 0.2, width: 0.4, height: 0.6, angle: 0, turn: 0, recipe: null };
const ratioOf = (framing: Framing) => sizeOf(framing, photo).width / sizeOf(framing, photo).height;

describe('a framing on the stage', () => {
  it('lies where its shares say', () => {
    expect(onStage(square, photo, view)).toEqual({ middle: { x: 330, y: 300 }, width: 240, height: 240 });
  });

  it('is moved by what the mouse moves, whatever it is turned by', () => {
    for (const turn of [0, 90, 180, 270]) {
      for (const angle of [0, 12, -30]) {
        const framing = { ...square, turn, angle };
        const before = onStage(framing, photo, view).middle;
        const after = onStage(moved(framing, { x: 13, y: -7 }, photo, view), photo, view).middle;
        expect(after.x - before.x).toBeCloseTo(13, 6);
        expect(after.y - before.y).toBeCloseTo(-7, 6);
      }
    }
  });

  it('keeps its middle on the photo', () => {
    const far = moved(square, { x: 10_000, y: 0 }, photo, view);
    expect(far.x + far.width / 2).toBeCloseTo(1);
  });

  it('keeps its shape and its far corner when a corner is pulled', () => {
    for (const turn of [0, 90]) {
      const framing = { ...square, turn };
      const before = onStage(framing, photo, view);
      const pull = pulled(framing, { x: 1, y: 1 }, { x: 60, y: 20 }, photo, view, 1);
      const after = onStage(pull, photo, view);
      expect(after.width).toBeCloseTo(300);
      expect(after.height).toBeCloseTo(300);
      expect(after.middle.x - after.width / 2).toBeCloseTo(before.middle.x - before.width / 2);
      expect(after.middle.y - after.height / 2).toBeCloseTo(before.middle.y - before.height / 2);
    }
    const free = pulled(square, { x: -1, y: 1 }, { x: -60, y: 20 }, photo, view, null);
    expect(sizeOf(free, photo)).toEqual({ width: expect.closeTo(3000) as number, height: expect.closeTo(2600) as number });
  });

  it('is zoomed around its middle, and no smaller than can be used', () => {
    const half = zoomed(square, 0.5, photo);
    expect(half.x + half.width / 2).toBeCloseTo(0.3);
    expect(sizeOf(half, photo).width).toBeCloseTo(1200);
    expect(sizeOf(zoomed(square, 1e-9, photo), photo).width).toBeCloseTo(60);
  });

  it('is laid on its side by a quarter turn, inside the photo', () => {
    const wide: Framing = { ...square, x: 0, y: 0.25, width: 1, height: 0.5 };
    const turned = quarter(wide, photo, 3);
    expect(turned.turn).toBe(90);
    expect(ratioOf(turned)).toBeCloseTo(1 / 3);
    expect(turned.y).toBeGreaterThanOrEqual(0);
    expect(turned.y + turned.height).toBeLessThanOrEqual(1 + 1e-9);
    expect(quarter({ ...turned, turn: 270 }, photo, 3).turn).toBe(0);
  });
});
