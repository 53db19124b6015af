import { describe, expect, it } from 'vitest';
import { BLANK, byField, framedBy, measuredBy, station, typedNumber, upTo, withStation } from './draft';

describe('a recipe being changed', () => {
  it('keeps the number when the way of measuring changes', () => {
    const by = (way: string, size: Record<string, unknown>) => station(measuredBy({ ...BLANK, size }, way), 'size');
    expect(by('width', { by: 'long-edge', pixels: 720 })).toEqual({ by: 'width', pixels: 720, enlarge: 'never' });
    expect(by('box', { by: 'width', pixels: 720 })).toMatchObject({ width: 720, height: 720 });
    expect(by('height', { by: 'box', width: 900, height: 600 })).toMatchObject({ pixels: 900 });
    expect(by('own', { by: 'width', pixels: 720, ppi: 300 })).toEqual({ by: 'own', enlarge: 'never', ppi: 300 });
  });

  it('lets frame and size agree when one of them changes', () => {
    const exact = measuredBy(BLANK, 'exact');
    expect(station(exact, 'frame')).toMatchObject({ way: 'crop' });
    expect(station(exact, 'frame')?.['shape']).toBeUndefined();
    const back = measuredBy(measuredBy(framedBy(BLANK, 'pad'), 'exact'), 'width');
    expect(station(back, 'frame')).toMatchObject({ way: 'pad', shape: '1600:1600' });
    expect(station(framedBy(exact, 'keep'), 'size')).toMatchObject({ by: 'box' });
    expect(framedBy(framedBy(BLANK, 'crop'), 'keep')).not.toHaveProperty('frame');
    expect(station(framedBy(BLANK, 'bounds'), 'frame')).toMatchObject({ narrowest: '4:5', widest: '1.91:1' });
  });

  it('keeps what was typed, right or wrong', () => {
    expect(typedNumber(' 1600 ')).toBe(1600);
    expect(typedNumber('-3')).toBe(-3);
    expect(typedNumber('1.5')).toBe(1.5);
    expect(typedNumber('16oo')).toBe('16oo');
    expect(typedNumber('')).toBe('');
  });

  it('shows a picture without the stations that come later', () => {
    expect(upTo(BLANK, 'size')).not.toHaveProperty('sharpen');
    const bordered = withStation(BLANK, 'finish', { borders: [{ width: '4 %' }] });
    for (const before of ['prep', 'frame', 'size', 'sharpen'] as const) expect(upTo(bordered, before)).not.toHaveProperty('finish');
    expect(upTo(bordered, 'finish')).toHaveProperty('finish');
    expect(upTo(BLANK, 'sharpen')['file']).toEqual({ format: 'jpeg', quality: 92 });
    expect(upTo(BLANK, 'file')).toBe(BLANK);
    expect(withStation(BLANK, 'sharpen', undefined)).not.toHaveProperty('sharpen');
    expect(BLANK).toHaveProperty('sharpen');
  });

  it('puts problems beside their fields', () => {
    const problem = { field: 'size.pixels', expected: 'at least 1', found: '0', remedy: 'Correct it.' };
    expect(byField([problem])).toEqual({ 'size.pixels': 'Expected at least 1, found 0.' });
  });
});
