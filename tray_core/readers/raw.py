"""Camera raw: developed with the camera's white balance into a wide space, 16 bits a channel.

Demosaicing at half the size where that is enough: each block of four sensor pixels gives one of the picture.
"""

from __future__ import annotations

import io
from typing import Any

import rawpy
import tifffile

from tray_core.photo.damage import check_pixels
from tray_core.photo.profile_files import NAMED
from tray_core.pixels.picture import Picture
from tray_core.pixels.scale import CLOSE, covers

_GAMMA = (563 / 256, 0)
_QUARTER_TURNS = (5, 6)


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
    with rawpy.imread(io.BytesIO(data)) as raw:
        width, height = _size(raw)
        check_pixels(width, height, limit)
        half = covers((width // 2, height // 2), wanted, CLOSE)
        pixels = raw.postprocess(
            use_camera_wb=True,
            no_auto_bright=True,
            half_size=half,
            output_bps=16,
            output_color=rawpy.ColorSpace.Adobe,
            gamma=_GAMMA,
        )
    made = Picture(pixels, "RGB", False, NAMED["adobe-rgb"])
    extent = (0.0, 0.0, width / 2, height / 2) if half and made.size != (width / 2, height / 2) else None
    return Picture(made.pixels, "RGB", False, made.icc, extent)


def is_raw(data: bytes) -> bool:
    """Whether the raw library knows `data`."""
    try:
        rawpy.imread(io.BytesIO(data)).close()
    except Exception:  # any error means no
        return False
    return True
