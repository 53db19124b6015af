/** An outline's points and curves, as the server tells them: all places in shares of the photo. */
export type Place = [number, number];

export interface Node {
  at: Place;
  /** The handles of the curve that comes and of the one that goes; none where that is straight. */
  before?: Place;
  behind?: Place;
  corner?: boolean;
}

export type Path = Node[];

/** A point of an outline: the number of its path, and its own there. */
export interface Spot {
  path: number;
  node: number;
}

const plus = (a: Place, b: Place): Place => [a[0] + b[0], a[1] + b[1]];
const minus = (a: Place, b: Place): Place => [a[0] - b[0], a[1] - b[1]];
const mixed = (a: Place, b: Place, t: number): Place => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t];
const rounded = (a: Place): Place => [+a[0].toFixed(6), +a[1].toFixed(6)];

export function nodeAt(paths: readonly Path[], spot: Spot | undefined): Node | undefined {
  return spot && paths[spot.path]?.[spot.node];
}

/** The same paths with one of them replaced; one of fewer than two points goes. */
export function withPath(paths: readonly Path[], at: number, path: Path): Path[] {
  return paths.map((each, i) => (i === at ? path : each)).filter((each) => each.length > 1);
}

function withNode(paths: readonly Path[], spot: Spot, node: Node): Path[] {
  return withPath(paths, spot.path, (paths[spot.path] ?? []).map((each, i) => (i === spot.node ? node : each)));
}

/** A point moved with its handles. */
export function moved(paths: readonly Path[], spot: Spot, by: Place): Path[] {
  const node = nodeAt(paths, spot);
  if (!node) return [...paths];
  const next: Node = { ...node, at: rounded(plus(node.at, by)) };
  if (node.before) next.before = rounded(plus(node.before, by));
  if (node.behind) next.behind = rounded(plus(node.behind, by));
  return withNode(paths, spot, next);
}

/** One handle put elsewhere; at a smooth point the other one turns with it, as long as it was. shape: width over height. */
export function bent(paths: readonly Path[], spot: Spot, which: 'before' | 'behind', to: Place, shape: number): Path[] {
  const node = nodeAt(paths, spot);
  if (!node) return [...paths];
  const next: Node = { ...node, [which]: rounded(to) };
  const other = which === 'before' ? 'behind' : 'before';
  const there = node[other];
  if (!node.corner && there) {
    const way = minus(node.at, to);
    const long = Math.hypot(way[0] * shape, way[1]);
    const reach = minus(there, node.at);
    const length = Math.hypot(reach[0] * shape, reach[1]);
    if (long > 1e-9) next[other] = rounded(plus(node.at, [(way[0] / long) * length, (way[1] / long) * length]));
  }
  return withNode(paths, spot, next);
}

/** Without a point; its neighbors keep their handles. */
export function without(paths: readonly Path[], spot: Spot): Path[] {
  return withPath(paths, spot.path, (paths[spot.path] ?? []).filter((_, i) => i !== spot.node));
}

/** A corner becomes smooth, its handles in one line along its neighbors, or a smooth point a corner. */
export function turned(paths: readonly Path[], spot: Spot): Path[] {
  const path = paths[spot.path] ?? [];
  const node = path[spot.node];
  if (!node) return [...paths];
  if (!node.corner && node.before && node.behind) return withNode(paths, spot, { ...node, corner: true });
  const before = path[(spot.node + path.length - 1) % path.length];
  const after = path[(spot.node + 1) % path.length];
  if (!before || !after) return [...paths];
  const way = minus(after.at, before.at);
  const { corner: _, ...rest } = node;
  return withNode(paths, spot, {
    ...rest,
    before: rounded(plus(node.at, [-way[0] / 6, -way[1] / 6])),
    behind: rounded(plus(node.at, [way[0] / 6, way[1] / 6])),
  });
}

const straight = (from: Node, to: Node) => !from.behind && !to.before;

/** The point at a share of the way from a point to the next one. */
export function along(from: Node, to: Node, t: number): Place {
  const a = mixed(from.at, from.behind ?? from.at, t);
  const b = mixed(from.behind ?? from.at, to.before ?? to.at, t);
  const c = mixed(to.before ?? to.at, to.at, t);
  return straight(from, to) ? mixed(from.at, to.at, t) : mixed(mixed(a, b, t), mixed(b, c, t), t);
}

/** Another point on the way from a point to the next one, which leaves the curve as it is (de Casteljau). */
export function parted(paths: readonly Path[], spot: Spot, t = 0.5): Path[] {
  const path = paths[spot.path] ?? [];
  const from = path[spot.node];
  const at = (spot.node + 1) % path.length;
  const to = path[at];
  if (!from || !to) return [...paths];
  const next = [...path];
  if (straight(from, to)) {
    next.splice(spot.node + 1, 0, { at: rounded(mixed(from.at, to.at, t)), corner: true });
    return withPath(paths, spot.path, next);
  }
  const one = from.behind ?? from.at;
  const two = to.before ?? to.at;
  const [a, b, c] = [mixed(from.at, one, t), mixed(one, two, t), mixed(two, to.at, t)];
  const [d, e] = [mixed(a, b, t), mixed(b, c, t)];
  next[spot.node] = { ...from, behind: rounded(a) };
  next[at] = { ...(next[at] as Node), before: rounded(c) };
  next.splice(spot.node + 1, 0, { at: rounded(mixed(d, e, t)), before: rounded(d), behind: rounded(e) });
  return withPath(paths, spot.path, next);
}

/** Where on an outline something lies, and how far from it, in the photo's heights. shape: width over height. */
export function nearest(paths: readonly Path[], to: Place, shape: number): (Spot & { t: number; far: number }) | undefined {
  let best: (Spot & { t: number; far: number }) | undefined;
  paths.forEach((path, p) => {
    path.forEach((from, n) => {
      const after = path[(n + 1) % path.length] as Node;
      for (let i = 0; i < 16; i++) {
        const t = (i + 0.5) / 16;
        const here = along(from, after, t);
        const far = Math.hypot((here[0] - to[0]) * shape, here[1] - to[1]);
        if (!best || far < best.far) best = { path: p, node: n, t, far };
      }
    });
  });
  return best;
}

/** A square to begin with where nothing was found. */
export const BEGIN: Path[] = [[{ at: [0.25, 0.25], corner: true }, { at: [0.75, 0.25], corner: true }, { at: [0.75, 0.75], corner: true }, { at: [0.25, 0.75], corner: true }]];

/** Path data of SVG, of points as they lie on the screen. */
export function drawn(paths: readonly Path[], placed: (at: Place) => Place): string {
  const told = (at: Place) => placed(at).map((value) => value.toFixed(1)).join(' ');
  return paths
    .map((path) => {
      const pieces = path.map((from, n) => {
        const to = path[(n + 1) % path.length] as Node;
        return straight(from, to) ? `L${told(to.at)}` : `C${told(from.behind ?? from.at)} ${told(to.before ?? to.at)} ${told(to.at)}`;
      });
      return path[0] ? `M${told(path[0].at)} ${pieces.join(' ')} Z` : '';
    })
    .join(' ');
}
