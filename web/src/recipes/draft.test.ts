import { describe, expect, it } from 'vitest';
import { BLANK, byField, sizeBy, typedNumber, upTo, withStation } from './draft';

describe('a recipe being changed', () => {
  it('keeps the number when the way of measuring changes', () => {
    expect(sizeBy('width', { by: 'long-edge', pixels: 720 })).toEqual({ by: 'width', pixels: 720, enlarge: 'never' });
    expect(sizeBy('box', { by: 'width', pixels: 720 })).toMatchObject({ width: 720, height: 720 });
    expect(sizeBy('height', { by: 'box', width: 900, height: 600 })).toMatchObject({ pixels: 900 });
    expect(sizeBy('own', { by: 'width', pixels: 720 })).toBeUndefined();
  });

  it('keeps what was typed, right or wrong', () => {
    expect(typedNumber(' 1600 ')).toBe(1600);
    expect(typedNumber('-3')).toBe(-3);
    expect(typedNumber('16oo')).toBe('16oo');
    expect(typedNumber('')).toBe('');
  });

  it('shows a picture without the stations that come later', () => {
    expect(upTo(BLANK, 'size')).not.toHaveProperty('sharpen');
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
