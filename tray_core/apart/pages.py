"""Drawings and pages: rendered at the size wanted. They have no pixels of their own; `NOMINAL` stands in for them.

Neither library is given a place to look for other files, and neither fetches anything: what a drawing refers to
outside itself is left out. Scripts in a page are not run; the library is built without an interpreter for them.
"""

from __future__ import annotations

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
    image = _drawing(data, _scale((natural.width, natural.height), wanted))
    if image.width * image.height > limit:
        raise Wrong(expected=f"at most {limit} pixels", found="more", remedy="Raise the limit.", large=True)
    return Picture(image.numpy()[..., :4], "RGB", True, None)


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
    return Picture(np.ascontiguousarray(pixels[..., :3]), "RGB", False, None)
