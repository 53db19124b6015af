"""Matrix profiles made from published numbers, for pictures that name their color space without carrying a profile.

Source: ICC.1:2022 for the file; ITU-T H.273 for the code points of primaries and transfer functions; the PNG
specification, third edition, for gAMA, cHRM and cICP. Adaptation to D50 by the matrix of the sRGB profile (Bradford).
"""

from __future__ import annotations

import functools
import struct

import numpy as np
from numpy.typing import NDArray

from tray_core.photo.profiles import SRGB, tags_of

Point = tuple[float, float]
"""A chromaticity (x, y)."""

D65: Point = (0.3127, 0.3290)
PRIMARIES: dict[int, tuple[Point, Point, Point]] = {
    1: ((0.640, 0.330), (0.300, 0.600), (0.150, 0.060)),
    9: ((0.708, 0.292), (0.170, 0.797), (0.131, 0.046)),
    12: ((0.680, 0.320), (0.265, 0.690), (0.150, 0.060)),
}
"""By H.273 code point: those of sRGB, of Rec. 2020, of P3."""

_NAMES = {1: "Rec. 709", 9: "Rec. 2020", 12: "P3"}
_BT_709 = (1 / 0.45, 1 / 1.099, 0.099 / 1.099, 1 / 4.5, 0.081)
_SRGB_CURVE = (2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045)
CURVES = {
    1: _BT_709,
    6: _BT_709,
    14: _BT_709,
    15: _BT_709,
    4: (2.2,),
    5: (2.8,),
    8: (1.0,),
    13: _SRGB_CURVE,
}
"""By H.273 code point: parameters of ICC parametric curves, one for a plain power. PQ and HLG have none."""

_CURVE_NAMES = dict.fromkeys((1, 6, 14, 15), "video curve") | {
    4: "gamma 2.2",
    5: "gamma 2.8",
    8: "linear",
    13: "sRGB curve",
}


def matrix_profile(
    name: str, primaries: tuple[Point, Point, Point], curve: tuple[float, ...], white: Point = D65
) -> bytes:
    """An RGB profile. curve: a gamma alone, or (g, a, b, c, d) of an ICC parametric curve of type 3."""
    red, green, blue = _colorants(primaries, white).T
    tags = {b"desc": text(name), **_shared(), b"rXYZ": _xyz(red), b"gXYZ": _xyz(green), b"bXYZ": _xyz(blue)}
    return _profile(b"RGB ", tags | dict.fromkeys((b"rTRC", b"gTRC", b"bTRC"), _curve(curve)))


def grey_profile(name: str, curve: tuple[float, ...] = _SRGB_CURVE) -> bytes:
    """A grey profile with the curve given, sRGB's by default."""
    return _profile(b"GRAY", {b"desc": text(name), **_shared(), b"kTRC": _curve(curve)})


@functools.lru_cache(maxsize=32)
def coded_profile(primaries: int, transfer: int) -> bytes | None:
    """The profile for two H.273 code points; None where they say nothing that a matrix profile can say."""
    if primaries not in PRIMARIES or transfer not in CURVES:
        return None
    if primaries == 1 and transfer == 13:
        return SRGB
    name = "Display P3" if (primaries, transfer) == (12, 13) else f"{_NAMES[primaries]}, {_CURVE_NAMES[transfer]}"
    return matrix_profile(name, PRIMARIES[primaries], CURVES[transfer])


@functools.lru_cache(maxsize=32)
def gamma_profile(gamma: int, chroma: tuple[int, ...] | None) -> bytes | None:
    """The profile that gAMA and cHRM of a PNG describe, in units of 1/100,000; None where it is as good as sRGB."""
    points = [(x / 1e5, y / 1e5) for x, y in zip(chroma[::2], chroma[1::2], strict=True)] if chroma else None
    usual = points is None or np.abs(np.array(points) - np.array([D65, *PRIMARIES[1]])).max() < 0.002
    if not 10_000 <= gamma <= 100_000 or (usual and abs(gamma - 45_455) < 200):
        return None  # as good as sRGB, which is what a picture without a profile is taken for
    white, red, green, blue = points if points and not usual else [D65, *PRIMARIES[1]]
    try:
        return matrix_profile(f"Gamma {1e5 / gamma:.2f}", (red, green, blue), (1e5 / gamma,), white)
    except (ZeroDivisionError, np.linalg.LinAlgError, struct.error):
        return None


def _white(x: float, y: float) -> NDArray[np.float64]:
    return np.array([x / y, 1, (1 - x - y) / y])


def _colorants(primaries: tuple[Point, Point, Point], white: Point) -> NDArray[np.float64]:
    """3 x 3, columns red, green, blue in XYZ adapted to D50."""
    chad = np.array(struct.unpack_from(">9i", tags_of(SRGB)[b"chad"], 8)).reshape(3, 3) / 65536
    basis = np.array([_white(x, y) for x, y in primaries]).T
    return np.asarray(chad @ (basis * np.linalg.solve(basis, _white(*white))))


def _shared() -> dict[bytes, bytes]:
    own = tags_of(SRGB)
    return {b"cprt": text("CC0 1.0, no rights reserved"), b"wtpt": own[b"wtpt"], b"chad": own[b"chad"]}


def text(words: str) -> bytes:
    """A multiLocalizedUnicode tag in English."""
    encoded = words.encode("utf-16-be")
    return struct.pack(">4s4xII2s2sII", b"mluc", 1, 12, b"en", b"US", len(encoded), 28) + encoded


def _xyz(values: NDArray[np.float64]) -> bytes:
    return struct.pack(">4s4x3i", b"XYZ ", *(round(float(v) * 65536) for v in values))


def _curve(values: tuple[float, ...]) -> bytes:
    fixed = [round(value * 65536) for value in values]
    return struct.pack(f">4s4xHxx{len(fixed)}i", b"para", 0 if len(fixed) == 1 else 3, *fixed)


def _profile(space: bytes, tags: dict[bytes, bytes]) -> bytes:
    """A profile with the header of our sRGB; equal tags share their bytes."""
    table, body = b"", b""
    places: dict[bytes, int] = {}
    start = 132 + 12 * len(tags)
    for name, tag in tags.items():
        if tag not in places:
            body += bytes(-(start + len(body)) % 4)
            places[tag] = start + len(body)
            body += tag
        table += struct.pack(">4sII", name, places[tag], len(tag))
    made = struct.pack(">I", len(tags)) + table + body
    made += bytes(-len(made) % 4)
    head = bytearray(SRGB[:128])
    head[:4], head[16:20] = struct.pack(">I", 128 + len(made)), space
    return bytes(head) + made
