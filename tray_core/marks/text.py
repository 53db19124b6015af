"""Text as a mask: fitted into the room that there is, shaped by its script, turned.

A text is never cut off: what is too long for its line is wrapped between words, and made smaller until it fits.
"""

from __future__ import annotations

import functools
import math
import unicodedata
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from tray_core.marks.fonts import font_for, loaded
from tray_core.recipe.finish import Mark, TextMark

Mask = NDArray[np.uint8]
"""height x width; how much of each pixel is covered, 0..255."""

_SMALLEST = 4
"""Of letters, in pixels: nobody reads what is smaller, so nothing is shrunk any further."""

_ALIGNED = {"left": 0.0, "center": 0.5, "right": 1.0}
_STEP = 0.93
_LEADING = 1.25
_LONGEST = 400
"""Characters of a mark; more is no mark."""


@dataclass(frozen=True, slots=True)
class Fitted:
    """A text as it is going to be drawn. size: of its letters in pixels. missing: characters that no font has.

    smaller: whether it had to be made smaller than its mark says. edge: how far what sets the letters off reaches, in
    pixels; an outline, or else a shadow.
    """

    lines: tuple[str, ...]
    font: Path
    size: int
    spacing: float
    missing: str
    smaller: bool
    edge: int
    outline: bool


def room_for(mark: Mark, area: tuple[int, int]) -> tuple[float, float]:
    """(width, height) in pixels that a mark may take of an area of so many: all but its margins."""
    margin = mark.margin * min(area) / 100
    return max(1.0, area[0] - 2 * margin), max(1.0, area[1] - 2 * margin)


def wanted_size(mark: TextMark, short_edge: float, seen: float = 1.0) -> float:
    """The letters' size in pixels that a mark asks for. seen: how much smaller than the rendition a look at it is."""
    size = mark.size * short_edge / 100
    size = max(size, mark.least * seen)
    return min(size, mark.most * seen) if mark.most is not None else size


@functools.lru_cache(maxsize=4096)
def fitted(mark: TextMark, text: str, room: tuple[float, float], short_edge: float, seen: float = 1.0) -> Fitted:
    """Fit `text` into `room`, (width, height) in pixels, of a rendition with a `short_edge` of so many.

    RecipeError where a font of one's own is missing or is none.
    """
    text = text[:_LONGEST]
    font, missing = font_for(text, mark.font, mark.weight)
    text = "".join(each for each in text if each not in missing)
    asked = size = wanted_size(mark, short_edge, seen)
    least = _SMALLEST * min(1.0, seen)
    while True:
        pixels = max(1, round(size))
        # Where nothing is read any more, words are broken too: what is written stays whole.
        made = _lines(text, font, pixels, mark.spacing, _room_at(room, mark.angle), breaks=size <= least)
        if (made is not None and _fits(made, font, pixels, mark, room)) or pixels == 1:
            break
        size = max(size * _STEP, least) if size > least else size * _STEP
    made = made or tuple(text.split("\n"))
    edge = 0 if mark.edge == "none" else max(1, round(pixels * (0.06 if mark.edge == "outline" else 0.1)))
    return Fitted(made, font, pixels, mark.spacing, missing, size < asked * 0.999, edge, mark.edge == "outline")


def _room_at(room: tuple[float, float], angle: float) -> float:
    """How long one line may be in a room where it stands at an angle."""
    sine, cosine = abs(math.sin(math.radians(angle))), abs(math.cos(math.radians(angle)))
    lengths = [edge / part for edge, part in ((room[0], cosine), (room[1], sine)) if part > 1e-6]
    return min(lengths)


def _lines(text: str, path: Path, size: int, spacing: float, longest: float, breaks: bool) -> tuple[str, ...] | None:
    """The text in lines of at most `longest` pixels; None where one word alone is longer, unless it breaks."""
    font = loaded(path, size)
    lines: list[str] = []
    for given in text.split("\n"):
        line = ""
        for word in given.split(" "):
            longer = f"{line} {word}" if line else word
            if not line or _width(longer, font, spacing) <= longest:
                line = longer
            else:
                lines.append(line)
                line = word
            while len(line) > 1 and _width(line, font, spacing) > longest:
                if not breaks:
                    return None
                shorter = [n for n in range(1, len(line)) if _width(line[:n], font, spacing) <= longest]
                fits = max(shorter, default=1)
                lines.append(line[:fits])
                line = line[fits:]
        lines.append(line)
    return tuple(lines)


def _fits(lines: tuple[str, ...], path: Path, size: int, mark: TextMark, room: tuple[float, float]) -> bool:
    font = loaded(path, size)
    wide = max(_width(line, font, mark.spacing) for line in lines)
    high = size * _LEADING * len(lines)
    sine, cosine = abs(math.sin(math.radians(mark.angle))), abs(math.cos(math.radians(mark.angle)))
    return wide * cosine + high * sine <= room[0] + 0.5 and wide * sine + high * cosine <= room[1] + 0.5


def drawn(text: Fitted, align: str = "left") -> tuple[Mask, Mask | None]:
    """The letters, and what sets them off (an outline or a soft shadow), upright, close around all of it.

    align: left, center or right, of several lines.
    """
    font = loaded(text.font, text.size)
    widths = [_width(line, font, text.spacing) for line in text.lines]
    # Italics and accents reach beyond their line; what is too much is cut away again.
    beside = text.size + 4 * text.edge
    width, height = math.ceil(max(widths)) + 2 * beside, math.ceil(text.size * _LEADING * len(text.lines)) + 2 * beside
    letters = Image.new("L", (width, height))
    draw = ImageDraw.Draw(letters)
    for number, (line, wide) in enumerate(zip(text.lines, widths, strict=True)):
        left = beside + _ALIGNED[align] * (max(widths) - wide)
        _write(draw, (left, beside + text.size * (_LEADING * number + 0.95)), line, font, text.spacing)
    found = np.asarray(letters)
    around = _around(found, text)
    box = Image.fromarray(found if around is None else around).getbbox()
    if box is None:
        return np.zeros((1, 1), np.uint8), None
    rows, columns = slice(box[1], box[3]), slice(box[0], box[2])
    return found[rows, columns], around[rows, columns] if around is not None else None


def _around(letters: Mask, text: Fitted) -> Mask | None:
    if text.edge == 0:
        return None
    import cv2  # here, since planning fits texts but draws none, and need not wait for it

    if text.outline:
        disk = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * text.edge + 1, 2 * text.edge + 1))
        return np.asarray(cv2.GaussianBlur(cv2.dilate(letters, disk), (0, 0), text.edge / 3), np.uint8)
    soft = np.asarray(cv2.GaussianBlur(letters, (0, 0), text.edge), np.uint8)
    below = max(1, text.edge // 2)
    return np.concatenate([np.zeros((below, letters.shape[1]), np.uint8), soft[:-below]])


def _apart(line: str, spacing: float) -> bool:
    """Whether letters can be set apart: those of scripts that join or combine them cannot."""
    return spacing != 0 and all(ord(each) < 0x590 and not unicodedata.combining(each) for each in line)


def _width(line: str, font: ImageFont.FreeTypeFont, spacing: float) -> float:
    apart = spacing / 100 * font.size * max(0, len(line) - 1) if _apart(line, spacing) else 0
    return font.getlength(line) + apart


def _write(
    draw: ImageDraw.ImageDraw, at: tuple[float, float], line: str, font: ImageFont.FreeTypeFont, spacing: float
) -> None:
    if not _apart(line, spacing):
        draw.text(at, line, fill=255, font=font, anchor="ls")
        return
    # Letters keep the places that shaping gives them, kerning too, each moved on by the space before it.
    for number, character in enumerate(line):
        moved = font.getlength(line[: number + 1]) - font.getlength(character) + number * spacing / 100 * font.size
        draw.text((at[0] + moved, at[1]), character, fill=255, font=font, anchor="ls")
