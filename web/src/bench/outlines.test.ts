import { describe, expect, it } from 'vitest';
import { along, bent, drawn, moved, nearest, parted, turned, without, type Node, type Path } from './outlines';

const square: Path = [[0.2, 0.2], [0.8, 0.2], [0.8, 0.8], [0.2, 0.8]].map((at) => ({ at: at as [number, number], corner: true }));
const round: Path = [
  { at: [0.5, 0.2], before: [0.3, 0.2], behind: [0.7, 0.2] },
  { at: [0.8, 0.5], before: [0.8, 0.3], behind: [0.8, 0.7] },
  { at: [0.5, 0.8], before: [0.7, 0.8], behind: [0.3, 0.8] },
  { at: [0.2, 0.5], before: [0.2, 0.7], behind: [0.2, 0.3] },
];
const spot = (path: number, node: number) => ({ path, node });
const at = (paths: Path[], path: number, node: number) => paths[path]?.[node] as Node;

describe('an outline', () => {
  it('moves a point with its handles, and nothing else', () => {
    const next = moved([square, round], spot(1, 1), [0.05, -0.1]);
    expect(at(next, 1, 1)).toEqual({ at: [0.85, 0.4], before: [0.85, 0.2], behind: [0.85, 0.6] });
    expect(next[0]).toEqual(square);
    expect(at(next, 1, 0)).toEqual(round[0]);
  });

  it('turns the other handle of a smooth point, as long as it was, and leaves a corner’s', () => {
    const smooth = at(bent([round], spot(0, 0), 'behind', [0.5, 0.4], 1), 0, 0);
    expect(smooth.behind).toEqual([0.5, 0.4]);
    expect(smooth.before?.[0]).toBeCloseTo(0.5);
    expect(smooth.before?.[1]).toBeCloseTo(0);
    const sharp = bent([[{ ...(round[0] as Node), corner: true }, ...round.slice(1)]], spot(0, 0), 'behind', [0.5, 0.4], 1);
    expect(at(sharp, 0, 0).before).toEqual([0.3, 0.2]);
  });

  it('keeps its curve where a point is added', () => {
    for (const paths of [[square], [round]]) {
      for (const t of [0.2, 0.5, 0.9]) {
        const next = parted(paths, spot(0, 1), t);
        const [from, to] = [at(paths, 0, 1), at(paths, 0, 2)];
        expect(next[0]).toHaveLength(5);
        for (const u of [0.1, 0.4, 0.7]) {
          const before = along(from, to, u * t);
          const after = along(at(next, 0, 1), at(next, 0, 2), u);
          expect(after[0]).toBeCloseTo(before[0], 4);
          expect(after[1]).toBeCloseTo(before[1], 4);
        }
      }
    }
  });

  it('loses a point, and with its second to last one the path', () => {
    expect(without([square], spot(0, 2))[0]?.map((node) => node.at)).toEqual([[0.2, 0.2], [0.8, 0.2], [0.2, 0.8]]);
    expect(without([square.slice(0, 2), round], spot(0, 0))).toEqual([round]);
  });

  it('makes corners smooth along their neighbors, and smooth points corners', () => {
    const smooth = at(turned([square], spot(0, 1)), 0, 1);
    expect(smooth.corner).toBeUndefined();
    expect(smooth.before).toEqual([0.7, 0.1]);
    expect(smooth.behind).toEqual([0.9, 0.3]);
    expect(at(turned([round], spot(0, 0)), 0, 0)).toEqual({ ...round[0], corner: true });
  });

  it('knows where on it something lies', () => {
    const found = nearest([square], [0.81, 0.55], 1.5);
    expect(found).toMatchObject({ path: 0, node: 1 });
    expect(found?.t).toBeCloseTo(0.58, 1);
    expect(found?.far).toBeCloseTo(0.015, 2);
  });

  it('is drawn as lines and curves, closed', () => {
    expect(drawn([square], ([x, y]) => [x * 100, y * 100])).toBe('M20.0 20.0 L80.0 20.0 L80.0 80.0 L20.0 80.0 L20.0 20.0 Z');
    expect(drawn([round], ([x, y]) => [x * 10, y * 10])).toMatch(/^M5.0 2.0 C7.0 2.0 8.0 3.0 8.0 5.0 .* Z$/);
  });
});
