import { describe, expect, it } from 'vitest';
import { asText, fromText, INTAKE, RULES, valueAt, withValue, type Field } from './fields';

const field = (at: string): Field => {
  const found = [...RULES, ...INTAKE].find((each) => each.at === at);
  if (!found) throw new Error(at);
  return found;
};

describe('fields of a sheet', () => {
  it('reads pixels, shapes and lists as people type them', () => {
    const best = field('rules.best');
    for (const text of ['1080x1350', '1080 × 1350', ' 1080 X 1350 ', '1080*1350', '1080, 1350']) expect(fromText(best, text)).toEqual([1080, 1350]);
    expect(fromText(field('rules.widest'), '1,91 : 1')).toBe('1.91:1');
    expect(fromText(field('intake.copies'), '480, 960;1600')).toEqual([480, 960, 1600]);
    expect(fromText(field('rules.kilobytes'), '8000')).toBe(8000);
  });

  it('keeps what it cannot read, for the server to say what is wrong', () => {
    expect(fromText(field('rules.best'), '1080')).toBe('1080');
    expect(fromText(field('intake.copies'), 'wide')).toBe('wide');
    expect(fromText(field('rules.kilobytes'), '8 MB')).toBe('8 MB');
  });

  it('tells what it read, and empty for nothing', () => {
    expect(asText(field('rules.best'), [1080, 1350])).toBe('1080 × 1350');
    expect(asText(field('intake.copies'), [480, 960])).toBe('480, 960');
    expect(asText(field('rules.best'), null)).toBe('');
    expect(fromText(field('rules.best'), '  ')).toBeUndefined();
    expect(fromText(field('intake.copies'), '')).toEqual([]);
  });

  it('changes one value and no other', () => {
    const use = { use: 'Post', rules: { best: [1, 2], least: null }, intake: {} };
    const next = withValue(use, 'rules.least', [3, 4]);
    expect(next).toEqual({ use: 'Post', rules: { best: [1, 2], least: [3, 4] }, intake: {} });
    expect(use.rules.least).toBeNull();
    expect(valueAt(withValue(next, 'rules.least', undefined), 'rules.least')).toBeNull();
    expect(withValue(next, 'rules.least', undefined)).toEqual(use);
  });
});
