"""TIFF: every kind of sample that its header can tell, and the name of what is not read.

Sources: TIFF 6.0 (1992) with sections 16 to 23 on masks, inks, transparency, YCbCr and CIE L*a*b*; the Adobe
supplements of 1995 and 2002 for ICC L*a*b* and floating point. Signed integers have their black at 0 and their white
at their largest value, as unsigned ones do; floats have theirs at 0 and 1.
"""

from __future__ import annotations

import io
from dataclasses import dataclass
from typing import Any

import imagecodecs
import numpy as np
import tifffile
from numpy.typing import NDArray

from tray_core.photo.damage import SAVE_ANEW, Wrong
from tray_core.photo.facts import plain
from tray_core.photo.profile_making import CURVES, PRIMARIES, matrix_profile
from tray_core.photo.profiles import read_profile
from tray_core.pixels.decode import from_array
from tray_core.pixels.picture import Picture

Facts = tuple[dict[str, Any], bytes | None]
Values = NDArray[Any]

_EXIF_IFD, _ORIENTATION, _TAKEN, _CHANGED, _ICC = 0x8769, 274, "DateTimeOriginal", 306, 34675
_BITS, _FORMAT, _INK_SET, _COEFFICIENTS, _SUBSAMPLING, _REFERENCE = 258, 339, 332, 529, 530, 532

_KINDS = {0: "grey", 1: "grey", 2: "RGB", 3: "palette", 5: "CMYK", 6: "YCbCr", 8: "Lab", 9: "Lab"}
_COLORS = {"grey": 1, "RGB": 3, "palette": 1, "CMYK": 4, "YCbCr": 3, "Lab": 3}
_WHITE_IS_ZERO, _CIE_LAB = 0, 8
_UNSIGNED, _SIGNED, _FLOAT, _UNTYPED = 1, 2, 3, 4
_NUMBERS = {_UNSIGNED: (*range(1, 17), 32), _SIGNED: (8, 16, 32), _FLOAT: (16, 32, 64)}
_ASSOCIATED, _UNASSOCIATED = 1, 2
_JPEG = (6, 7)
"""Compressions whose decoder turns YCbCr into RGB by itself."""

_WIDE = matrix_profile("L*a*b* (as Rec. 2020)", PRIMARIES[9], CURVES[13])
"""What L*a*b* is turned into: the primaries of Rec. 2020 hold nearly all that surfaces show, the curve is sRGB's."""

_ROWS = 256


@dataclass(frozen=True, slots=True)
class _Samples:
    """What the values of a page mean. alpha: which channel it is, None without; associated: colors carry it already.

    bits, number: of each sample, and whether they are unsigned, signed or floating-point.
    """

    kind: str
    photometric: int
    bits: int
    number: int
    channels: int
    alpha: int | None
    associated: bool


def _refused(found: str) -> Wrong:
    return Wrong(expected="a TIFF of grey, RGB, palette, CMYK, YCbCr or L*a*b* values", found=found, remedy=SAVE_ANEW)


def _samples(page: tifffile.TiffPage) -> _Samples:
    """What the header says; Wrong names what is not understood."""
    photometric = int(page.photometric)
    if photometric not in _KINDS:
        name = getattr(page.photometric, "name", None)
        raise _refused(f"values of the kind {name.replace('_', ' ').lower() if name else photometric}")
    kind, channels = _KINDS[photometric], int(page.samplesperpixel)
    bits = {int(each) for each in np.atleast_1d(page.tags.valueof(_BITS, default=1))}
    numbers = {int(each) for each in np.atleast_1d(page.tags.valueof(_FORMAT, default=_UNSIGNED))}
    if len(bits) > 1 or len(numbers) > 1:
        raise _refused(f"samples of several sizes ({', '.join(map(str, sorted(bits)))} bits)")
    bit, number = bits.pop(), numbers.pop()
    number = _UNSIGNED if number == _UNTYPED else number
    if bit not in _NUMBERS.get(number, ()):
        names = {_UNSIGNED: "whole numbers", _SIGNED: "signed numbers", _FLOAT: "floating-point numbers"}
        raise _refused(f"{names.get(number, 'complex numbers')} of {bit} bits")
    if channels < _COLORS[kind]:
        raise _refused(f"{channels} {'channel' if channels == 1 else 'channels'} of {kind}")
    if kind == "CMYK" and page.tags.valueof(_INK_SET, default=1) != 1:
        raise _refused("inks other than cyan, magenta, yellow and black")
    if kind == "palette" and (number != _UNSIGNED or bit > 16):
        raise _refused("a palette with numbers that cannot count its colors")
    if kind == "Lab" and (number == _FLOAT or bit not in (8, 16)):
        raise _refused(f"L*a*b* values of {bit} bits")
    if kind == "YCbCr" and number != _UNSIGNED:
        raise _refused("YCbCr values that are signed or floating-point")
    extras = [int(each) for each in page.extrasamples or ()]
    at = next((i for i, extra in enumerate(extras) if extra in (_ASSOCIATED, _UNASSOCIATED)), None)
    alpha = None if at is None or _COLORS[kind] + at >= channels else _COLORS[kind] + at
    associated = at is not None and extras[at] == _ASSOCIATED
    return _Samples(kind, photometric, bit, number, channels, alpha, associated)


def tiff_facts(data: bytes) -> Facts:
    """What the first page of a TIFF says of itself, as stored, and its profile."""
    with tifffile.TiffFile(io.BytesIO(data)) as file:
        page = file.pages.first
        samples = _samples(page)
        exif = page.tags.valueof(_EXIF_IFD)
        taken = exif.get(_TAKEN) if isinstance(exif, dict) else None
        found = {
            "width": page.imagewidth,
            "height": page.imagelength,
            "orientation": plain(page.tags.valueof(_ORIENTATION)),
            "depth": samples.bits,
            "mode": {"YCbCr": "RGB", "Lab": "RGB"}.get(samples.kind, samples.kind),
            # Inks lie on paper: what is transparent there is bare paper.
            "alpha": samples.alpha is not None and samples.kind != "CMYK",
            "taken": plain(taken or page.tags.valueof(_CHANGED)),
        }
        icc = _WIDE if samples.kind == "Lab" else page.tags.valueof(_ICC)
    return found, icc if isinstance(icc, bytes) else None


def tiff(data: bytes, wanted: tuple[int, int], limit: int) -> Picture:
    """The first page, as stored; its EXIF orientation is applied later. 8 bits where the file has no more, else 16."""
    with tifffile.TiffFile(io.BytesIO(data)) as file:
        page = file.pages.first
        if page.imagewidth * page.imagelength * page.imagedepth > limit:
            raise Wrong(expected=f"at most {limit:,} pixels", found="more", remedy="Save a smaller copy.", large=True)
        samples = _samples(page)
        icc = page.tags.valueof(_ICC)
        icc = icc if isinstance(icc, bytes) else None
        values = _values(data, page, samples)
        alpha = None if samples.alpha is None else _scaled(values[..., samples.alpha], samples)
        color = values[..., : _COLORS[samples.kind]]
        if samples.kind == "palette":
            color = _from_palette(color[..., 0], page.colormap)
            alpha = _matching(alpha, color)
        elif samples.kind == "Lab":
            color, icc = _from_lab(color, samples), _WIDE
            alpha = _matching(alpha, color)
        elif samples.kind == "YCbCr" and int(page.compression) not in _JPEG and not _by_library(page):
            color = _from_ycbcr(color, samples, page)
        else:
            color = _scaled(color, samples)
    if samples.kind == "CMYK":
        return Picture(_on_paper(color, alpha, samples.associated), "CMYK", False, icc)
    if alpha is not None:
        if samples.associated:
            color = _straight(color, alpha)
        if samples.photometric == _WHITE_IS_ZERO:
            color = np.iinfo(color.dtype).max - color
        color = np.concatenate([color, alpha[..., None]], axis=2)
    elif samples.photometric == _WHITE_IS_ZERO:
        color = np.iinfo(color.dtype).max - color
    return from_array(np.ascontiguousarray(color), icc)


def _by_library(page: tifffile.TiffPage) -> bool:
    """Whether color is coarser than lightness, and not by JPEG's doing: values in units that libtiff takes apart."""
    return bool(page.photometric == 6 and int(page.compression) not in _JPEG and _coarse(page))


def _coarse(page: tifffile.TiffPage) -> bool:
    return tuple(page.tags.valueof(_SUBSAMPLING, default=(2, 2))) != (1, 1)


def _values(data: bytes, page: tifffile.TiffPage, samples: _Samples) -> Values:
    """Height x width x channels, numbers as in the file."""
    if samples.kind == "YCbCr" and _by_library(page):
        if samples.bits != 8 or samples.channels != 3:
            raise _refused("coarse YCbCr values of more than 8 bits, or with transparency")
        return np.asarray(np.asarray(imagecodecs.tiff_decode(data, index=0, asrgb=True))[..., :3])
    values = np.asarray(page.asarray(maxworkers=1))
    if values.dtype == np.bool_:
        values = values.astype(np.uint8)
    height, width = page.imagelength, page.imagewidth
    if page.planarconfig == 2 and samples.channels > 1:
        values = np.moveaxis(values.reshape(-1, samples.channels, height, width)[0], 0, -1)
    shaped: Values = values.reshape(-1, height, width, samples.channels)[0]
    return shaped


def _scaled(values: Values, samples: _Samples) -> Values:
    """Numbers of any size as 8 bits, or as 16 where there are more: exactly in proportion, rounded to nearest."""
    if samples.number == _FLOAT:
        # Infinite values and what is none are black; half floats would not hold what comes of them.
        clean = np.nan_to_num(values.astype(np.float32), nan=0, posinf=0, neginf=0)
        return np.asarray(np.rint(np.clip(clean, 0, 1) * np.float32(65535)), np.uint16)
    most = (1 << (samples.bits - (samples.number == _SIGNED))) - 1
    if samples.number == _SIGNED:
        values = np.maximum(values, 0)
    if most > 65535:
        return np.rint(values.astype(np.float64) * (65535 / most)).astype(np.uint16)
    top, kind = (255, np.uint8) if samples.bits <= 8 else (65535, np.uint16)
    if most == top:
        return values.astype(kind, copy=False)
    table = (np.arange(most + 1, dtype=np.int64) * top + most // 2) // most
    return table.astype(kind)[values]


def _matching(alpha: Values | None, color: Values) -> Values | None:
    """Alpha with as many bits as the color beside it."""
    if alpha is None or alpha.dtype == color.dtype:
        return alpha
    wide = alpha.astype(np.uint32)
    return (wide * 257).astype(np.uint16) if color.dtype == np.uint16 else ((wide + 128) // 257).astype(np.uint8)


def _from_palette(index: Values, palette: Values | None) -> Values:
    if palette is None:
        raise _refused("a palette picture without its palette")
    # Some writers fill 8 of the 16 bits, from below.
    colors = palette.T.astype(np.uint16) * (257 if palette.max() < 256 else 1)
    if np.array_equal((colors >> 8) * 257, colors):
        return (colors >> 8).astype(np.uint8)[index]
    # Others put the 8 bits above zeros, and mean the same.
    return (colors >> 8).astype(np.uint8)[index] if not (colors & 255).any() else colors[index]


def _from_ycbcr(values: Values, samples: _Samples, page: tifffile.TiffPage) -> Values:
    """By the coefficients and reference values of the file (TIFF 6.0, section 21)."""
    most = (1 << samples.bits) - 1
    half = (most + 1) // 2
    red, green, blue = (float(each) for each in _fractions(page.tags.valueof(_COEFFICIENTS), (0.299, 0.587, 0.114)))
    reference = _fractions(page.tags.valueof(_REFERENCE), (0, most, half, most, half, most))
    top, kind = (255, np.uint8) if samples.bits <= 8 else (65535, np.uint16)
    made = np.empty(values.shape, kind)
    for start in range(0, len(values), _ROWS):
        part = values[start : start + _ROWS].astype(np.float32)
        y, cb, cr = (
            (part[..., i] - reference[2 * i]) * (span / (reference[2 * i + 1] - reference[2 * i]))
            for i, span in enumerate((1.0, 0.5, 0.5))
        )
        r = y + cr * (2 - 2 * red)
        b = y + cb * (2 - 2 * blue)
        rgb = np.stack([r, (y - red * r - blue * b) / green, b], -1)
        made[start : start + _ROWS] = np.rint(np.clip(rgb, 0, 1) * top)
    return made


def _fractions(value: Any, usual: tuple[float, ...]) -> tuple[float, ...]:
    """Numbers of a tag, which stores each as two whole ones or as itself."""
    if value is None:
        return usual
    flat = [float(each) for each in np.ravel(value)]
    if len(flat) == 2 * len(usual):
        flat = [top / bottom for top, bottom in zip(flat[::2], flat[1::2], strict=True)]
    return tuple(flat) if len(flat) == len(usual) else usual


def _from_lab(values: Values, samples: _Samples) -> Values:
    """L*a*b* of D50 as `_WIDE`, 16 bits. CIE: a and b are signed; ICC: they are moved up by half of their range."""
    facts = read_profile(_WIDE)
    assert facts is not None and facts.colorants is not None
    to_rgb = np.linalg.inv(facts.colorants)
    unit = 1 << (samples.bits - 8)
    # 16-bit ICC values have 100 at 0xFF00, CIE ones at 0xFFFF.
    whole = 255 * unit if samples.photometric != _CIE_LAB else (1 << samples.bits) - 1
    signed: type[np.signedinteger[Any]] = np.int8 if samples.bits == 8 else np.int16
    made = np.empty(values.shape, np.uint16)
    for start in range(0, len(values), _ROWS):
        part: NDArray[np.uint16] = values[start : start + _ROWS]
        lightness = np.asarray(part[..., 0], np.float64) * (100 / whole)
        if samples.photometric == _CIE_LAB:
            a, b = (part[..., i].astype(signed).astype(np.float64) / float(unit) for i in (1, 2))
        else:
            a, b = (np.asarray(part[..., i], np.float64) / unit - 128 for i in (1, 2))
        y = (lightness + 16) / 116
        roots = np.stack([y + a / 500, y, y - b / 200], -1)
        xyz = np.where(roots > 6 / 29, roots**3, (roots - 4 / 29) * (3 * (6 / 29) ** 2)) * (0.9642, 1, 0.8249)
        linear = np.clip(xyz @ to_rgb.T, 0, 1)
        encoded = np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)
        made[start : start + _ROWS] = np.rint(encoded * 65535)
    return made


def _straight(color: Values, alpha: Values) -> Values:
    """Colors without the alpha that they carry; black where nothing is seen."""
    most = int(np.iinfo(color.dtype).max)
    cover = np.maximum(alpha.astype(np.uint64), 1)[..., None]
    made = np.minimum((color.astype(np.uint64) * most + cover // 2) // cover, most)
    return np.where(alpha[..., None] > 0, made, 0).astype(color.dtype)


def _on_paper(inks: Values, alpha: Values | None, associated: bool) -> Values:
    """Inks where they are seen, and bare paper elsewhere."""
    if alpha is None or associated:
        return np.ascontiguousarray(inks)
    most = int(np.iinfo(inks.dtype).max)
    return ((inks.astype(np.uint64) * alpha[..., None] + most // 2) // most).astype(inks.dtype)
