"""An outline looked for in a photo's own file."""

from __future__ import annotations

from pathlib import Path

from tray_core.coders import encode
from tray_core.limits import Limits
from tray_core.line.preview import trace, traced_pixels
from tray_core.photo.facts import read_bytes, read_facts
from tray_core.pixels.picture import Picture
from tray_core.recipe.file import JpegFile
from tray_core.tracing import Found


def outline_in(file: Path, limits: Limits) -> Found:
    """The outline of the object in the photo at `file`, and what is doubtful of it; a PhotoError names the file."""
    data = read_bytes(file, limits)
    return trace(read_facts(file, limits, data), data)


def picture_of(file: Path, limits: Limits) -> bytes:
    """The photo at `file` as outlines are looked for in it: a JPEG in sRGB."""
    data = read_bytes(file, limits)
    pixels = traced_pixels(read_facts(file, limits, data), data)
    return encode(Picture(pixels, "RGB", False, None), JpegFile(format="jpeg", quality=90))
