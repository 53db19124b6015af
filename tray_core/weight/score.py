"""A perceptual score: how much like the picture a file looks that was made of it, 100 for no difference at all.

Method, our own, of the family of multi-scale structural similarity (Wang, Simoncelli and Bovik, 2003):

1. Both pictures are taken to linear light, and from there to L, a cube root of luminance, and to the opponent values
   A (red against lightness) and B (lightness against blue), as eyes have them.
2. At five scales, each the mean of four pixels of the one before, in linear light, a map of dissimilarity is made of
   L; of A and B at the second and third scale only, since color is seen more coarsely:
       d = 1 - (1 - (mx - my)^2) (2 sxy + c) / (sxx + syy + c),    means and (co)variances under a Gaussian of 1.5 px.
3. Of every map the mean counts, and the root of the mean of fourth powers, which the worst places decide.
4. score = 100 - sqrt(weights . features).

The weights were fitted (non-negative least squares) on 170 pairs of ten pictures, coded as JPEG, WebP and AVIF from
bad to perfect, so that the score is near that of SSIMULACRA 2.1, whose reference implementation gave the answers:
within 0.7 rms above 75 for pictures left out of the fit. scripts/fit_score.py does it again.
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

_SCALES = 5
_COLOR_SCALES = (1, 2)
_STABLE = np.float32(0.0009)
_DARK = np.float32(0.004)
_LEAST_EDGE = 8
_PART = 320
"""Edge in pixels of a part that is looked at where not all is; whole blocks of every coder."""

_GREY = (119, 119, 119)
_Y = np.array([[0.2126, 0.7152, 0.0722]], np.float32)

# For each scale: of L the mean and the fourth-power mean, then, where they count, those of A and of B.
WEIGHTS = np.array(
    (
        *(0, 2072.281),
        *(0, 910.912, 0, 0, 0, 0),
        *(47325.578, 40708.725, 0, 3280.076, 4545.8, 1633.328),
        *(132927.646, 18408.876),
        *(0, 31018.426),
    )
)


@functools.lru_cache(maxsize=1)
def _linear() -> Floats:
    values = np.arange(256) / 255
    return np.where(values <= 0.04045, values / 12.92, ((values + 0.055) / 1.055) ** 2.4).astype(np.float32)


class _Plane:
    """One channel at one scale, with its means and variances."""

    def __init__(self, values: Floats) -> None:
        self.values = values
        self.mean = _blur(values)
        self.variance = _blur(values * values) - self.mean * self.mean

    def features(self, other: _Plane) -> tuple[float, float]:
        """The mean of the dissimilarity, and the root of the mean of its fourth powers."""
        shared = _blur(self.values * other.values) - self.mean * other.mean
        apart = self.mean - other.mean
        alike = (1 - apart * apart) * (2 * shared + _STABLE) / (self.variance + other.variance + _STABLE)
        unlike = np.maximum(1 - alike, 0)
        squares = unlike * unlike
        return float(unlike.mean()), float(np.mean(squares * squares)) ** 0.25


def _blur(values: Floats) -> Floats:
    return np.asarray(cv2.GaussianBlur(values, (9, 9), 1.5), np.float32)


def _root(values: Floats) -> Floats:
    return np.asarray(cv2.pow(values + _DARK, 1 / 3), np.float32)


def _planes(pixels: Pixels8) -> list[list[_Plane]]:
    """L, A and B of every scale, A and B where they count."""
    light = np.asarray(cv2.LUT(pixels, _linear()), np.float32)
    made = []
    for scale in range(_SCALES):
        if scale:
            height, width = light.shape[0] // 2, light.shape[1] // 2
            if min(height, width) < _LEAST_EDGE:
                break
            light = np.asarray(cv2.resize(light, (width, height), interpolation=cv2.INTER_AREA), np.float32)
        luminance = np.asarray(cv2.transform(light, _Y), np.float32)
        lightness = _root(luminance)
        planes = [_Plane(lightness)]
        if scale in _COLOR_SCALES:
            planes.append(_Plane(_root(light[..., 0] * 0.75 + luminance * 0.25) - lightness))
            planes.append(_Plane(lightness - _root(light[..., 2] * 0.75 + luminance * 0.25)))
        made.append(planes)
    return made


def features(one: list[list[_Plane]], other: list[list[_Plane]]) -> NDArray[np.float64]:
    """All features of two pictures; scales that a small picture does not have repeat its last."""
    found = [
        [value for a, b in zip(x, y, strict=True) for value in a.features(b)] for x, y in zip(one, other, strict=True)
    ]
    while len(found) < _SCALES:
        missing = len(found)
        found.append((found[-1] * 3)[: 6 if missing in _COLOR_SCALES else 2])
    return np.array([value for scale in found for value in scale])


def seen(picture: Picture) -> Pixels8:
    """A picture as a screen shows it: 8-bit sRGB, height x width x 3, on middle grey where it is transparent."""
    opaque = to_rgb_channels(flatten(picture, _GREY))
    return np.ascontiguousarray(to_8(to_srgb(opaque) if opaque.space == "CMYK" else opaque).pixels)


def _sample(pixels: Pixels8) -> Pixels8:
    """Six parts of a picture, evenly spread, as one; all of a picture that is hardly larger than they."""
    height, width = pixels.shape[:2]
    if width < 3.5 * _PART or height < 2.5 * _PART:
        return pixels
    lefts = [round((i + 0.5) * width / 3 - _PART / 2) for i in range(3)]
    tops = [round((i + 0.5) * height / 2 - _PART / 2) for i in range(2)]
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

    picture: as it was given to the coder. All that is computed of it alone is computed once. sampled: look at six
    parts of a large picture only, which takes a fraction of the time and is within a point or two of the whole.
    """

    def __init__(self, picture: Picture, sampled: bool = False) -> None:
        self._sampled = sampled
        self._own = _planes(self._looked_at(picture))

    def _looked_at(self, picture: Picture) -> Pixels8:
        pixels = seen(picture)
        return _sample(pixels) if self._sampled else pixels

    def score(self, other: Picture) -> float:
        """0 to 100 for a picture of the same size."""
        return score_of(features(self._own, _planes(self._looked_at(replace(other, icc=None)))))

    def score_of_file(self, data: bytes) -> float:
        """0 to 100 for a file's bytes."""
        return self.score(decoded(data))


def score_of(found: NDArray[np.float64]) -> float:
    """The score that features give."""
    return max(0.0, 100 - float(np.sqrt(found @ WEIGHTS)))
