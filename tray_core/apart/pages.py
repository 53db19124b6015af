"""Drawings and pages: rendered at the size wanted. They have no pixels of their own; `NOMINAL` stands in for them.

Neither library is given a place to look for other files, and neither fetches anything: what a drawing refers to
outside itself is left out. Scripts in a page are not run; the library is built without an interpreter for them.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pypdfium2
import pyvips

from tray_core.apart.wrong import Wrong
from tray_core.pixels.picture import Picture

NOMINAL = 4000
"""The long edge in pixels that a drawing or a page is taken to have."""

_MOST_SCALE = 400


def _nominal(width: float, height: float) -> tuple[int, int]:
    if not (width > 0 and height > 0):
        raise Wrong(expected="a page with a size", found=f"{width:g} x {height:g}", remedy="Save it anew.")
    scale = NOMINAL / max(width, height)
    return max(1, round(width * scale)), max(1, round(height * scale))


def _scale(natural: tuple[float, float], wanted: tuple[int, int]) -> float:
    return min(_MOST_SCALE, max(wanted[0] / natural[0], wanted[1] / natural[1]))


def _drawing(data: bytes, scale: float = 1) -> pyvips.Image:
    return pyvips.Image.svgload_buffer(data, scale=scale)


def svg_facts(data: bytes) -> tuple[dict[str, Any], None]:
    """The nominal size of a drawing."""
    image = _drawing(data)
    width, height = _nominal(image.width, image.height)
    return {"width": width, "height": height, "alpha": True}, None


def svg(data: bytes, wanted: tuple[int, int], limit: int) -> Picture:
    """A drawing at the size wanted, on nothing."""
    natural = _drawing(data)
    scale = _scale((natural.width, natural.height), wanted)
    image = _drawing(data, scale)
    if image.width * image.height > limit:
        raise Wrong(expected=f"at most {limit} pixels", found="more", remedy="Raise the limit.", large=True)
    return _placed(Picture(image.numpy()[..., :4], "RGB", True, None), natural.width * scale, natural.height * scale)


def _placed(picture: Picture, width: float, height: float) -> Picture:
    """`picture` with where the page lies in it, whose size was rounded up to whole pixels."""
    exact = min(width, picture.size[0]), min(height, picture.size[1])
    return picture if exact == picture.size else replace(picture, extent=(0, 0, *exact))


def pdf_facts(data: bytes) -> tuple[dict[str, Any], None]:
    """The nominal size of a document's first page."""
    document = pypdfium2.PdfDocument(data)
    width, height = _nominal(*document[0].get_size())
    return {"width": width, "height": height}, None


def pdf(data: bytes, wanted: tuple[int, int], limit: int) -> Picture:
    """A document's first page at the size wanted, on white."""
    page = pypdfium2.PdfDocument(data)[0]
    natural = page.get_size()
    scale = _scale(natural, wanted)
    if natural[0] * natural[1] * scale * scale > limit:
        raise Wrong(expected=f"at most {limit} pixels", found="more", remedy="Raise the limit.", large=True)
    pixels = page.render(scale=scale, rev_byteorder=True, may_draw_forms=False).to_numpy()
    made = Picture(np.ascontiguousarray(pixels[..., :3]), "RGB", False, None)
    return _placed(made, natural[0] * scale, natural[1] * scale)
