"""From a line of pixels to a few curves: cubic Bézier curves fitted by least squares, split where they do not fit.

The method is P. J. Schneider's, "An algorithm for automatically fitting digitized curves" (Graphics Gems, 1990).
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from tray_core.outline import Node

_Points = NDArray[np.float64]

_OFF = 0.6
"""Pixels by which a curve may be off the line that it follows."""

_STEP = 1.0
"""Pixels between the points of a line that is looked at."""

_REACH = 5
"""Points before and behind, by which a corner is told."""

_BEND = np.cos(np.radians(42))
"""The cosine of the bend from which a point is a corner."""

_FINE = 6
"""Decimals of shares: a hundredth of a pixel of the largest photo."""


def fitted_path(line: _Points, size: tuple[int, int]) -> tuple[Node, ...]:
    """The nodes of a closed path along `line` (points x 2, in pixels of a picture of `size`), in its shares."""
    points = _softened(_evenly(line))
    if len(points) < 8:
        return tuple(Node(at=_share(each, size)) for each in points)
    corners = _corners(points)
    if len(corners) < 2:
        # Two joints at least, or the curve would have to come back to where it began.
        first = int(corners[0]) if len(corners) else 0
        corners = np.array([first, first + len(points) // 2])
    bends = _bends(points)
    pieces: list[_Points] = []
    starts: list[bool] = []
    for number, first in enumerate(corners):
        last = corners[number + 1] if number + 1 < len(corners) else corners[0] + len(points)
        part = points[np.arange(first, last + 1) % len(points)]
        sharp = [bool(bends[at % len(points)] < _BEND) for at in (first, last)]
        way = _way_out(part) if sharp[0] else _way_on(points, first)
        back = _way_out(part[::-1]) if sharp[1] else -_way_on(points, last)
        found = _fit(part, way, back)
        starts += [sharp[0], *([False] * (len(found) - 1))]
        pieces += found
    return _nodes(pieces, starts, size)


def _evenly(line: _Points) -> _Points:
    closed = np.vstack([line, line[:1]])
    along = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(closed, axis=0).T))])
    at = np.linspace(0, along[-1], max(4, round(along[-1] / _STEP)), endpoint=False)
    return np.stack([np.interp(at, along, closed[:, axis]) for axis in (0, 1)], axis=1)


def _softened(points: _Points) -> _Points:
    """The stairs of thirds of pixels taken away, corners hardly rounded."""
    around = (np.roll(points, 1, axis=0) + np.roll(points, -1, axis=0)) / 2
    return (points + around) / 2


def _bends(points: _Points) -> NDArray[np.float64]:
    """The cosine between the ways to and from each point."""
    before, behind = points - np.roll(points, _REACH, axis=0), np.roll(points, -_REACH, axis=0) - points
    lengths = np.hypot(*before.T) * np.hypot(*behind.T)
    return np.asarray((before * behind).sum(axis=1) / np.maximum(lengths, 1e-9))


def _corners(points: _Points) -> NDArray[np.intp]:
    """The points at which the line bends most, where it bends sharply."""
    bends = _bends(points)
    around = np.min([np.roll(bends, step) for step in range(-_REACH, _REACH + 1)], axis=0)
    found = np.flatnonzero((bends < _BEND) & (bends <= around))
    return found[np.insert(np.diff(found) > _REACH // 2, 0, True)] if len(found) else found


def _unit(vector: _Points) -> _Points:
    length = math.hypot(*vector)
    return vector / length if length > 1e-12 else np.array([1.0, 0.0])


def _way_out(part: _Points) -> _Points:
    return _unit(part[min(3, len(part) - 1)] - part[0])


def _way_on(points: _Points, at: int) -> _Points:
    """At a joint that is no corner, the curve goes on as it came."""
    return _unit(points[(at + 3) % len(points)] - points[(at - 3) % len(points)])


def _fit(points: _Points, way: _Points, back: _Points) -> list[_Points]:
    """Curves (4 x 2 each) along points, leaving by `way` and arriving by `back`."""
    if len(points) < 4 or _straight(points):
        third = (points[-1] - points[0]) / 3
        return [np.array([points[0], points[0] + third, points[-1] - third, points[-1]])]
    at = _chords(points)
    for _ in range(3):
        weights = _weights(at)
        curve = _least_squares(points, weights, way, back)
        away = weights @ curve - points
        far = away[:, 0] ** 2 + away[:, 1] ** 2
        worst = int(far.argmax())
        off = float(far[worst]) ** 0.5
        if off <= _OFF:
            return [curve]
        if off > 4 * _OFF:
            break
        at = _nearer(away, at, curve)
    middle = min(max(worst, 2), len(points) - 3)
    if middle < 1:
        return [curve]
    across = _unit(points[max(0, middle - 2)] - points[min(len(points) - 1, middle + 2)])
    return _fit(points[: middle + 1], way, across) + _fit(points[middle:], -across, back)


def _straight(points: _Points) -> bool:
    chord = points[-1] - points[0]
    length = math.hypot(*chord)
    if length < 1e-9:
        return True
    off = np.abs((points[:, 0] - points[0, 0]) * chord[1] - (points[:, 1] - points[0, 1]) * chord[0]) / length
    return bool(off.max() <= _OFF / 2)


def _chords(points: _Points) -> NDArray[np.float64]:
    steps = points[1:] - points[:-1]
    along = np.zeros(len(points))
    np.cumsum(np.hypot(steps[:, 0], steps[:, 1]), out=along[1:])
    return np.asarray(along / along[-1])


def _weights(at: NDArray[np.float64]) -> NDArray[np.float64]:
    u = 1 - at
    made = np.empty((len(at), 4))
    made[:, 0], made[:, 1], made[:, 2], made[:, 3] = u**3, 3 * u * u * at, 3 * u * at * at, at**3
    return made


def _least_squares(points: _Points, weights: NDArray[np.float64], way: _Points, back: _Points) -> _Points:
    start, end = points[0], points[-1]
    one, two = np.ascontiguousarray(weights[:, 1]), np.ascontiguousarray(weights[:, 2])
    behind = weights[:, 2] + weights[:, 3]
    rest = points - start - behind[:, None] * (end - start)
    # way and back are one pixel long.
    a, b, c = float(one @ one), float(one @ two) * float(way @ back), float(two @ two)
    x, y = float(one @ (rest @ way)), float(two @ (rest @ back))
    length = math.hypot(*(end - start))
    ruled = a * c - b * b
    first, second = ((x * c - y * b) / ruled, (a * y - b * x) / ruled) if abs(ruled) > 1e-12 else (0.0, 0.0)
    if min(first, second) < 1e-3 * length or max(first, second) > 10 * max(length, 1.0):
        first = second = length / 3
    return np.array([start, start + way * first, end + back * second, end])


def _nearer(away: _Points, at: NDArray[np.float64], curve: _Points) -> NDArray[np.float64]:
    """One step of Newton's towards the nearest places on the curve. away: from the points to their places on it."""
    first, second = 3 * (curve[1:] - curve[:-1]), 6 * (curve[2:] - 2 * curve[1:-1] + curve[:-2])
    u = 1 - at
    shares = np.empty((len(at), 3))
    shares[:, 0], shares[:, 1], shares[:, 2] = u * u, 2 * u * at, at * at
    slope = shares @ first
    bend = u[:, None] * second[0] + at[:, None] * second[1]
    under = np.einsum("ij,ij->i", slope, slope) + np.einsum("ij,ij->i", away, bend)
    over = np.einsum("ij,ij->i", away, slope)
    step = np.divide(over, under, out=np.zeros_like(at), where=np.abs(under) > 1e-9)
    return np.maximum.accumulate(np.clip(at - step, 0, 1))


def _share(point: _Points, size: tuple[int, int]) -> tuple[float, float]:
    return round(float(point[0]) / size[0], _FINE), round(float(point[1]) / size[1], _FINE)


def _nodes(pieces: list[_Points], sharp: list[bool], size: tuple[int, int]) -> tuple[Node, ...]:
    made = []
    for number, piece in enumerate(pieces):
        before = pieces[number - 1]
        made.append(
            Node(
                at=_share(piece[0], size),
                before=None if _is_line(before) else _share(before[2], size),
                behind=None if _is_line(piece) else _share(piece[1], size),
                corner=sharp[number],
            )
        )
    return tuple(made)


def _is_line(curve: _Points) -> bool:
    third = (curve[3] - curve[0]) / 3
    off = (*(curve[1] - curve[0] - third), *(curve[2] - curve[3] + third))
    return all(abs(each) < 1e-9 for each in off)
