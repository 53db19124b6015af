"""The readers themselves, by kind. They run in the other process, and raise whatever their libraries raise."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from tray_core.limits import Limits
from tray_core.photo.facts import read_facts
from tray_core.pixels.picture import Picture
from tray_core.readers import codecs, jxl, pages, raw, tiff

Facts = tuple[dict[str, Any], bytes | None]


@dataclass(frozen=True, slots=True)
class Reader:
    """facts: fields of `PhotoFacts` that the content says, and its profile.

    decode: content, (width, height) wanted of the upright picture, most pixels; the picture is at least that large,
    or the photo's full size.
    """

    facts: Callable[[bytes], Facts]
    decode: Callable[[bytes, tuple[int, int], int], Picture]


def _jpeg(data: bytes, wanted: tuple[int, int], pixels: int) -> Picture:
    """One that asks for more work than it may here."""
    # Here, since the other side of this process is decoded there too.
    from tray_core.pixels.decode import decode_jpeg

    return decode_jpeg(read_facts("a JPEG", Limits(pixels=pixels), data), data, wanted)


READERS = {
    "JPEG": Reader(codecs.common_facts, _jpeg),
    "TIFF": Reader(tiff.tiff_facts, tiff.tiff),
    "WebP": Reader(codecs.common_facts, codecs.common),
    "AVIF": Reader(codecs.avif_facts, codecs.avif),
    "GIF": Reader(codecs.common_facts, codecs.common),
    "BMP": Reader(codecs.common_facts, codecs.common),
    "layered": Reader(codecs.common_facts, codecs.common),
    "OpenRaster": Reader(codecs.open_raster_facts, codecs.open_raster),
    "HEIC": Reader(codecs.heic_facts, codecs.heic),
    "JPEG XL": Reader(jxl.jpeg_xl_facts, jxl.jpeg_xl),
    "JPEG 2000": Reader(codecs.jpeg_2000_facts, codecs.jpeg_2000),
    "SVG": Reader(pages.svg_facts, pages.svg),
    "PDF": Reader(pages.pdf_facts, pages.pdf),
    "camera raw": Reader(raw.facts, raw.decode),
}
