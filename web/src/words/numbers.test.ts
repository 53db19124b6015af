import { describe, expect, it } from 'vitest';
import { bytes, count, duration, halves, ranges } from './numbers';

describe('numbers for people', () => {
  it.each([
    [0, '0 B'],
    [940, '940 B'],
    [1000, '1 kB'],
    [127_400, '127 kB'],
    [999_499, '999 kB'],
    [999_500, '1.0 MB'],
    [19_440_000, '19.4 MB'],
    [312_000_000, '312 MB'],
    [4_100_000_000, '4.1 GB'],
  ])('%i bytes are %s', (number, said) => expect(bytes(number).replace('\u202f', ' ')).toBe(said));

  it('counts one and many', () => {
    expect(count(1, 'photo')).toBe('1 photo');
    expect(count(12_000, 'photo')).toBe('12,000 photos');
  });

  it('says how long', () => {
    expect(duration(0.2)).toBe('1 s');
    expect(duration(59.4)).toBe('59 s');
    expect(duration(150)).toBe('3 min');
    expect(duration(4800)).toBe('1 h 20 min');
  });

  it('keeps the extension of a long name', () => {
    expect(halves('2031-10-14_01_repair-bench-gridwick-001.jpg')).toEqual(['2031-10-14_01_repair-bench', '-gridwick-001.jpg']);
    expect(halves('2031-10-14_01_repair-bench-001.jpg')).toEqual(['2031-10-14_01_repair', '-bench-001.jpg']);
    expect(halves('a.jpg')).toEqual(['a', '.jpg']);
    expect(halves('withoutanyseparatorinit')).toEqual(['withoutanysep', 'aratorinit']);
  });

  it('writes many numbers as ranges', () => {
    expect(ranges([7, 3, 9, 8, 12, 8])).toBe('3,7-9,12');
    expect(ranges(Array.from({ length: 900 }, (_, i) => i + 1))).toBe('1-900');
    expect(ranges([])).toBe('');
  });
});
