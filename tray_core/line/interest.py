"""What in a photo must be seen: heads, the one thing that stands out, and how interesting every part of it is.

How much a pixel stands out is the product of three measures, at small size:

- the minimum barrier distance to the rim in CIE L*a*b* (`line.barrier`): things with a closed edge stand out, walls and
  skies do not, whatever their tone. Parts of the rim that differ from the rest of their side are no background: a
  thing may be cut by the picture's edge;
- fine detail nearby, which things have and sheets of paper, sunlit walls and blurred backgrounds lack;
- nearness to the middle, where those who frame a picture put what they mean.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from tray_core.photo.interest import Box, Interest, Subject
from tray_core.pixels.picture import Pixels8

STEPS = 48
"""Length of each profile."""

_EDGE, _DETAIL_EDGE = 160, 480
_RIM_ALIKE = 20
"""How far in L*a*b* a rim pixel may be from the middle of its side's and still be background."""

_CENTER = 0.5
_STANDS_OUT, _ALONE = 0.3, 0.55
_SMALLEST, _LARGEST = 0.005, 0.7
_TRIMMED = 0.02
"""Of a thing's weight, on each of its four sides: shadows and whiskers do not make it larger."""

Values = NDArray[np.float32]


def interest_of(pixels: Pixels8) -> Interest:
    """Interest along the width and along the height of a picture, and the subjects in it.

    pixels: sRGB, height x width x 3, or height x width for grey; 0..255.
    """
    # Here, since both take a while to load, and only reading a photo wants them.
    from tray_core.line.heads import heads_of

    color = pixels if pixels.ndim == 3 else np.repeat(pixels[..., None], 3, axis=2)
    found = standing_out(color)
    subjects = [Subject("head", box) for box in heads_of(np.ascontiguousarray(color))]
    if (thing := _thing(found)) is not None:
        subjects.append(Subject("thing", thing))
    weight = found**1.5
    return Interest(_profile(weight.sum(axis=0)), _profile(weight.sum(axis=1)), tuple(subjects))


def standing_out(pixels: Pixels8) -> Values:
    """How much each part of a picture stands out, 0..1, at `_EDGE` pixels. pixels: sRGB, height x width x 3."""
    from tray_core.line.barrier import barriers

    lab = np.asarray(cv2.GaussianBlur(_lab(_fitted(pixels, _EDGE)), (0, 0), 0.8), np.float32)
    seeds = _background(lab)
    apart = sum(barriers(np.ascontiguousarray(lab[..., c]), seeds) for c in range(3))
    found = np.asarray(apart, np.float32) * (_detail(pixels, (lab.shape[1], lab.shape[0])) + np.float32(0.1))
    found = np.asarray(cv2.GaussianBlur(found, (0, 0), 1.5), np.float32) * _middle(*found.shape)
    low, high = float(found.min()), float(found.max())
    return ((found - low) / (high - low)).astype(np.float32) if high > low else np.zeros_like(found)


def _fitted(pixels: Pixels8, edge: int) -> Pixels8:
    height, width = pixels.shape[:2]
    scale = min(1.0, edge / max(height, width))
    size = max(8, round(width * scale)), max(8, round(height * scale))
    return np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), np.uint8)


def _lab(pixels: Pixels8) -> Values:
    return np.asarray(cv2.cvtColor(pixels.astype(np.float32) / 255, cv2.COLOR_RGB2Lab), np.float32)


def _background(lab: Values) -> NDArray[np.uint8]:
    """1 at rim pixels that are like their side of the picture, 0 elsewhere."""
    seeds = np.zeros(lab.shape[:2], np.uint8)
    for side in (np.s_[0, :], np.s_[-1, :], np.s_[:, 0], np.s_[:, -1]):
        away = np.linalg.norm(lab[side] - np.median(lab[side], axis=0), axis=1)
        seeds[side] |= away <= max(_RIM_ALIKE, 2.2 * float(np.median(away)))
    return seeds


def _detail(pixels: Pixels8, size: tuple[int, int]) -> Values:
    """Fine detail around each pixel of a picture of `size`: about 1 where there is most."""
    lab = _lab(_fitted(pixels, _DETAIL_EDGE))
    off = cv2.subtract(lab, cv2.GaussianBlur(lab, (0, 0), 1.2))
    # The length of the difference; NumPy's own way takes ten times as long.
    fine = cv2.sqrt(cv2.transform(cv2.multiply(off, off), np.ones((1, 3), np.float32)))
    near = cv2.GaussianBlur(cv2.resize(fine, size, interpolation=cv2.INTER_AREA), (0, 0), 2)
    return np.asarray(np.minimum(near / max(1e-6, float(np.percentile(near, 97))), 1.5), np.float32)


def _middle(height: int, width: int) -> Values:
    x, y = (((np.arange(n) + 0.5) / n - 0.5) ** 2 for n in (width, height))
    return np.exp(-(y[:, None] + x) / (2 * _CENTER**2)).astype(np.float32)


def _thing(found: Values) -> Box | None:
    """The one connected thing that stands out, if there is one."""
    count, labels = cv2.connectedComponents((found > _STANDS_OUT).astype(np.uint8), connectivity=8)
    if count < 2:
        return None
    masses = np.bincount(labels.ravel(), found.ravel(), count)
    masses[0] = 0
    largest = int(masses.argmax())
    if masses[largest] < _ALONE * masses.sum():
        return None
    weight = np.where(labels == largest, found, 0)
    spans = [_span(weight.sum(axis=axis)) for axis in (0, 1)]
    (left, right), (top, bottom) = spans
    area = (right - left) * (bottom - top)
    return (left, top, right, bottom) if _SMALLEST <= area <= _LARGEST else None


def _span(weight: Values) -> tuple[float, float]:
    """Where the weight along an edge begins and ends, but for what is trimmed, in shares of it."""
    share = np.cumsum(weight) / max(1e-9, float(weight.sum()))
    first = int(np.searchsorted(share, _TRIMMED))
    last = int(np.searchsorted(share, 1 - _TRIMMED))
    return first / len(weight), min(1.0, (last + 1) / len(weight))


def _profile(sums: Values) -> bytes:
    even = cv2.resize(sums.reshape(1, -1).astype(np.float32), (STEPS, 1), interpolation=cv2.INTER_AREA)[0]
    top = float(even.max())
    return bytes(np.rint(even * (255 / top) if top > 0 else even).astype(np.uint8))
