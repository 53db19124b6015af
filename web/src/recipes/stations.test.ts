import { describe, expect, it } from 'vitest';
import { BLANK, detached, following, follows, STATIONS, upTo, weighedBy, withStation } from './draft';

describe('parts', () => {
  it('are followed with their setting, and left with it', () => {
    const one = following(BLANK, 'sharpen', 'Crisp', { strength: 140 });
    expect([follows(one, 'sharpen'), one['sharpen']]).toEqual(['Crisp', { strength: 140 }]);
    const two = following(one, 'file', 'Web', { format: 'webp', quality: 80 });
    expect(two['parts']).toEqual({ sharpen: 'Crisp', file: 'Web' });
    const left = detached(two, 'sharpen');
    expect([left['parts'], left['sharpen']]).toEqual([{ file: 'Web' }, { strength: 140 }]);
    expect('parts' in detached(left, 'file')).toBe(false);
  });
});

describe('the file station', () => {
  it('is weighed in one way at a time, and keeps the rest', () => {
    const own = { format: 'jpeg', quality: 80, coder: 'thorough' };
    expect(weighedBy(own, 'limit')).toEqual({ format: 'jpeg', coder: 'thorough', under_kb: 300 });
    expect(weighedBy(weighedBy(own, 'limit'), 'looks')).toEqual({ format: 'jpeg', coder: 'thorough', looks: 88 });
    expect(weighedBy({ format: 'avif', looks: 80 }, 'quality')).toEqual({ format: 'avif', quality: 65 });
  });
});

describe('pictures on the way', () => {
  const full = {
    ...following(BLANK, 'sharpen', 'Crisp', { strength: 100 }),
    prep: { levels: true },
    frame: { way: 'crop', shape: '1:1' },
    color: { profile: 'adobe-rgb', bits: 16 },
    file: { format: 'tiff' },
  };

  it('show each station’s work and none of a later one, in formats that screens show', () => {
    for (const { name } of STATIONS) {
      const shown = upTo(full, name);
      if (name === 'name' || name === 'place' || name === 'file') continue;
      expect(shown['file']).toEqual({ format: 'jpeg', quality: 92 });
      expect('parts' in shown).toBe(false);
    }
    expect(upTo(full, 'prep')['frame']).toBeUndefined();
    expect(upTo(full, 'prep')['prep']).toEqual({ levels: true });
    expect(upTo(full, 'size')['sharpen']).toBeUndefined();
    expect(upTo(full, 'sharpen')['color']).toEqual({ profile: 'srgb' });
    expect(upTo(full, 'color')['color']).toEqual({ profile: 'adobe-rgb' });
    expect(upTo(withStation(full, 'color', undefined), 'color')['color']).toBeUndefined();
  });
});
