import { describe, expect, it } from 'vitest';
import { sameLooks, sentLooks, tied, toneOf, type Look } from './looks';

const NEUTRAL = { exposure: 0, balance: 'shot', mirror: false, curve: [] as [number, number][] };
const look = (title: string, recipes: number[] = [], values = {}): Look => ({ title, recipes, values: { ...NEUTRAL, ...values } });

describe('looks of a photo', () => {
  it('are sent without what is neutral', () => {
    expect(toneOf({ ...NEUTRAL, exposure: 0.5, mirror: true }, NEUTRAL)).toEqual({ exposure: 0.5, mirror: true });
    const looks = [look(''), look('Evening', [3], { balance: 'shade' })];
    expect(sentLooks(looks, NEUTRAL)).toEqual({ tone: {}, looks: [{ title: 'Evening', recipes: [3], tone: { balance: 'shade' } }] });
  });

  it('have a recipe once', () => {
    const looks = [look(''), look('Evening', [3, 4]), look('Grey')];
    expect(tied(looks, 2, 3, true).map((each) => each.recipes)).toEqual([[], [4], [3]]);
    expect(tied(looks, 1, 3, false).map((each) => each.recipes)).toEqual([[], [4], []]);
  });

  it('differ by title, recipes and values', () => {
    const looks = [look(''), look('Evening', [3])];
    expect(sameLooks(looks, structuredClone(looks), NEUTRAL)).toBe(true);
    expect(sameLooks(looks, [look(''), look('Dusk', [3])], NEUTRAL)).toBe(false);
    expect(sameLooks(looks, [look('', [], { exposure: 1 }), look('Evening', [3])], NEUTRAL)).toBe(false);
    expect(sameLooks(looks, [look('')], NEUTRAL)).toBe(false);
  });
});
