import { describe, expect, it } from 'vitest';
import { ANCHORS, finishSummary, isPicture, markName, rounded, spotOf, tidied } from './finish';

describe('the finish station closed', () => {
  it('says what lies around and over in two lines', () => {
    expect(finishSummary(undefined)).toEqual(['as it is', 'nothing around it']);
    expect(finishSummary({ borders: [{ width: '4 %' }] })).toEqual(['a border', '']);
    expect(finishSummary({ borders: [{}, {}], marks: [{ text: '©' }], proof: { text: 'Proof' }, corners: 12 })).toEqual(['2 borders, a mark', 'a proof stamp, round corners']);
  });
});

describe('marks', () => {
  it('are called by their text or their picture', () => {
    expect([markName({ text: '© {creator}' }), markName({ picture: 'gear.svg' }), markName({})]).toEqual(['© {creator}', 'gear.svg', '']);
    expect([isPicture({ text: '©' }), isPicture({ picture: 'gear.svg' })]).toEqual([false, true]);
  });

  it('lie on the side that their anchor names, at the bottom right where none is said', () => {
    for (const at of ANCHORS) {
      const [x, y] = spotOf({ at });
      expect([x < 0.5, x > 0.5, y < 0.5, y > 0.5]).toEqual([at.includes('left'), at.includes('right'), at.includes('top'), at.includes('bottom')]);
    }
    expect(spotOf({})).toEqual(spotOf({ at: 'bottom-right' }));
    expect(spotOf({ at: [0.5, 0.92] })).toEqual([0.5, 0.92]);
  });

  it('stay in the picture when they are dragged, on thousandths', () => {
    expect([rounded(-0.2), rounded(1.7), rounded(0.33349)]).toEqual([0, 1, 0.333]);
  });
});

describe('a finish that says nothing', () => {
  it('is none', () => {
    expect(tidied({ borders: [], marks: [], grow: true })).toBeUndefined();
    expect(tidied({ borders: [], marks: [{ text: '©' }], corners: undefined })).toEqual({ marks: [{ text: '©' }] });
    expect(tidied({ corners: 0 })).toEqual({ corners: 0 });
    expect(tidied({ proof: { text: 'Proof' }, marks: [] })).toEqual({ proof: { text: 'Proof' } });
  });
});
