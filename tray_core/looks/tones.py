"""A tone seen on a working copy: its picture, its light, a grey spot, a proposal."""

from __future__ import annotations

import functools
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from tray_core.coders import encode
from tray_core.line.toning import apply_tone
from tray_core.photo.facts import read_facts
from tray_core.photo.profiles import SRGB, tone_curves
from tray_core.pixels.color import flatten, to_8, to_16, to_rgb_channels, to_srgb
from tray_core.pixels.decode import decode
from tray_core.pixels.picture import Picture
from tray_core.recipe.file import JpegFile
from tray_core.tone import Tone
from tray_core.tone.curves import balanced_by
from tray_core.tone.proposing import proposed

BINS = 64
_SMALL = 256
PATCH = 0.012
"""Half the side of the patch that a grey is taken from, in parts of the long edge."""

_BLACKEST, _WHITEST = 1, 254
"""Of 8-bit values: beyond these nothing is told apart."""

_WEIGHTS = (0.2126, 0.7152, 0.0722)


@dataclass(frozen=True, slots=True)
class Light:
    """How light is spread, by BINS steps of encoded values: of luminance, red, green and blue, shares of the picture.

    black, white: the shares that have no more detail, in all channels at once, and in any of them.
    """

    luminance: list[float]
    red: list[float]
    green: list[float]
    blue: list[float]
    black: float
    white: float


@functools.lru_cache(maxsize=6)
def _opened(copy: bytes, edge: int) -> Picture:
    """Opened once for all that is tried: who draws along a number asks for the same copy again and again."""
    facts = read_facts("working copy", data=copy)
    picture = to_rgb_channels(flatten(decode(facts, copy, (facts.width, facts.height))))
    scale = min(1.0, edge / max(picture.size))
    size = (max(1, round(picture.size[0] * scale)), max(1, round(picture.size[1] * scale)))
    if size == picture.size:
        return picture
    return Picture(cv2.resize(picture.pixels, size, interpolation=cv2.INTER_AREA), "RGB", False, picture.icc)


def _toned(copy: bytes, tone: Tone, edge: int, developed: bool) -> Picture:
    """A working copy with a tone, 8 bits in sRGB. developed: for it, as `line.preview.developed_copies` are."""
    picture = _opened(copy, edge)
    made = to_8(to_srgb(apply_tone(picture, tone, max(picture.size), developed=developed)))
    return replace(made, pixels=cv2.flip(made.pixels, 1)) if tone.mirror else made


def toned_copy(copy: bytes, tone: Tone, edge: int, lost: bool = False, developed: bool = False) -> bytes:
    """A JPEG, in sRGB, of a working copy with a tone, `edge` pixels long at most.

    lost: paint what has no more detail: white in red, black in blue. developed: whether the copy was, for this tone.
    """
    made = _toned(copy, tone, edge, developed)
    if lost:
        pixels = made.pixels.copy()
        white, black = made.pixels.max(axis=2) >= _WHITEST, made.pixels.max(axis=2) <= _BLACKEST
        pixels[white], pixels[black] = (214, 48, 38), (40, 84, 214)
        made = Picture(pixels, "RGB", False, made.icc)
    return encode(made, JpegFile(format="jpeg", quality=90))


def light_of(copy: bytes, tone: Tone, developed: bool = False) -> Light:
    """How the light of a working copy is spread with a tone, in sRGB. developed: as in `toned_copy`."""
    values = _toned(copy, tone, _SMALL, developed).pixels.reshape(-1, 3)
    luminance = values @ np.array(_WEIGHTS)
    channels = [luminance, *(values[:, c] for c in range(3))]
    spread = [np.histogram(each, bins=BINS, range=(0, 256))[0] / len(values) for each in channels]
    brightest = values.max(axis=1)
    black, white = float((brightest <= _BLACKEST).mean()), float((brightest >= _WHITEST).mean())
    light, red, green, blue = (each.tolist() for each in spread)
    return Light(light, red, green, blue, black, white)


def _linear(picture: Picture) -> NDArray[np.float64]:
    curve = tone_curves(picture.icc or SRGB, 65536)[1]
    return np.asarray(curve[to_16(picture).pixels], np.float64)


def grey_at(copy: bytes, x: float, y: float, developed: bool = False) -> tuple[int, int]:
    """(temperature, tint) that make what lies at a spot grey: x, y in shares of the photo, over a small patch.

    developed: as in `toned_copy`; a cast is of the photo's own colors then, and not of sRGB.
    """
    picture = _opened(copy, 100_000)
    width, height = picture.size
    reach = max(1, round(PATCH * max(width, height)))
    column, row = min(width - 1, int(x * width)), min(height - 1, int(y * height))
    part = picture.pixels[max(0, row - reach) : row + reach + 1, max(0, column - reach) : column + reach + 1]
    patch = Picture(np.ascontiguousarray(part), "RGB", False, picture.icc if developed else None)
    return balanced_by(_linear(patch).reshape(-1, 3).mean(axis=0))


def propose_for(copy: bytes) -> Tone:
    """A tone proposed from a working copy."""
    return proposed(_linear(_opened(copy, _SMALL)).reshape(-1, 3), _WEIGHTS)
