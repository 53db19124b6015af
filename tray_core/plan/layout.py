"""The layout: which part of a photo goes where in a rendition, and what lies beside it."""

from __future__ import annotations

import functools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from tray_core.photo.interest import Interest
from tray_core.plan.framing import Framing, Rect, chosen_framing, fitted
from tray_core.plan.geometry import MAX_AREA, Measured, half_up, limit_of, measure, orientation
from tray_core.plan.interest import best_start
from tray_core.recipe.frame import BoundsFrame, Frame, PadFrame, StretchFrame, parse_pixels, parse_ratio
from tray_core.recipe.size import ExactSize, OwnSize, Size

_TOUCHES = 1e-6
"""Of a pixel: less than this beside the photo is floating point's, not anybody's."""

_PLACES = {"left": 0.0, "top": 0.0, "right": 1.0, "bottom": 1.0}


@dataclass(frozen=True, kw_only=True, slots=True)
class Layout:
    """One rendition's geometry, before it is cut into panels.

    source: (width, height) of the upright photo. rect: the part of it that is shown, in its pixels; it may
    reach beyond the photo. canvas: (width, height) of the whole rendition. angle: degrees clockwise that
    `rect` is turned by around its center. turn: quarter turns clockwise of the finished canvas.
    wanted: the scale that the recipe asked for, before any limit. cut: the share of the photo that
    is not shown. asks: nobody said yet which part is to be shown, and none may be taken without being looked at.
    """

    source: tuple[int, int]
    rect: Rect
    canvas: tuple[int, int]
    columns: int = 1
    rows: int = 1
    angle: float = 0.0
    turn: int = 0
    fill: str = "#ffffff"
    wanted: float = 1.0
    cut: float = 0.0
    asks: bool = False
    framing: str | None = None

    @property
    def upright_canvas(self) -> tuple[int, int]:
        """(width, height) of the canvas before it is turned by quarters."""
        return self.canvas[::-1] if self.turn in (90, 270) else self.canvas

    @property
    def scale(self) -> float:
        """Pixels of the rendition a pixel of the photo; the larger one where the two edges differ."""
        width, height = self.upright_canvas
        return max(width / self.rect[2], height / self.rect[3])

    @property
    def inner(self) -> tuple[int, int, int, int]:
        """(left, top, width, height) of the photo in the canvas before it is turned; the rest is filled.

        The whole canvas for a rectangle that is turned: what lies beyond the photo is found by pixel.
        """
        width, height = self.upright_canvas
        if self.angle:
            return 0, 0, width, height
        spans = [
            _span(self.rect[axis], self.rect[axis + 2], self.source[axis], (width, height)[axis]) for axis in (0, 1)
        ]
        (left, wide), (top, high) = spans
        return left, top, wide, high

    @property
    def box(self) -> tuple[float, float, float, float]:
        """(left, top, right, bottom) in photo pixels of what fills `inner`."""
        left, top, width, height = self.rect
        if self.angle:
            return left, top, left + width, top + height
        return max(left, 0), max(top, 0), min(left + width, self.source[0]), min(top + height, self.source[1])

    @property
    def padded(self) -> bool:
        """Whether anything beside the photo shows."""
        if self.angle:
            return True
        return self.inner != (0, 0, *self.upright_canvas)

    def panel(self, number: int) -> tuple[int, int, int, int]:
        """(left, top, width, height) in the canvas of panel `number`, from 1, row by row."""
        row, column = divmod(number - 1, self.columns)
        x = [i * self.canvas[0] // self.columns for i in (column, column + 1)]
        y = [i * self.canvas[1] // self.rows for i in (row, row + 1)]
        return x[0], y[0], x[1] - x[0], y[1] - y[0]

    def photo_point(self, x: float, y: float) -> tuple[float, float]:
        """The point of the upright photo that lies at (x, y) of the canvas, both in pixels."""
        width, height = self.upright_canvas
        across, down = {0: (x, y), 90: (y, height - x), 180: (width - x, height - y), 270: (width - y, x)}[self.turn]
        left, top, wide, high = self.rect
        from_middle = (across / width - 0.5) * wide, (down / height - 0.5) * high
        sine, cosine = math.sin(math.radians(self.angle)), math.cos(math.radians(self.angle))
        return (
            left + wide / 2 + cosine * from_middle[0] - sine * from_middle[1],
            top + high / 2 + sine * from_middle[0] + cosine * from_middle[1],
        )

    def to_json(self) -> dict[str, Any]:
        """Plain values, from which `layout_from_json` makes the same layout again."""
        return {name: getattr(self, name) for name in self.__slots__}

    def pixels_key(self) -> str:
        """All that decides pixels, as text."""
        fill = self.fill if self.padded else ""
        return repr((self.source, self.rect, self.canvas, self.angle, self.turn, fill))


def layout_from_json(data: dict[str, Any]) -> Layout:
    """The layout that `Layout.to_json` wrote."""
    pairs = ("source", "rect", "canvas")
    values: dict[str, Any] = {key: tuple(value) if key in pairs else value for key, value in data.items()}
    return Layout(**values)


def _span(start: float, length: float, whole: int, pixels: int) -> tuple[int, int]:
    """Where an edge of the photo, `whole` long, lies in a canvas edge that shows `length` of it from `start`."""
    scale = pixels / length
    before, behind = -start * scale, (start + length - whole) * scale
    if before <= _TOUCHES and behind <= _TOUCHES:
        return 0, pixels
    # What shows of it has its own length first, halves rounded up, whichever end it touches; then a place.
    shows = (min(start + length, whole) - max(start, 0)) * scale
    long = min(max(1, int(shows + 0.5 + _TOUCHES)), pixels)
    if before <= _TOUCHES:
        return 0, long
    if behind <= _TOUCHES:
        return pixels - long, long
    # A pixel that cannot be halved goes to the near end: above, or to the left.
    return min(max(0, int(before + (shows - long) / 2 + 0.5 + _TOUCHES)), pixels - long), long


def layouts(
    source: tuple[int, int],
    frame: Frame | None,
    size: Size | None,
    framings: Sequence[Framing] = (),
    interest: Interest | None = None,
    recipe: int | None = None,
) -> tuple[Layout, ...]:
    """The layouts of a photo by the frame and size stations: one, or one a width of a responsive set.

    source: (width, height) of the upright photo. framings: of the photo, those chosen last first.
    interest: the photo's, where it is known; without it the middle is taken. recipe: what framings may
    be tied to.
    """
    framing = followed_framing(source, frame, size, framings, recipe)
    if getattr(frame, "anchor", "") != "interest" or framing is not None:
        interest = None
    return _layouts(source, frame, size, framing, interest)


def followed_framing(
    source: tuple[int, int],
    frame: Frame | None,
    size: Size | None,
    framings: Sequence[Framing],
    recipe: int | None = None,
) -> Framing | None:
    """Which of a photo's framings its layout follows, if any; the arguments are those of `layouts`."""
    if not framings or isinstance(frame, StretchFrame):
        return None
    ratio = _ratio_wanted(source, frame, size)
    return chosen_framing(framings, source, float(ratio) if ratio else None, recipe)


@functools.lru_cache(maxsize=16384)
def _layouts(
    source: tuple[int, int], frame: Frame | None, size: Size | None, framing: Framing | None, interest: Interest | None
) -> tuple[Layout, ...]:
    widths = getattr(size, "widths", None)
    if widths is None:
        return (_layout(source, frame, size, framing, interest),)
    made = [_layout(source, frame, size, framing, interest, width) for width in sorted(widths)]
    # Widths beyond the photo's own all end at its own size: that picture is made once.
    return tuple({layout.canvas: layout for layout in made}.values())


@functools.lru_cache(maxsize=16384)
def _exact(source: tuple[int, int], frame: Frame | None, size: Size | None) -> tuple[int, int] | None:
    """The exact pixels of one panel, where the recipe gives them."""
    if isinstance(size, ExactSize):
        values = size.for_shape(orientation(*source))
        return values["width"], values["height"]
    shape = getattr(frame, "shape", None)
    return parse_pixels(shape) if shape and (size is None or isinstance(size, OwnSize)) else None


@functools.lru_cache(maxsize=16384)
def _ratio_wanted(source: tuple[int, int], frame: Frame | None, size: Size | None) -> Fraction | None:
    """Width over height of the whole canvas, None where the photo keeps its shape."""
    if frame is None:
        return None
    columns, rows = frame.split
    if (exact := _exact(source, frame, size)) is not None:
        width, height = Fraction(exact[0]), Fraction(exact[1])
    elif isinstance(frame, BoundsFrame):
        own = Fraction(source[0] * rows, source[1] * columns)
        low, high = (Fraction(a) / b for a, b in map(parse_ratio, (frame.narrowest, frame.widest)))
        if low <= own <= high:
            return None
        width, height = min(max(own, low), high), Fraction(1)
    elif shape := getattr(frame, "shape", None):
        pixels = parse_pixels(shape)
        width, height = (Fraction(pixels[0]), Fraction(pixels[1])) if pixels else parse_ratio(shape)
    else:
        return None
    return width * columns / (height * rows)


def _layout(
    source: tuple[int, int],
    frame: Frame | None,
    size: Size | None,
    framing: Framing | None,
    interest: Interest | None,
    asked_width: int | None = None,
) -> Layout:
    columns, rows = frame.split if frame else (1, 1)
    ratio = _ratio_wanted(source, frame, size)
    exact = _exact(source, frame, size)
    turn = framing.turn if framing else 0
    pads = isinstance(frame, PadFrame) or (isinstance(frame, BoundsFrame) and frame.outside == "pad")
    # The natural size: the canvas in pixels of the photo, as exact numbers where no hand drew it.
    natural: tuple[Fraction, Fraction]
    if framing is not None:
        rect = framing.rect(source)
        if ratio is not None:
            rect = fitted(rect, float(1 / ratio if turn in (90, 270) else ratio))
        across, down = (rect[3], rect[2]) if turn in (90, 270) else (rect[2], rect[3])
        natural = (Fraction(down) * ratio, Fraction(down)) if ratio is not None else (Fraction(across), Fraction(down))
    elif ratio is None:
        natural = Fraction(source[0]), Fraction(source[1])
    else:
        wider = ratio * source[1] >= source[0]
        # A crop lies inside the photo, padding around it; one of the two edges is always shared.
        if wider == pads:
            natural = ratio * source[1], Fraction(source[1])
        else:
            natural = Fraction(source[0]), source[0] / ratio
    limit, cuts = limit_of(size, *natural), False
    if exact is not None:
        canvas, wanted, natural = _exact_canvas(exact, (columns, rows), natural, limit, pads and framing is None)
        own = False
    else:
        found = measure(natural[0] / columns, natural[1] / rows, size, orientation(*source), limit, asked_width)
        canvas, own = _canvas(found, natural, (columns, rows), None if ratio is None else pads)
        wanted = found.wanted
    if framing is None:
        if isinstance(frame, StretchFrame) or ratio is None:
            rect = (0.0, 0.0, float(source[0]), float(source[1]))
        else:
            rect, cuts = _placed(source, natural, canvas if own else None, getattr(frame, "anchor", "middle"), interest)
    elif own:
        # Its own size: whole pixels are copied, none is computed anew.
        whole = canvas[::-1] if turn in (90, 270) else canvas
        rect = (float(round(rect[0])), float(round(rect[1])), float(whole[0]), float(whole[1]))
    asks = framing is None and ratio is not None and (cuts or getattr(frame, "anchor", "") == "ask")
    layout = Layout(
        source=source,
        rect=rect,
        canvas=canvas,
        columns=columns,
        rows=rows,
        angle=framing.angle if framing else 0.0,
        turn=turn,
        fill=frame.fill if frame else "#ffffff",
        wanted=float(wanted),
        asks=asks,
        framing=framing.name if framing else None,
    )
    left, top, right, bottom = layout.box
    cut = 1 - (right - left) * (bottom - top) / (source[0] * source[1])
    return _with_cut(layout, max(0.0, cut))


def _with_cut(layout: Layout, cut: float) -> Layout:
    return Layout(**{**layout.to_json(), "cut": cut}) if cut > 1e-9 else layout


def _canvas(
    found: Measured, natural: tuple[Fraction, Fraction], split: tuple[int, int], pads: bool | None
) -> tuple[tuple[int, int], bool]:
    """The whole canvas from one measured panel, and whether it is the picture's own size, unscaled.

    pads: whether a shape is padded or cropped to; None where the photo keeps its own.
    """
    if found.scale != 1:
        return (found.width * split[0], found.height * split[1]), False
    if pads is None:
        # No pixel is lost and none computed anew: panels differ by a pixel at most.
        return (max(half_up(natural[0]), split[0]), max(half_up(natural[1]), split[1])), True
    # All panels are equal: a crop gives up what is left over, padding adds it.
    edges = []
    for length, count in zip(natural, split, strict=True):
        panel = (math.ceil(length / count) if pads else math.floor(length / count)) if count > 1 else half_up(length)
        edges.append(max(1, panel) * count)
    return (edges[0], edges[1]), True


def _exact_canvas(
    exact: tuple[int, int], split: tuple[int, int], natural: tuple[Fraction, Fraction], limit: Fraction, pads: bool
) -> tuple[tuple[int, int], Fraction, tuple[Fraction, Fraction]]:
    """Exact panels: (canvas, scale wanted, natural size).

    Padding always reaches the exact size: a picture that may not be enlarged lies smaller in it. A crop
    that may not be enlarged becomes smaller in the same shape.
    """
    whole = (exact[0] * split[0], exact[1] * split[1])
    possible = min(Fraction(1), Fraction(MAX_AREA, whole[0] * whole[1]))
    if possible < 1:
        whole = (int(whole[0] * possible) or 1, int(whole[1] * possible) or 1)
    wanted = max(Fraction(whole[0]) / natural[0], Fraction(whole[1]) / natural[1])
    if wanted <= limit:
        return whole, wanted, natural
    if pads:
        return whole, wanted, (whole[0] / limit, whole[1] / limit)
    part = limit / wanted
    panel = (half_up(exact[0] * part), half_up(exact[1] * part))
    return (panel[0] * split[0], panel[1] * split[1]), wanted, natural


def _placed(
    source: tuple[int, int],
    natural: tuple[Fraction, Fraction],
    whole: tuple[int, int] | None,
    anchor: str,
    interest: Interest | None,
) -> tuple[Rect, bool]:
    """Place a rectangle of `natural` size by its anchor; `whole` pixels where nothing is scaled.

    The second value says whether it cuts what should stay whole, so that an eye is needed.
    """
    sides = [float(whole[i] if whole else natural[i]) for i in (0, 1)]
    starts, cuts = [], False
    for axis in (0, 1):
        room = source[axis] - sides[axis]
        if anchor == "interest" and interest is not None and room > 0:
            found = best_start(interest, axis, round(sides[axis] / source[axis], 6))
            start, cuts = found.at * source[axis], cuts or found.cuts
        else:
            words = anchor.split("-")
            names = ("left", "right") if axis == 0 else ("top", "bottom")
            at = next((_PLACES[word] for word in words if word in names), 0.5)
            start = room * at
        if whole:
            start = float(int(start)) if start >= 0 else -float(int(-start))
        starts.append(min(start, room) if room > 0 else start)
    return (starts[0], starts[1], sides[0], sides[1]), cuts
