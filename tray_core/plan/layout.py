"""The layout: which part of a photo goes where in a rendition, and what lies beside it."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from tray_core.plan.borders import Ring, total
from tray_core.plan.framing import Rect

Shares = tuple[float, float, float, float]
"""Left, top, right and bottom, 0..1."""

_TOUCHES = 1e-6
"""Of a pixel: less than this beside the photo is floating point's, not anybody's."""


@dataclass(frozen=True, kw_only=True, slots=True)
class Layout:
    """One rendition's geometry, before it is cut into panels.

    source: (width, height) of the upright photo. rect: the part of it that is shown, in its pixels; it may
    reach beyond the photo. canvas: (width, height) of the picture inside of its borders. rings: the borders around
    it, from the inner one to the outer one. angle: degrees clockwise that `rect` is turned by around its center.
    turn: quarter turns clockwise of the finished canvas. seen: how much smaller than the rendition a look at it is.
    texts: what the marks over it say, in the order of `Finish.texts`. mirror: whether what is shown of the photo is
    mirrored where it stands, left and right, before it is turned by quarters. subjects: what marks keep clear of, left,
    top, right and bottom in shares of the whole rendition.
    wanted: the scale that the recipe asked for, before any limit. cut: the share of the photo that
    is not shown. asks: nobody said yet which part is to be shown, and none may be taken without being looked at.
    """

    source: tuple[int, int]
    rect: Rect
    canvas: tuple[int, int]
    rings: tuple[Ring, ...] = ()
    columns: int = 1
    rows: int = 1
    angle: float = 0.0
    turn: int = 0
    fill: str = "#ffffff"
    wanted: float = 1.0
    cut: float = 0.0
    asks: bool = False
    framing: str | None = None
    seen: float = 1.0
    texts: tuple[str, ...] = ()
    mirror: bool = False
    subjects: tuple[Shares, ...] = ()

    @property
    def outer(self) -> tuple[int, int]:
        """(width, height) of the whole rendition, with its borders."""
        if not self.rings:
            return self.canvas
        across, down = total(self.rings)
        return self.canvas[0] + across, self.canvas[1] + down

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
        """(left, top, width, height) in the whole rendition of panel `number`, from 1, row by row."""
        row, column = divmod(number - 1, self.columns)
        width, height = self.outer
        x = [i * width // self.columns for i in (column, column + 1)]
        y = [i * height // self.rows for i in (row, row + 1)]
        return x[0], y[0], x[1] - x[0], y[1] - y[0]

    def photo_point(self, x: float, y: float) -> tuple[float, float]:
        """The point of the upright photo that lies at (x, y) of the whole rendition, both in pixels."""
        width, height = self.upright_canvas
        x, y = x - sum(ring[0] for ring in self.rings), y - sum(ring[1] for ring in self.rings)
        across, down = {0: (x, y), 90: (y, height - x), 180: (width - x, height - y), 270: (width - y, x)}[self.turn]
        across = self._mirrored(across)
        left, top, wide, high = self.rect
        from_middle = (across / width - 0.5) * wide, (down / height - 0.5) * high
        sine, cosine = math.sin(math.radians(self.angle)), math.cos(math.radians(self.angle))
        return (
            left + wide / 2 + cosine * from_middle[0] - sine * from_middle[1],
            top + high / 2 + sine * from_middle[0] + cosine * from_middle[1],
        )

    def canvas_points(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """Where points of the upright photo (points x 2) lie in the canvas before it is turned, in pixels."""
        if not self.angle:
            # By the pixels that the photo really takes: they are whole, where the rectangle's edges need not be.
            box, inner = np.array(self.box), np.array(self.inner)
            across, down = (points - box[:2]).T * (inner[2:] / (box[2:] - box[:2]))[:, None]
            return np.stack([self._mirrored(inner[0] + across), inner[1] + down], axis=1)
        left, top, wide, high = self.rect
        x, y = points[:, 0] - (left + wide / 2), points[:, 1] - (top + high / 2)
        sine, cosine = math.sin(math.radians(self.angle)), math.cos(math.radians(self.angle))
        width, height = self.upright_canvas
        across, down = (cosine * x + sine * y) / wide + 0.5, (cosine * y - sine * x) / high + 0.5
        return np.stack([self._mirrored(across * width), down * height], axis=1)

    def _mirrored(self, x: Any) -> Any:
        left, _, wide, _ = self.inner
        return 2 * left + wide - x if self.mirror else x

    def rendition_points(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """Where points of the upright photo (points x 2) lie in the whole rendition, in pixels."""
        x, y = self.canvas_points(points).T
        width, height = self.upright_canvas
        across, down = {0: (x, y), 90: (height - y, x), 180: (width - x, height - y), 270: (y, width - x)}[self.turn]
        beside, above = sum(ring[0] for ring in self.rings), sum(ring[1] for ring in self.rings)
        return np.stack([across + beside, down + above], axis=1)

    def shares(self, boxes: Iterable[Shares]) -> tuple[Shares, ...]:
        """Boxes of the photo, in shares of its edges, as shares of the whole rendition, without what is not in it."""
        found: list[Shares] = []
        for left, top, right, bottom in boxes:
            corners = np.array([(x, y) for x in (left, right) for y in (top, bottom)]) * self.source
            low, high = (of(self.rendition_points(corners), axis=0) / self.outer for of in (np.min, np.max))
            low, high = np.clip(low, 0, 1), np.clip(high, 0, 1)
            if (high > low).all():
                found.append((float(low[0]), float(low[1]), float(high[0]), float(high[1])))
        return tuple(found)

    def scaled(self, factor: float) -> Layout:
        """The same at another size: `factor` at most 1."""
        edges = zip(self.canvas, (self.columns, self.rows), strict=True)
        canvas = tuple(max(least, round(edge * factor)) for edge, least in edges)
        rings = tuple(tuple(max(1, round(each * factor)) if each else 0 for each in ring) for ring in self.rings)
        return Layout(**{**self.to_json(), "canvas": canvas, "rings": rings})

    def to_json(self) -> dict[str, Any]:
        """Plain values, from which `layout_from_json` makes the same layout again."""
        return {name: getattr(self, name) for name in self.__slots__}

    def pixels_key(self) -> str:
        """All that decides pixels, as text."""
        fill = self.fill if self.padded else ""
        key = (self.source, self.rect, self.canvas, self.angle, self.turn, fill)
        more: tuple[object, ...] = (self.rings, self.texts) if self.rings or self.texts else ()
        more += ("mirror",) if self.mirror else ()
        more += (self.subjects,) if self.subjects else ()
        return repr((*key, *more))


def layout_from_json(data: dict[str, Any]) -> Layout:
    """The layout that `Layout.to_json` wrote."""
    pairs = ("source", "rect", "canvas", "texts")
    values: dict[str, Any] = {key: tuple(value) if key in pairs else value for key, value in data.items()}
    for name in ("rings", "subjects"):
        values[name] = tuple(tuple(each) for each in data.get(name, ()))
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
