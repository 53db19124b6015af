"""Drawings and pages: rendered at the size wanted. They have no pixels of their own; `NOMINAL` stands in for them.

Neither library is given a place to look for other files, and neither fetches anything: what a drawing refers to
outside itself is left out. Scripts in a page are not run; the library is built without an interpreter for them.
"""

from __future__ import annotations

import base64
import io
import re
from dataclasses import replace
from typing import Any

import numpy as np
import pypdfium2
import pyvips
from PIL import Image

from tray_core.photo.damage import Wrong, check_pixels
from tray_core.pixels.picture import Picture

NOMINAL = 4000
"""The long edge in pixels that a drawing or a page is taken to have."""

_MOST_SCALE = 400
_INNER = re.compile(rb"data:image/(?!svg)[\w.+-]+;base64,([^\"'<>)]*)")
_INNER_HEAD = 400_000
"""Characters of a picture inside a drawing that are looked at for its size; of a JPEG that may stand far behind."""
_INNER_PIXELS = 100_000_000
_ROOT = re.compile(rb"<((?:[\w-]+:)?svg)\b[^>]*>")
_VIEW_BOX = re.compile(rb"\bviewBox\s*=\s*[\"']([^\"']*)[\"']")


def _nominal(width: float, height: float) -> tuple[int, int]:
    if not (width > 0 and height > 0):
        raise Wrong(expected="a page with a size", found=f"{width:g} x {height:g}", remedy="Save it anew.")
    scale = NOMINAL / max(width, height)
    return max(1, round(width * scale)), max(1, round(height * scale))


def _scale(natural: tuple[float, float], wanted: tuple[int, int]) -> float:
    return min(_MOST_SCALE, max(wanted[0] / natural[0], wanted[1] / natural[1]))


def _drawing(data: bytes, scale: float = 1) -> pyvips.Image:
    return pyvips.Image.svgload_buffer(data, scale=scale)


def _check_inner(data: bytes) -> None:
    """Raise Wrong where pictures inside a drawing declare more pixels than all of them together may have."""
    pixels = 0
    for found in _INNER.finditer(data):
        start = re.sub(rb"\s|&#?\w+;", b"", found.group(1)[:_INNER_HEAD])
        try:
            with Image.open(io.BytesIO(base64.b64decode(start[: len(start) // 4 * 4]))) as image:
                pixels += image.width * image.height
        except (OSError, ValueError, SyntaxError):
            continue  # too broken to be drawn, or not a picture with pixels
        if pixels > _INNER_PIXELS:
            raise Wrong(
                expected=f"pictures of at most {_INNER_PIXELS / 1e6:g} megapixels in a drawing",
                found=f"{pixels / 1e6:.0f} megapixels",
                remedy="Make the pictures in it smaller, and save it anew.",
                large=True,
            )


def svg_facts(data: bytes) -> tuple[dict[str, Any], None]:
    """The nominal size of a drawing."""
    _check_inner(data)
    image = _drawing(data)
    width, height = _nominal(image.width, image.height)
    return {"width": width, "height": height, "alpha": True}, None


def svg(data: bytes, wanted: tuple[int, int], limit: int) -> Picture:
    """A drawing at the size wanted, on nothing."""
    natural = _drawing(data)
    scale = _scale((natural.width, natural.height), wanted)
    image = _drawing(_filling(data, natural.width, natural.height), scale)
    check_pixels(image.width, image.height, limit)
    return Picture(image.numpy()[..., :4], "RGB", True, None)


def _filling(data: bytes, width: int, height: int) -> bytes:
    """A drawing that fills whole pixels to their edge, by less than half a pixel's stretching.

    As it comes, it is put into the middle of them, and its rim would be half clear. One whose contents have another
    shape than the drawing itself is left alone: it says where they go.
    """
    if (root := _ROOT.search(data)) is None:
        return data
    tag = root.group()
    if (box := _VIEW_BOX.search(tag)) is not None:
        try:
            _, _, wide, high = (float(each) for each in re.split(rb"[\s,]+", box.group(1).strip()))
        except ValueError:
            return data
        if b"preserveAspectRatio" in tag or high <= 0 or abs(wide / high * height / width - 1) > 1 / min(width, height):
            return data
        more = b' preserveAspectRatio="none"'
    else:
        more = f' viewBox="0 0 {width} {height}" preserveAspectRatio="none"'.encode()
    at = root.start() + len(root.group(1)) + 1
    return data[:at] + more + data[at:]


def _placed(picture: Picture, width: float, height: float) -> Picture:
    """`picture` of a page on white, with where the page lies in it, whose size was rounded up to whole pixels.

    The last column and row are covered by the page in part only, and were mixed with white. That is undone, since
    the extent says the same once more.
    """
    exact = min(width, picture.size[0]), min(height, picture.size[1])
    if exact == picture.size:
        return picture
    pixels = picture.pixels.copy()
    for edge, length, have in ((pixels[:, -1], exact[0], picture.size[0]), (pixels[-1], exact[1], picture.size[1])):
        covered = length - (have - 1)
        if 0.02 < covered < 1:
            edge[...] = np.rint(np.clip((edge - 255.0 * (1 - covered)) / covered, 0, 255))
    return replace(picture, pixels=pixels, extent=(0, 0, *exact))


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
    check_pixels(round(natural[0] * scale), round(natural[1] * scale), limit)
    bitmap = page.render(scale=scale, rev_byteorder=True, may_draw_forms=False)
    # The library lends its memory: a copy is made while `bitmap` is still there.
    made = Picture(np.array(bitmap.to_numpy()[..., :3], order="C"), "RGB", False, None)
    return _placed(made, natural[0] * scale, natural[1] * scale)
