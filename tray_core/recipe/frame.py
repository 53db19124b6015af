"""The frame station: what shape a rendition has, and which part of the photo is in it."""

from __future__ import annotations

import re
from fractions import Fraction
from functools import lru_cache
from typing import Annotated, Literal

from pydantic import AfterValidator, Field

from tray_core.recipe.base import MAX_PIXELS, Station

Ratio = tuple[Fraction, Fraction]
"""(width, height) of a shape; only their quotient means anything."""

_RATIO = re.compile(r"(\d{1,5}(?:\.\d{1,4})?):(\d{1,5}(?:\.\d{1,4})?)")
_PIXELS = re.compile(r"(\d{1,5})x(\d{1,5})")
_COLOR = re.compile(r"#[0-9a-f]{6}")
_WIDEST_RATIO = 1000


@lru_cache(512)  # asked for every cell of a board
def parse_ratio(text: str) -> Ratio:
    """ "3:2" or "1.91:1" as two exact numbers; ValueError says what is wrong."""
    found = _RATIO.fullmatch(text)
    if found is None:
        raise ValueError(f"{text!r}; write width and height with a colon between, for example 3:2")
    width, height = Fraction(found[1]), Fraction(found[2])
    if not width or not height or not Fraction(1, _WIDEST_RATIO) <= width / height <= _WIDEST_RATIO:
        raise ValueError(
            f"{text!r}; both numbers have to be above 0, and neither more than {_WIDEST_RATIO} times the other"
        )
    return width, height


def parse_pixels(text: str) -> tuple[int, int] | None:
    """ "1920x640" as two whole numbers; None where it is no pixel shape."""
    found = _PIXELS.fullmatch(text)
    return (int(found[1]), int(found[2])) if found else None


def shape_numbers(text: str) -> tuple[float, float]:
    """Width and height of a shape, given as a ratio or in pixels; only their quotient means anything."""
    width, height = parse_pixels(text) or parse_ratio(text)
    return float(width), float(height)


def _shape(text: str) -> str:
    pixels = parse_pixels(text)
    if pixels is None:
        parse_ratio(text)
    elif not all(1 <= edge <= MAX_PIXELS for edge in pixels):
        raise ValueError(f"{text!r}; both edges have to be from 1 to {MAX_PIXELS} pixels")
    return text


def _ratio(text: str) -> str:
    parse_ratio(text)
    return text


def check_color(text: str, others: str = "") -> str:
    """A color as it is written, or a ValueError that says what may stand there. others: before a color."""
    if not _COLOR.fullmatch(text):
        raise ValueError(f"{text!r}; write {others}a color such as #ffffff")
    return text


def _fill(text: str) -> str:
    if text not in ("blur", "edge", "transparent") and not _COLOR.fullmatch(text):
        raise ValueError(f"{text!r}; write blur, edge, transparent, or a color such as #ffffff")
    return text


Shape = Annotated[
    str, AfterValidator(_shape), Field(description='A ratio such as "3:2", or exact pixels such as "1920x640".')
]
RatioText = Annotated[str, AfterValidator(_ratio), Field(description='A ratio such as "4:5" or "1.91:1".')]
Fill = Annotated[
    str,
    AfterValidator(_fill),
    Field(description='What shows beside the picture: "blur", "edge", "transparent", or a color such as "#ffffff".'),
]
HexColor = Annotated[str, AfterValidator(check_color), Field(description='Red, green and blue of sRGB, as "#ffffff".')]
Anchor = Literal[
    "top-left",
    "top",
    "top-right",
    "left",
    "middle",
    "right",
    "bottom-left",
    "bottom",
    "bottom-right",
    "interest",
    "ask",
]


class Panels(Station):
    """The picture cut into columns x rows of equal pictures; shape and size are those of one panel."""

    columns: Annotated[int, Field(ge=1, le=20)] = 1
    rows: Annotated[int, Field(ge=1, le=20)] = 1

    @property
    def count(self) -> int:
        """How many there are."""
        return self.columns * self.rows


class _Frame(Station):
    panels: Panels | None = None
    fill: Fill = "#ffffff"

    @property
    def split(self) -> tuple[int, int]:
        """(columns, rows); (1, 1) where nothing is split."""
        return (self.panels.columns, self.panels.rows) if self.panels else (1, 1)


class KeepFrame(_Frame):
    """The photo's own shape. A framing made by hand for the recipe is followed all the same."""

    way: Literal["keep"]


class CropFrame(_Frame):
    """Cropped to a shape. Without `shape` the size station gives it, in exact pixels.

    anchor: which part stays, where no framing says so. `ask` lets the photo wait for a crop.
    fill:   shows where a framing reaches beyond the photo.
    """

    way: Literal["crop"]
    shape: Shape | None = None
    anchor: Anchor = "middle"


class PadFrame(_Frame):
    """The whole photo inside a shape, the rest filled. Without a size station nothing is scaled."""

    way: Literal["pad"]
    shape: Shape | None = None
    anchor: Anchor = "middle"


class StretchFrame(_Frame):
    """Stretched to a shape: both edges are scaled on their own."""

    way: Literal["stretch"]
    shape: Shape | None = None


class BoundsFrame(_Frame):
    """Shapes between narrowest and widest are left alone, those outside get the nearer of the two."""

    way: Literal["bounds"]
    narrowest: RatioText
    widest: RatioText
    outside: Literal["crop", "pad"] = "crop"
    anchor: Anchor = "middle"

    @property
    def order(self) -> int:
        """1 where narrowest is wider than widest, which no shape lies between; 0 or -1 otherwise."""
        low, high = parse_ratio(self.narrowest), parse_ratio(self.widest)
        return (low[0] * high[1] > high[0] * low[1]) - (low[0] * high[1] < high[0] * low[1])


Frame = Annotated[KeepFrame | CropFrame | PadFrame | StretchFrame | BoundsFrame, Field(discriminator="way")]
