"""ICC profiles: reading what a matrix profile says, naming it, and telling equals apart by color.

Two profiles are the same when they give the same colors, not when they have the same bytes: the
commonest fast path of the line is to see that nothing needs converting. Source: ICC.1:2022.
"""

from __future__ import annotations

import functools
import struct
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

SRGB = (Path(__file__).parent.parent / "profiles" / "sRGB.icc").read_bytes()
"""The sRGB profile that renditions carry (IEC 61966-2-1, 556 bytes, CC0)."""

ASSUMED_CMYK = Path(__file__).parent.parent / "profiles" / "CMYK.icc"
"""What the inks of a CMYK photo without a profile are taken for (public domain, an offset print)."""

_SPACES = {b"RGB ": "RGB", b"GRAY": "grey", b"CMYK": "CMYK", b"Lab ": "Lab"}
_STEPS = 64

DAMAGED = "damaged profile"
"""The description of a profile that begins well and cannot be read."""


@dataclass(frozen=True, kw_only=True, slots=True)
class ProfileFacts:
    """description: as written in it. space: RGB, grey, CMYK, Lab or the raw signature.

    colorants: 3 x 3, columns red, green, blue in PCS XYZ (D50), or None when not a matrix profile.
    curves: 3 x 64 samples of the three tone curves on [0, 1], or None.
    """

    description: str
    space: str
    colorants: NDArray[np.float64] | None
    curves: NDArray[np.float64] | None

    def luminance_weights(self) -> tuple[float, float, float]:
        """The Y row of the colorants, summing to 1; sRGB's where there is no matrix."""
        if self.colorants is None:
            return (0.2126, 0.7152, 0.0722)
        row = self.colorants[1] / self.colorants[1].sum()
        return (float(row[0]), float(row[1]), float(row[2]))


def tags_of(icc: bytes) -> dict[bytes, bytes]:
    """The tags of a profile with their bytes; those that reach beyond its end are left out."""
    (count,) = struct.unpack_from(">I", icc, 128)
    found = {}
    for i in range(min(count, 100, (len(icc) - 132) // 12)):
        name, offset, size = struct.unpack_from(">4sII", icc, 132 + 12 * i)
        if offset + size <= len(icc):
            found[name] = icc[offset : offset + size]
    return found


def _text(tag: bytes) -> str:
    if tag[:4] == b"mluc":
        length, offset = struct.unpack_from(">II", tag, 20)
        text = tag[offset : offset + length].decode("utf-16-be", "replace")
    elif tag[:4] == b"desc":
        (length,) = struct.unpack_from(">I", tag, 8)
        text = tag[12 : 12 + length].decode("latin-1")
    else:
        text = ""
    return text.rstrip("\0").strip()


def _xyz(tag: bytes) -> list[float]:
    return [value / 65536 for value in struct.unpack_from(">3i", tag, 8)]


def _curve(tag: bytes, steps: int) -> NDArray[np.float64]:
    x = np.linspace(0, 1, steps)
    if tag[:4] == b"curv":
        (count,) = struct.unpack_from(">I", tag, 8)
        if count == 0:
            return x
        table = np.frombuffer(tag, ">u2", count, 12).astype(np.float64)
        if count == 1:
            return np.asarray(x ** (table[0] / 256), np.float64)
        return np.asarray(np.interp(x, np.linspace(0, 1, count), table / 65535), np.float64)
    (kind,) = struct.unpack_from(">H", tag, 8)
    count = (1, 3, 4, 5, 7)[kind]
    values = [value / 65536 for value in struct.unpack_from(f">{count}i", tag, 12)]
    g, a, b, c, d, e, f = (values + [1.0, 0.0, 0.0, 0.0, 0.0, 0.0][len(values) - 1 :])[:7]
    if kind == 0:
        return np.asarray(x**g, np.float64)
    if kind in (1, 2):
        c, d, e, f = 0.0, -b / a, (c if kind == 2 else 0.0), (c if kind == 2 else 0.0)
    power = np.maximum(a * x + b, 0) ** g + e
    return np.asarray(np.where(x >= d, power, c * x + f), np.float64)


@functools.lru_cache(maxsize=256)
def read_profile(icc: bytes) -> ProfileFacts | None:
    """What `icc` says of itself, or None when it is not an ICC profile at all."""
    if len(icc) < 132 or icc[36:40] != b"acsp":
        return None
    space = _SPACES.get(icc[16:20], icc[16:20].decode("latin-1").strip())
    try:
        tags = tags_of(icc)
        if 132 + 12 * struct.unpack_from(">I", icc, 128)[0] > len(icc):
            raise ValueError("a table of tags that is cut short")
        description = _text(tags.get(b"desc", b"")) or "unnamed profile"
        matrix = curves = None
        # A profile with a look-up table is converted by its table, whatever matrix it has besides.
        if space == "RGB" and b"rXYZ" in tags and b"A2B0" not in tags:
            matrix = np.array([_xyz(tags[n]) for n in (b"rXYZ", b"gXYZ", b"bXYZ")]).T
            curves = np.array([_curve(tags[n], _STEPS) for n in (b"rTRC", b"gTRC", b"bTRC")])
    except (KeyError, IndexError, ValueError, ZeroDivisionError, struct.error):
        return ProfileFacts(description=DAMAGED, space=space, colorants=None, curves=None)
    return ProfileFacts(description=description, space=space, colorants=matrix, curves=curves)


@functools.lru_cache(maxsize=16)
def tone_curves(icc: bytes, steps: int) -> NDArray[np.float32]:
    """The red, green and blue curve of a matrix profile: 3 x steps, from encoded to linear, on [0, 1]."""
    return exact_curves(icc, steps).astype(np.float32)


def exact_curves(icc: bytes, steps: int) -> NDArray[np.float64]:
    """The same in double precision."""
    tags = tags_of(icc)
    return np.clip([_curve(tags[name], steps) for name in (b"rTRC", b"gTRC", b"bTRC")], 0, 1)


@functools.lru_cache(maxsize=256)
def same_color(one: bytes, other: bytes) -> bool:
    """Whether two profiles turn every value into the same color, to half an 8-bit step."""
    if one == other:
        return True
    a, b = read_profile(one), read_profile(other)
    if a is None or b is None or a.colorants is None or b.colorants is None:
        return False
    assert a.curves is not None and b.curves is not None
    # Half a step at the dark end, where the curve is steepest against the eye, is 1 / (255 * 12.92 * 2).
    return bool(np.abs(a.colorants - b.colorants).max() < 1e-3 and np.abs(a.curves - b.curves).max() < 1.5e-3)


# Chromaticities as D50-adapted colorants (Bradford), rounded as profiles do.
_KNOWN = {
    "Display P3": np.array([[0.51512, 0.29198, 0.15710], [0.24120, 0.69225, 0.06657], [-0.00105, 0.04189, 0.78407]]),
    "Adobe-RGB-compatible": np.array(
        [[0.60974, 0.20528, 0.14919], [0.31111, 0.62567, 0.06322], [0.01947, 0.06087, 0.74457]]
    ),
}


def profile_name(icc: bytes | None) -> str | None:
    """A name for people: the space's own name where the colors are those of a well-known one.

    None without a profile.
    """
    if icc is None:
        return None
    if same_color(icc, SRGB):
        return "sRGB"
    facts = read_profile(icc)
    if facts is None:
        return "not an ICC profile"
    if facts.colorants is not None and facts.curves is not None:
        middle = float(facts.curves[0][_STEPS // 2])
        for name, colorants in _KNOWN.items():
            gamma = (0.5079**2.19921875) if name.startswith("Adobe") else 0.2218
            if np.abs(facts.colorants - colorants).max() < 2e-3 and abs(middle - gamma) < 5e-3:
                return name
    return facts.description
