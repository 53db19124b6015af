"""The finish station: what lies around a rendition and over it."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BeforeValidator, Discriminator, Field, Tag

from tray_core.recipe.base import Conflict, Station
from tray_core.recipe.frame import RatioText
from tray_core.recipe.pattern import check_text_pattern

_LENGTH = re.compile(r"(\d{1,4}(?:\.\d{1,3})?) ?(px|%)")
_COLOR = re.compile(r"#[0-9a-f]{6}")
_MOST = {"px": 2000.0, "%": 50.0}


ANCHORS = (
    *("top-left", "top", "top-right", "left", "middle", "right"),
    *("bottom-left", "bottom", "bottom-right"),
)
"""Where a mark can stand without being dragged anywhere."""


def _unit(value: Any) -> Any:
    """A number alone is per cent of the short edge."""
    return f"{value:g} %" if isinstance(value, int | float) and not isinstance(value, bool) else value


def _length(text: str) -> str:
    found = _LENGTH.fullmatch(text)
    if found is None:
        raise ValueError(f"{text!r}; write for example 12 px, or 4 % of the short edge")
    if float(found[1]) > _MOST[found[2]]:
        raise ValueError(f"{text!r}; write {_MOST[found[2]]:g} {found[2]} at most")
    return f"{float(found[1]):g} {found[2]}"


Length = Annotated[str, BeforeValidator(_unit), AfterValidator(_length)]
"""Pixels or per cent of the short edge of what the size station asks for: "12 px", "4 %", or a number of per cent."""


def pixels_of(length: str, short_edge: int) -> float:
    """A `Length` in pixels, where the short edge has so many."""
    number, unit = length.split(" ")
    return float(number) if unit == "px" else float(number) * short_edge / 100


class Border(Station):
    """One border. width: its thickness; or to: the shape that it fills up to, more on two sides than on the others.

    color: or "main", the color that the picture has most of. blur: a blurred copy of the picture instead.
    """

    width: Length | None = None
    to: RatioText | None = None
    color: Annotated[str, AfterValidator(_color_or("main"))] = "#ffffff"
    blur: bool = False


def _text(pattern: str) -> str:
    check_text_pattern(pattern)
    return pattern


def _color_or(word: str) -> Callable[[str], str]:
    def checked(text: str) -> str:
        if text != word and not _COLOR.fullmatch(text):
            raise ValueError(f"{text!r}; write {word}, or a color such as #ffffff")
        return text

    return checked


def _at(value: Any) -> str | tuple[float, float]:
    if isinstance(value, str) and value in ANCHORS:
        return value
    pair = value if isinstance(value, list | tuple) else ()
    if len(pair) == 2 and all(type(each) in (int, float) and 0 <= each <= 1 for each in pair):
        return float(pair[0]), float(pair[1])
    raise ValueError(f"{value!r}; write one of {', '.join(ANCHORS)}, or two numbers from 0 to 1")


Percent = Annotated[float, Field(ge=0, le=50)]


class Mark(Station):
    """What every mark has. opacity: per cent. at: one of nine anchors, or its middle in shares of width and height.
    margin: from the edges, per cent of the short edge. angle: degrees clockwise. tiled: repeated over all of it. over:
    the picture inside of its borders, of which all these are meant, or all with the borders. clear: it goes to
    another anchor, the nearest that will do, where it would cover a head or the one thing that stands out.
    """

    opacity: Annotated[int, Field(ge=1, le=100)] = 80
    at: Annotated[str | tuple[float, float], BeforeValidator(_at)] = "bottom-right"
    margin: Percent = 2.0
    angle: Annotated[float, Field(ge=-180, le=180)] = 0.0
    tiled: bool = False
    over: Literal["picture", "all"] = "picture"
    clear: bool = False


class TextMark(Mark):
    """Words over the picture.

    text: a pattern of the photo's words and facts. font: sans or serif, or a font file of one's own. size: of the
    letters, per cent of the short edge, from `least` to `most` pixels. color: "auto" is black or white, by what lies
    below. edge: what sets the letters off. spacing: between letters, per cent of their size.
    """

    text: Annotated[str, Field(min_length=1, max_length=500), AfterValidator(_text)]
    font: Annotated[str, Field(min_length=1, max_length=120, pattern=r"^[^/\\]+$")] = "sans"
    weight: Literal["regular", "bold"] = "regular"
    size: Annotated[float, Field(ge=0.5, le=50)] = 3.0
    least: Annotated[int, Field(ge=4, le=2000)] = 12
    most: Annotated[int, Field(ge=4, le=4000)] | None = None
    color: Annotated[str, AfterValidator(_color_or("auto"))] = "auto"
    edge: Literal["none", "outline", "shadow"] = "none"
    spacing: Annotated[float, Field(ge=-10, le=100)] = 0.0


class PictureMark(Mark):
    """A picture over the picture: a PNG or SVG with transparency.

    picture: its file. on_dark: the one for dark ground, where there is one. width: per cent of the short edge.
    """

    picture: Annotated[str, Field(min_length=1, max_length=120, pattern=r"^[^/\\]+$")]
    on_dark: Annotated[str, Field(min_length=1, max_length=120, pattern=r"^[^/\\]+$")] | None = None
    width: Annotated[float, Field(ge=1, le=100)] = 18.0


def _kind(value: Any) -> str:
    names = value if isinstance(value, dict) else vars(value) if isinstance(value, Mark) else {}
    return "picture" if "picture" in names else "text"


AnyMark = Annotated[
    Annotated[TextMark, Tag("text")] | Annotated[PictureMark, Tag("picture")],
    Discriminator(_kind),
]


class Proof(Station):
    """A stamp over the whole rendition, and a limit to what can be done with it.

    text: a pattern. opacity: per cent. angle: degrees clockwise. repeats: lines of it from top to bottom. longest: the
    long edge in pixels that a proof has at most. quality: at most, where the format has one. any: no limit.
    """

    text: Annotated[str, Field(min_length=1, max_length=200), AfterValidator(_text)] = "PROOF"
    opacity: Annotated[int, Field(ge=1, le=100)] = 30
    angle: Annotated[float, Field(ge=-180, le=180)] = -30.0
    repeats: Annotated[int, Field(ge=1, le=20)] = 5
    longest: Annotated[int, Field(ge=100, le=65_500)] | Literal["any"] = 1600
    quality: Annotated[int, Field(ge=1, le=100)] | Literal["any"] = 60


class Finish(Station):
    """Borders, from the inner one to the outer one, marks and a proof stamp.

    grow: the borders are added to the size that is asked for; otherwise they are in it. corners: the radius of the
    rounded corners; what is outside of them is transparent, or the matte where the format has no transparency.
    """

    borders: Annotated[tuple[Border, ...], Field(strict=False, max_length=8)] = ()
    grow: bool = False
    corners: Length = "0 %"
    marks: Annotated[tuple[AnyMark, ...], Field(strict=False, max_length=12)] = ()
    proof: Proof | None = None

    @property
    def texts(self) -> tuple[str, ...]:
        """The patterns of all texts, the proof's last."""
        marks = tuple(mark.text for mark in self.marks if isinstance(mark, TextMark))
        return marks if self.proof is None else (*marks, self.proof.text)

    @property
    def fonts(self) -> tuple[str, ...]:
        """The names of all font files of one's own."""
        return tuple(m.font for m in self.marks if isinstance(m, TextMark) and m.font not in ("sans", "serif"))

    @property
    def pictures(self) -> tuple[str, ...]:
        """The names of all mark pictures."""
        found = (each for mark in self.marks if isinstance(mark, PictureMark) for each in (mark.picture, mark.on_dark))
        return tuple(name for name in found if name is not None)


def check_finish(finish: Finish, shaped: bool) -> None:
    """Conflict where a border says what cannot be. shaped: whether the frame gives the rendition a shape."""
    for number, border in enumerate(finish.borders):
        if (border.width is None) == (border.to is None):
            raise Conflict(
                f"finish.borders.{number}.width",
                expected="a thickness, or a shape to fill up to, and not both",
                found="neither" if border.width is None else "both",
                remedy="Write for example 4 %, or in `to` 1:1.",
            )
        if border.to is not None and shaped and not finish.grow:
            raise Conflict(
                f"finish.borders.{number}.to",
                expected="a thickness, since the frame gives the rendition its shape already",
                found=repr(border.to),
                remedy="Let the borders be added to the size (grow), or let the frame keep the photo's shape.",
            )
