"""Camera raw: developed with the camera's white balance into a wide space, 16 bits a channel.

Demosaicing at half the size where that is enough: each block of four sensor pixels gives one of the picture. What a
file describes of its lens is corrected. For a tone, another white balance, less noise, and all the light above white.
"""

from __future__ import annotations

import io
from typing import Any

import numpy as np
import rawpy
import tifffile

from tray_core.photo.damage import check_pixels
from tray_core.photo.profile_files import NAMED
from tray_core.pixels.picture import Picture
from tray_core.pixels.scale import CLOSE, covers
from tray_core.readers.noise import without_noise
from tray_core.readers.opcodes import corrected, gain_maps, opcodes_of
from tray_core.tone import Development
from tray_core.tone.model import HEADROOM

_GAMMA = (563 / 256, 0)
_QUARTER_TURNS = (5, 6)
_TURNS = {3: 2, 5: 1, 6: 3}
"""Quarter turns against the clock, by the raw library's numbers."""

_FROM_XYZ = np.array([[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]])
"""To linear sRGB (IEC 61966-2-1)."""

_SINGULAR, _DIMMEST = 1e-3, 0.05

_LIGHTS = {"shade": (0.2990, 0.3149), "lamp": (0.4476, 0.4074)}
"""Chromaticities: daylight of 7500 K, and CIE standard illuminant A (CIE 15:2004)."""


def _size(raw: rawpy.RawPy) -> tuple[int, int]:
    sizes = raw.sizes
    width, height = sizes.width, sizes.height
    return (height, width) if sizes.flip in _QUARTER_TURNS else (width, height)


def facts(data: bytes) -> tuple[dict[str, Any], bytes]:
    """Size as developed, upright; the moment of exposure where the file says it."""
    with rawpy.imread(io.BytesIO(data)) as raw:
        width, height = _size(raw)
    return {"width": width, "height": height, "depth": 16, "taken": _taken(data)}, NAMED["adobe-rgb"]


def _taken(data: bytes) -> str | None:
    try:
        with tifffile.TiffFile(io.BytesIO(data)) as file:
            tags = file.pages.first.tags
            exif = tags.valueof(34665)
            found = exif.get("DateTimeOriginal") if isinstance(exif, dict) else None
            return str(found or tags.valueof(306) or "") or None
    except Exception:  # not every raw file is built like a TIFF
        return None


def decode(data: bytes, wanted: tuple[int, int], limit: int) -> Picture:
    """Develop, upright, without brightening by content: the same exposure is the same brightness."""
    return _developed(data, wanted, limit, None)


def develop(data: bytes, wanted: tuple[int, int], limit: int, development: Development) -> Picture:
    """The same for a tone: linear light is divided by `HEADROOM`, so that nothing that the sensor saw is cut off."""
    return _developed(data, wanted, limit, development)


def _developed(data: bytes, wanted: tuple[int, int], limit: int, development: Development | None) -> Picture:
    opcodes = opcodes_of(data)
    with rawpy.imread(io.BytesIO(data)) as raw:
        width, height = _size(raw)
        check_pixels(width, height, limit)
        half = covers((width // 2, height // 2), wanted, CLOSE)
        turns = _TURNS.get(raw.sizes.flip, 0)  # developing changes sizes and flip
        exact = (raw.sizes.width / 2, raw.sizes.height / 2) if half else (raw.sizes.width, raw.sizes.height)
        if 2 in opcodes and raw.raw_type == rawpy.RawType.Flat:
            blacks = np.asarray(raw.black_level_per_channel, np.float64)[raw.raw_colors_visible]
            gain_maps(opcodes[2], raw.raw_image_visible, blacks, raw.white_level)
        how = {"use_camera_wb": True} if development is None else _how(raw, development)
        pixels: Any = raw.postprocess(
            no_auto_bright=True,
            half_size=half,
            output_bps=16,
            output_color=rawpy.ColorSpace.Adobe,
            gamma=_GAMMA,
            user_flip=0,
            **how,
        )
    if development is not None and (development.noise or development.color_noise):
        pixels = without_noise(pixels, development.noise, development.color_noise, 1 if half else 2)
    if 3 in opcodes:
        pixels = corrected(opcodes[3], pixels, _GAMMA[0])
    upright = np.ascontiguousarray(np.rot90(pixels, turns))
    return Picture(upright, "RGB", False, NAMED["adobe-rgb"], _extent(pixels.shape[1::-1], exact, turns))


def _extent(size: tuple[int, int], exact: tuple[float, float], turns: int) -> tuple[float, float, float, float] | None:
    """Where the photo lies in pixels that were rounded up on the right and below, after quarter turns."""
    if size == exact:
        return None
    (wide, high), (right, bottom) = size, exact
    return {
        0: (0.0, 0.0, right, bottom),
        1: (0.0, wide - right, bottom, float(wide)),
        2: (wide - right, high - bottom, float(wide), float(high)),
        3: (high - bottom, 0.0, float(high), right),
    }[turns]


def _how(raw: rawpy.RawPy, development: Development) -> dict[str, Any]:
    """What the raw library is asked for. It darkens by the spread of the multipliers where highlights are kept."""
    multipliers = _multipliers(raw, development.balance)
    spread = max(multipliers) / min(multipliers)
    return {
        "user_wb": multipliers,
        "highlight_mode": rawpy.HighlightMode.ReconstructDefault,
        "bright": spread / HEADROOM,
    }


def _multipliers(raw: rawpy.RawPy, balance: str) -> list[float]:
    """Of red, green, blue and the other green: what makes a grey of this light grey."""
    daylight = raw.daylight_whitebalance[:3]
    found = raw.camera_whitebalance[:3] if balance == "shot" else daylight
    if min(found) <= 0:
        found = daylight if min(daylight) > 0 else [1.0, 1.0, 1.0]
    if balance in _LIGHTS:
        found = [each / light for each, light in zip(found, _as_seen(raw, *_LIGHTS[balance]), strict=True)]
    return [*found, found[1]]


def _as_seen(raw: rawpy.RawPy, x: float, y: float) -> list[float]:
    """What a light of this chromaticity is to a camera that is balanced for daylight."""
    linear: Any = _FROM_XYZ @ (x / y, 1.0, (1 - x - y) / y)
    to_srgb = np.asarray(raw.color_matrix, np.float64)[:3, :3]
    if abs(np.linalg.det(to_srgb)) > _SINGULAR:
        linear = np.linalg.solve(to_srgb, linear)
    return [float(max(each, _DIMMEST)) for each in linear / linear[1]]


def camera_preview(data: bytes) -> tuple[bytes, int]:
    """The JPEG that the camera put into the file for a first look, empty where there is none, and the quarter turns
    against the clock that make what the sensor saw upright.
    """
    with rawpy.imread(io.BytesIO(data)) as raw:
        turns = _TURNS.get(raw.sizes.flip, 0)
        try:
            found = raw.extract_thumb()
        except (rawpy.LibRawNoThumbnailError, rawpy.LibRawUnsupportedThumbnailError):
            return b"", turns
    return (bytes(found.data) if found.format == rawpy.ThumbFormat.JPEG else b""), turns


def is_raw(data: bytes) -> bool:
    """Whether the raw library knows `data`."""
    try:
        rawpy.imread(io.BytesIO(data)).close()
    except Exception:  # any error means no
        return False
    return True
