"""A perceptual score: how much like the picture a file looks that was made of it, 100 for no difference at all.

SSIMULACRA 2.1 (J. Sneyers; published under a BSD licence with libjxl), in 32-bit floats:

1. Both pictures are taken to linear light and from there to XYB, the opponent space of JPEG XL (ISO/IEC 18181-1): X is
   red against green, Y lightness, B blue against lightness.
2. At six scales, each the mean of four pixels of the one before, in linear light, three maps are made of a plane, with
   means and (co)variances under a Gaussian of 1.5 pixels: how dissimilar it is,
       d = 1 - (1 - (mx - my)^2) (2 sxy + c) / (sxx + syy + c),
   where it has edges that the picture lacks, and where it lacks some. Of each map the mean counts, or the root
   of the mean of fourth powers, which the worst places decide.
3. Their weighted sum becomes the score by a curve.

Of its 108 weights, those below a hundredth are left out: the score stays within 0.1. Where a plane counts nowhere at a
scale, it is not made there.
"""

from __future__ import annotations

import functools
import io
from dataclasses import replace

import cv2
import numpy as np
import simplejpeg
from numpy.typing import NDArray
from PIL import Image

from tray_core.pixels.color import flatten, to_8, to_rgb_channels, to_srgb
from tray_core.pixels.decode import from_pillow
from tray_core.pixels.picture import Picture, Pixels8

Floats = NDArray[np.float32]

_SCALES = 6
_STABLE = np.float32(0.0009)
_LEAST_EDGE = 8
_REACH = 5
_PARTS, _PART = (4, 3), 240
"""Edge in pixels of a part that is looked at where not all is; whole blocks of every coder."""

_GREY = (119, 119, 119)

_BIAS = 0.0037930732552754493
_MIXED = np.array(
    (
        (0.30, 0.622, 0.078),
        (0.23, 0.692, 0.078),
        (0.24342268924547819, 0.20476744424496821, 1 - 0.24342268924547819 - 0.20476744424496821),
    ),
    np.float32,
)
"""Linear red, green and blue to what the three kinds of cones take in."""

_UNLIKE, _ADDED, _LOST = 0, 1, 2
_MEAN, _FOURTH = 0, 1

# (plane, scale): {(map, norm): weight}, as published.
_WEIGHTS: dict[tuple[str, int], dict[tuple[int, int], float]] = {
    ("X", 1): {(_UNLIKE, _FOURTH): 1.104173},
    ("X", 2): {(_UNLIKE, _FOURTH): 1.842246, (_ADDED, _FOURTH): 11.44117},
    ("X", 3): {(_UNLIKE, _FOURTH): 1.878759, (_ADDED, _FOURTH): 10.94907},
    ("X", 4): {(_ADDED, _MEAN): 0.9677937, (_ADDED, _FOURTH): 0.9981767},
    ("Y", 0): {(_UNLIKE, _FOURTH): 7.46689, (_LOST, _FOURTH): 17.44583},
    ("Y", 1): {(_UNLIKE, _FOURTH): 6.683678, (_LOST, _FOURTH): 1.02789},
    ("Y", 2): {(_UNLIKE, _MEAN): 225.2052, (_UNLIKE, _FOURTH): 19.21324},
    ("Y", 3): {(_UNLIKE, _MEAN): 176.3932, (_UNLIKE, _FOURTH): 24.43301, (_ADDED, _FOURTH): 0.285208},
    ("Y", 4): {(_UNLIKE, _FOURTH): 34.77906, (_ADDED, _FOURTH): 44.83563},
    ("B", 3): {(_UNLIKE, _FOURTH): 8.826983, (_ADDED, _FOURTH): 23.19243},
    ("B", 4): {
        (_UNLIKE, _MEAN): 95.10805,
        (_ADDED, _MEAN): 0.9863978,
        (_LOST, _MEAN): 0.9834383,
        (_ADDED, _FOURTH): 171.2667,
        (_LOST, _FOURTH): 0.9807859,
    },
}

_SUM, _CURVE, _POWER = (
    0.9562382616834844,
    (2.326765642916932, -0.020884521182843837, 6.248496625763138e-05),
    0.6276336467831387,
)


@functools.lru_cache(maxsize=1)
def _linear() -> Floats:
    values = np.arange(256) / 255
    return np.where(values <= 0.04045, values / 12.92, ((values + 0.055) / 1.055) ** 2.4).astype(np.float32)


class _Plane:
    """One plane at one scale, with its means and variances."""

    def __init__(self, values: Floats) -> None:
        self.values = values
        self.mean = _blur(values)
        self.variance = _blur(values * values) - self.mean * self.mean

    def unlike(self, other: _Plane) -> Floats:
        """How dissimilar the other plane is, place by place."""
        shared = _blur(self.values * other.values) - self.mean * other.mean
        apart = self.mean - other.mean
        alike = (1 - apart * apart) * (2 * shared + _STABLE) / (self.variance + other.variance + _STABLE)
        return np.maximum(1 - alike, 0)

    def edges(self, other: _Plane) -> Floats:
        """By how much the other plane's edges are stronger, or weaker, below zero."""
        theirs, own = (1 + np.abs(each.values - each.mean) for each in (other, self))
        return np.asarray(theirs / own - 1, np.float32)


def _blur(values: Floats) -> Floats:
    """The Gaussian; nothing lies above and below a picture, as the reference has it, and beside it its mirror image."""
    room = cv2.copyMakeBorder(values, _REACH, _REACH, 0, 0, cv2.BORDER_CONSTANT, value=0)
    made = cv2.GaussianBlur(room, (2 * _REACH + 1, 2 * _REACH + 1), 1.5, borderType=cv2.BORDER_REFLECT)
    return np.asarray(made[_REACH:-_REACH], np.float32)


def _norm(values: Floats, norm: int) -> float:
    if norm == _MEAN:
        return float(values.mean())
    squares = values * values
    return float(np.mean(squares * squares) ** 0.25)


def _xyb(light: Floats, planes: tuple[str, ...]) -> dict[str, Floats]:
    """Some planes of linear light, moved into the positive as the method has it."""
    cones = np.asarray(cv2.transform(light, _MIXED), np.float32) + np.float32(_BIAS)
    roots = np.asarray(cv2.pow(np.maximum(cones, 0), 1 / 3), np.float32) - np.float32(_BIAS ** (1 / 3))
    lightness = (roots[..., 0] + roots[..., 1]) / 2
    made = {}
    if "X" in planes:
        made["X"] = (roots[..., 0] - roots[..., 1]) * np.float32(7) + np.float32(0.42)
    if "Y" in planes:
        made["Y"] = lightness + np.float32(0.01)
    if "B" in planes:
        made["B"] = roots[..., 2] - lightness + np.float32(0.55)
    return made


def _planes(pixels: Pixels8) -> list[dict[str, _Plane]]:
    """The planes that count at every scale that a picture has."""
    light = np.asarray(cv2.LUT(pixels, _linear()), np.float32)
    made = []
    for scale in range(_SCALES):
        if scale:
            light = _halved(light)
        if min(light.shape[:2]) < _LEAST_EDGE:
            break
        names = tuple(plane for plane, at in _WEIGHTS if at == scale)
        made.append({name: _Plane(values) for name, values in _xyb(light, names).items()})
    return made


def _halved(light: Floats) -> Floats:
    """The mean of every four pixels; an odd edge is made even by repeating its last."""
    height, width = light.shape[:2]
    even = cv2.copyMakeBorder(light, 0, height % 2, 0, width % 2, cv2.BORDER_REPLICATE)
    size = even.shape[1] // 2, even.shape[0] // 2
    return np.asarray(cv2.resize(even, size, interpolation=cv2.INTER_AREA), np.float32)


def _difference(one: list[dict[str, _Plane]], other: list[dict[str, _Plane]]) -> float:
    """The weighted sum over all maps; scales that a small picture does not have count nothing."""
    total = 0.0
    for (plane, scale), weights in _WEIGHTS.items():
        if scale >= len(one):
            continue
        a, b = one[scale][plane], other[scale][plane]
        maps: dict[int, Floats] = {}
        if any(kind == _UNLIKE for kind, _ in weights):
            maps[_UNLIKE] = a.unlike(b)
        if any(kind != _UNLIKE for kind, _ in weights):
            edges = a.edges(b)
            maps[_ADDED], maps[_LOST] = np.maximum(edges, 0), np.maximum(-edges, 0)
        total += sum(weight * _norm(maps[kind], norm) for (kind, norm), weight in weights.items())
    return total


def _score_of(difference: float) -> float:
    made = difference * _SUM
    bent = sum(factor * made ** (i + 1) for i, factor in enumerate(_CURVE))
    return float(100 - 10 * max(0.0, bent) ** _POWER)


def seen(picture: Picture) -> Pixels8:
    """A picture as a screen shows it: 8-bit sRGB, height x width x 3, on middle grey where it is transparent."""
    opaque = to_rgb_channels(flatten(picture, _GREY))
    return np.ascontiguousarray(to_8(to_srgb(opaque) if opaque.space == "CMYK" else opaque).pixels)


def _sample(pixels: Pixels8) -> Pixels8:
    """Twelve parts of a picture, evenly spread, as one; all of a picture that is hardly larger than they."""
    height, width = pixels.shape[:2]
    across, down = _PARTS
    if width < (across + 0.5) * _PART or height < (down + 0.5) * _PART:
        return pixels
    lefts = [round((i + 0.5) * width / across - _PART / 2) for i in range(across)]
    tops = [round((i + 0.5) * height / down - _PART / 2) for i in range(down)]
    rows = [[pixels[top : top + _PART, left : left + _PART] for left in lefts] for top in tops]
    return np.ascontiguousarray(np.concatenate([np.concatenate(row, axis=1) for row in rows]))


def decoded(data: bytes) -> Picture:
    """A rendition's bytes (JPEG, WebP, AVIF, PNG, GIF, or PDF around a JPEG) as a picture, as people will see it."""
    if data.startswith(b"%PDF"):
        data = data[data.index(b"\xff\xd8\xff") :]
    if data.startswith(b"\xff\xd8"):
        with Image.open(io.BytesIO(data)) as image:
            mode = image.mode
        if mode != "CMYK":
            pixels = simplejpeg.decode_jpeg(data, "RGB", strict=False)
            return Picture(pixels, "RGB", False, None)
    return from_pillow(data)


class Scorer:
    """One picture, and how much like it files are.

    picture: as it was given to the coder. All that is computed of it alone is computed once. sampled: look at
    twelve parts of a large picture only, which takes a fraction of the time and is within two or three points of the
    whole above 75.
    """

    def __init__(self, picture: Picture, sampled: bool = False) -> None:
        self._sampled = sampled
        self._own = _planes(self._looked_at(picture))

    def _looked_at(self, picture: Picture) -> Pixels8:
        pixels = seen(picture)
        return _sample(pixels) if self._sampled else pixels

    def score(self, other: Picture) -> float:
        """Up to 100 for a picture of the same size; below 0 where little is left of it."""
        return _score_of(_difference(self._own, _planes(self._looked_at(replace(other, icc=None)))))

    def score_of_file(self, data: bytes) -> float:
        """The same for a file's bytes."""
        return self.score(decoded(data))
