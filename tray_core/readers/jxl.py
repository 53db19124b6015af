"""JPEG XL: its pixels by libjxl, its size and its colors from the header (ISO/IEC 18181-1, annexes D and E)."""

from __future__ import annotations

import struct
from typing import Any

import imagecodecs
import numpy as np

from tray_core.limits import DEFAULT_LIMITS
from tray_core.photo.damage import SAVE_ANEW, Wrong, check_pixels
from tray_core.photo.profile_making import coded_profile
from tray_core.pixels.decode import from_array
from tray_core.pixels.picture import Picture

_RATIOS = ((1, 1), (12, 10), (4, 3), (3, 2), (16, 9), (5, 4), (2, 1))
_LINEAR, _SRGB_PRIMARIES, _D65 = 8, 1, 1
_GREY, _XYB = 1, 2
_P3 = {11: 12}
"""P3 has one number here, and another with the white of D65 in H.273."""


class _Bits:
    """The header, read bit by bit from the lowest on."""

    def __init__(self, data: bytes) -> None:
        self._left = int.from_bytes(data, "little")

    def take(self, count: int) -> int:
        value, self._left = self._left & ((1 << count) - 1), self._left >> count
        return value

    def one_of(self, *choices: tuple[int, int]) -> int:
        """U32 of the standard: two bits choose (least value, bits of what is added to it)."""
        least, bits = choices[self.take(2)]
        return least + self.take(bits)

    def enum(self) -> int:
        return self.one_of((0, 0), (1, 0), (2, 4), (18, 6))

    def size(self) -> tuple[int, int]:
        """SizeHeader: (width, height)."""
        small = self.take(1)

        def edge() -> int:
            return (self.take(5) + 1) * 8 if small else self.one_of((1, 9), (1, 13), (1, 18), (1, 30))

        height = edge()
        ratio = self.take(3)
        width = edge() if ratio == 0 else height * _RATIOS[ratio - 1][0] // _RATIOS[ratio - 1][1]
        return width, height

    def depth(self) -> None:
        """BitDepth, which the pixels tell themselves."""
        if self.take(1):
            self.one_of((32, 0), (16, 0), (24, 0), (1, 6))
            self.take(4)
        else:
            self.one_of((8, 0), (10, 0), (12, 0), (1, 6))


def _header(data: bytes) -> _Bits:
    start = 2 if data[:2] == b"\xff\x0a" else _codestream(data) + 2
    return _Bits(data[start : start + 512])


def _codestream(data: bytes) -> int:
    """Where the codestream begins in the container (ISO/IEC 18181-2)."""
    at = 0
    while at + 8 <= len(data):
        size, name = struct.unpack_from(">I4s", data, at)
        head = 8
        if size == 1:
            (size,) = struct.unpack_from(">Q", data, at + 8)
            head = 16
        if name == b"jxlc":
            return at + head
        if name == b"jxlp":
            return at + head + 4
        if size < head:
            break
        at += size
    raise Wrong(expected="a JPEG XL picture", found="a container without one", remedy=SAVE_ANEW)


def jpeg_xl_size(data: bytes) -> tuple[int, int]:
    """(width, height) as stored."""
    return _header(data).size()


def jpeg_xl_profile(data: bytes) -> bytes | None:
    """The color space of the values that libjxl gives: a profile, or None for sRGB and for what cannot be told.

    Pictures in the format's own space come out in the space that the header names, or in linear light where it holds
    a whole profile. A profile beside values that were stored as they are is compressed in a way that only libjxl reads.
    """
    bits = _header(data)
    bits.size()
    if bits.take(1):  # everything as usual
        return None
    if bits.take(1):
        bits.take(3)
        if bits.take(1):
            bits.size()
        if bits.take(1) or bits.take(1):
            return None  # with a preview, or moving
    bits.depth()
    bits.take(1)
    for _ in range(bits.one_of((0, 0), (1, 0), (2, 4), (1, 12))):
        if not bits.take(1):
            return None  # not plain alpha
    own_space = bits.take(1)
    if bits.take(1):
        return None
    if bits.take(1):
        return coded_profile(_SRGB_PRIMARIES, _LINEAR) if own_space else None
    space = bits.enum()
    if space in (_GREY, _XYB) or bits.enum() != _D65:
        return None
    primaries = bits.enum()
    return None if bits.take(1) else coded_profile(_P3.get(primaries, primaries), bits.enum())


def jpeg_xl_facts(data: bytes) -> tuple[dict[str, Any], bytes | None]:
    """Decodes it: the header says only the size, which is checked first."""
    picture = jpeg_xl(data, (0, 0), DEFAULT_LIMITS.pixels)
    width, height = picture.size
    depth = 16 if picture.pixels.dtype == np.uint16 else 8
    facts = {"width": width, "height": height, "depth": depth, "alpha": picture.alpha, "mode": picture.space}
    return facts, picture.icc


def jpeg_xl(data: bytes, wanted: tuple[int, int], limit: int) -> Picture:
    """The first frame."""
    width, height = jpeg_xl_size(data)
    check_pixels(width, height, limit)
    pixels = imagecodecs.jpegxl_decode(data, index=0, numthreads=1)
    if pixels.dtype.kind == "f":
        pixels = np.rint(np.clip(np.nan_to_num(pixels), 0, 1) * 65535).astype(np.uint16)
    color = pixels.ndim == 3 and pixels.shape[2] >= 3
    return from_array(pixels, jpeg_xl_profile(data) if color else None)
