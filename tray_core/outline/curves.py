"""Outlines as polygons: flattened, smoothed, grown; their boxes and areas."""

from __future__ import annotations

import functools

import numpy as np
from numpy.typing import NDArray

from tray_core.outline.model import Node, Outline

Contour = NDArray[np.float64]
"""A closed polygon, points x 2, in pixels."""

Contours = tuple[Contour, ...]

_STEP = 0.5
"""Pixels of the photo between two points of a flattened curve, at most; straight stretches need none between."""

_MOST_STEPS = 400


@functools.lru_cache(maxsize=64)
def contours_of(outline: Outline, size: tuple[int, int]) -> Contours:
    """The closed polygons of an outline, in pixels of an upright photo of (width, height), smoothed and grown.

    Outer ones turn one way and holes the other, so that windings sum up to 1 in the object and to 0 beside it.
    """
    found = [_flattened(path, size) for path in outline.paths]
    if outline.smooth:
        found = [_smoothed(each, outline.smooth) for each in found]
    found = _wound(found)
    if outline.grow:
        found = [_grown(each, outline.grow) for each in found]
    for each in found:
        each.flags.writeable = False
    return tuple(found)


def _flattened(path: tuple[Node, ...], size: tuple[int, int]) -> Contour:
    scale = np.array(size, np.float64)
    pieces = []
    for node, after in zip(path, (*path[1:], path[0]), strict=True):
        start, end = np.array(node.at) * scale, np.array(after.at) * scale
        if node.behind is None and after.before is None:
            pieces.append(start[None])
            continue
        one = np.array(node.behind) * scale if node.behind is not None else start
        two = np.array(after.before) * scale if after.before is not None else end
        length = float(np.hypot(*(one - start)) + np.hypot(*(two - one)) + np.hypot(*(end - two)))
        t = np.linspace(0, 1, min(_MOST_STEPS, max(2, int(length / _STEP))), endpoint=False)[:, None]
        u = 1 - t
        pieces.append(u**3 * start + 3 * u * u * t * one + 3 * u * t * t * two + t**3 * end)
    return np.concatenate(pieces)


def _even(contour: Contour, step: float) -> Contour:
    """The same polygon by points that lie `step` apart."""
    closed = np.vstack([contour, contour[:1]])
    along = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(closed, axis=0).T))])
    if along[-1] < 3 * step:
        return contour
    at = np.linspace(0, along[-1], max(3, round(along[-1] / step)), endpoint=False)
    return np.stack([np.interp(at, along, closed[:, axis]) for axis in (0, 1)], axis=1)


def _smoothed(contour: Contour, sigma: float) -> Contour:
    """Blurred along itself, by its Fourier series; it becomes a little smaller where it is bent."""
    even = _even(contour, max(0.5, sigma / 4))
    length = float(np.hypot(*np.diff(np.vstack([even, even[:1]]), axis=0).T).sum())
    if length < 1e-9:
        return contour
    waves = np.fft.fftfreq(len(even)) * len(even) / length
    keep = np.exp(-0.5 * (2 * np.pi * waves * sigma) ** 2)[:, None]
    return np.asarray(np.fft.ifft(np.fft.fft(even, axis=0) * keep, axis=0).real)


def area_of(contour: Contour) -> float:
    """The signed area of a closed polygon (the shoelace formula); positive where it turns clockwise, y down."""
    x, y = contour[:, 0], contour[:, 1]
    return float(x @ np.roll(y, -1) - y @ np.roll(x, -1)) / 2


def _inside(point: NDArray[np.float64], contour: Contour) -> bool:
    """Whether a point lies in a polygon, by the crossings of a ray."""
    a, b = contour, np.roll(contour, -1, axis=0)
    spans = (a[:, 1] > point[1]) != (b[:, 1] > point[1])
    with np.errstate(divide="ignore", invalid="ignore"):
        at = a[:, 0] + (point[1] - a[:, 1]) * (b[:, 0] - a[:, 0]) / (b[:, 1] - a[:, 1])
    return bool(np.count_nonzero(spans & (point[0] < at)) % 2)


def _wound(contours: list[Contour]) -> list[Contour]:
    """Each turned by how many others it lies in: the even ones clockwise."""
    made = []
    for number, contour in enumerate(contours):
        depth = sum(_inside(contour[0], other) for at, other in enumerate(contours) if at != number)
        outward = area_of(contour) > 0
        made.append(contour if outward == (depth % 2 == 0) else contour[::-1].copy())
    return made


def _grown(contour: Contour, by: float) -> Contour:
    """Moved along its normals, away from what it encloses when it turns clockwise; holes shrink by as much."""
    even = _even(contour, 0.5)
    ahead = np.roll(even, -1, axis=0) - np.roll(even, 1, axis=0)
    length = np.hypot(ahead[:, 0], ahead[:, 1])[:, None]
    normal = np.stack([ahead[:, 1], -ahead[:, 0]], axis=1) / np.maximum(length, 1e-9)
    moved = even + by * normal
    turned = area_of(moved) * area_of(even) <= 0
    return even[:1].repeat(3, axis=0) if turned else moved  # a hole that is grown over is none any more


def box_of(outline: Outline, size: tuple[int, int]) -> tuple[float, float, float, float]:
    """(left, top, right, bottom) of the object in pixels of the photo."""
    points = np.concatenate(contours_of(outline, size))
    left, top = points.min(axis=0)
    right, bottom = points.max(axis=0)
    return float(left), float(top), float(right), float(bottom)
