"""Contact sheets: finished files laid out in rows and columns on pages, with what they are called below."""

from __future__ import annotations

import io
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from pypdf import PdfWriter

from tray_core.coders import encode
from tray_core.errors import TrayError
from tray_core.line.resize import resize
from tray_core.line.write import put
from tray_core.marks.text import drawn, fitted
from tray_core.photo.facts import read_bytes, read_facts
from tray_core.photo.profiles import SRGB
from tray_core.pixels.color import flatten, to_8, to_16, to_rgb_channels, to_srgb
from tray_core.pixels.decode import decode
from tray_core.pixels.picture import Picture, Pixels8
from tray_core.recipe.file import JpegFile, PdfFile
from tray_core.recipe.finish import TextMark
from tray_core.recipe.place import Sheets

_PPI = 200
"""Of pages of paper: enough for pictures of some centimeters."""

_QUALITY = 88
_LEADING = 1.35
_NAME = "contact-sheet"
_SMALLEST, _INK = 4, 40
_LETTERS = TextMark(text="x")


@dataclass(frozen=True, slots=True)
class Piece:
    """One finished file, with the words of its photo. title: may be empty."""

    path: Path
    title: str = ""


def write_sheets(folder: Path, pieces: Sequence[Piece], sheets: Sheets, title: str) -> list[Path]:
    """Lay finished files out on pages in `folder`, and return the paths of what was written.

    pieces: in their order, row by row. title: stands at the foot of each page. One PDF with all pages, or a JPEG for
    each. A name that is taken is left alone: the new file gets a number. Where a file cannot be opened, its place stays
    empty. PlaceError as `put` raises it.
    """
    count = max(1, math.ceil(len(pieces) / sheets.count))
    if sheets.format == "jpeg":
        file = JpegFile(format="jpeg", quality=_QUALITY, chroma="444")
        made = []
        for number, page in enumerate(_pages(pieces, sheets, title), 1):
            behind = f"-{number:02}" if count > 1 else ""
            made.append(
                put(encode(page, file, _PPI if sheets.paper else None), folder, f"{_NAME}{behind}.jpg", "new-name", ())
            )
        return [path for path in made if path is not None]
    writer = PdfWriter()
    for page in _pages(pieces, sheets, title):
        one = encode(page, PdfFile(format="pdf", quality=_QUALITY), _PPI if sheets.paper else None)
        writer.append(io.BytesIO(one))
    whole = io.BytesIO()
    writer.write(whole)
    path = put(whole.getvalue(), folder, f"{_NAME}.pdf", "new-name", ())
    return [path] if path is not None else []


def _pages(pieces: Sequence[Piece], sheets: Sheets, title: str) -> Iterator[Picture]:
    """The pages, one at a time: in sRGB, 8 bits."""
    width, height = sheets.pixels(_PPI)
    short = min(width, height)
    margin, gap = round(sheets.margin * short / 100), round(sheets.gap * short / 100)
    letters = max(9, round(0.011 * short)) if sheets.caption != "none" else 0
    foot = round(2.4 * letters)
    lines = {"none": 0, "both": 2}.get(sheets.caption, 1)
    beside = round(0.7 * letters)
    below = beside + round(lines * _LEADING * letters) if lines else 0
    wide = (width - 2 * margin - (sheets.columns - 1) * gap) / sheets.columns
    high = (height - 2 * margin - foot - (sheets.rows - 1) * gap) / sheets.rows
    count = max(1, math.ceil(len(pieces) / sheets.count))
    for number in range(count):
        page = np.full((height, width, 3), 255, np.uint8)
        for place, piece in enumerate(pieces[number * sheets.count : (number + 1) * sheets.count]):
            row, column = divmod(place, sheets.columns)
            # Edges are rounded, not sizes: cells without a gap touch.
            left, right = (round(margin + column * (wide + gap) + more) for more in (0, wide))
            top, bottom = (round(margin + row * (high + gap) + more) for more in (0, high))
            _lay_picture(page, piece, (left, top, right - left, bottom - top - below))
            for line, text in enumerate(_said(piece, sheets)):
                _write(
                    page,
                    text,
                    letters,
                    (left, bottom - below + beside + round(_LEADING * letters * line), right - left),
                )
        if letters:
            told = f"{title} · {number + 1} of {count}" if count > 1 else title
            _write(page, told, letters, (margin, height - margin - letters, width - 2 * margin))
        yield Picture(page, "RGB", False, SRGB if sheets.paper else None)


def _said(piece: Piece, sheets: Sheets) -> list[str]:
    texts = {"none": [], "name": [piece.path.name], "title": [piece.title], "both": [piece.path.name, piece.title]}
    return [text for text in texts[sheets.caption] if text]


def _lay_picture(page: Pixels8, piece: Piece, area: tuple[int, int, int, int]) -> None:
    """Lay a file into an area (left, top, width, height), as large as it fits, in the middle."""
    left, top, wide, high = area
    if wide < 1 or high < 1:
        return
    try:
        data = read_bytes(piece.path)
        facts = read_facts(piece.path, data=data)
        scale = min(wide / facts.width, high / facts.height)
        size = max(1, min(wide, round(facts.width * scale))), max(1, min(high, round(facts.height * scale)))
        picture = decode(facts, data, size)
        if picture.space == "CMYK" or facts.profile not in (None, "sRGB"):
            picture = to_16(picture)
        made = resize(to_rgb_channels(flatten(to_8(to_srgb(picture)))), *size)
    except TrayError:
        return
    x, y = left + (wide - size[0]) // 2, top + (high - size[1]) // 2
    page[y : y + size[1], x : x + size[0]] = made.pixels


def _write(page: Pixels8, text: str, size: int, at: tuple[int, int, int]) -> None:
    """Write a line of letters of `size` pixels in the middle of (left, top, width); smaller where it would be wider."""
    left, top, wide = at
    mark = _LETTERS.model_copy(update={"size": float(size), "least": _SMALLEST})
    # Of a short edge of 100 pixels, per cent are pixels. Two lines do not fit into so little height.
    mask, _ = drawn(fitted(mark, text, (float(wide), 1.3 * size), 100.0), "center")
    mask = mask[: page.shape[0] - top, :wide]
    x = left + (wide - mask.shape[1]) // 2
    part = page[top : top + mask.shape[0], x : x + mask.shape[1]]
    cover = mask[..., None].astype(np.float32) / 255
    part[...] = np.rint(part * (1 - cover) + _INK * cover).astype(np.uint8)
