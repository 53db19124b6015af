"""Borders in pixels: how thick each is, and what shape is left for the picture inside of them."""

from __future__ import annotations

from fractions import Fraction

from tray_core.plan.framing import Rect
from tray_core.recipe.base import MAX_PIXELS
from tray_core.recipe.finish import Border, Finish, pixels_of
from tray_core.recipe.frame import parse_ratio

Ring = tuple[int, int, int, int]
"""Pixels on the left, above, on the right and below."""

_LEAST = 8
"""Of the picture inside: borders that leave less of an edge are made thinner."""


def rings_around(finish: Finish, inner: tuple[int, int], short_edge: int) -> tuple[Ring, ...]:
    """The borders around a picture of `inner` (width, height) pixels, from the inner one to the outer one.

    short_edge: of the canvas that the size station asks for, of which borders are per cent.
    """
    width, height = inner
    rings: list[Ring] = []
    for border in finish.borders:
        rings.append(ring := _ring(border, (width, height), short_edge))
        width, height = width + ring[0] + ring[2], height + ring[1] + ring[3]
    return tuple(rings)


def _ring(border: Border, size: tuple[int, int], short_edge: int) -> Ring:
    if border.width is not None:
        thick = round(pixels_of(border.width, short_edge))
        return thick, thick, thick, thick
    across, down = parse_ratio(border.to or "1:1")
    ratio = across / down
    wide, high = max(0, round(size[1] * ratio) - size[0]), max(0, round(size[0] / ratio) - size[1])
    return wide // 2, high // 2, wide - wide // 2, high - high // 2


def total(rings: tuple[Ring, ...]) -> tuple[int, int]:
    """(width, height) that all borders add."""
    return sum(ring[0] + ring[2] for ring in rings), sum(ring[1] + ring[3] for ring in rings)


def rings_inside(finish: Finish, canvas: tuple[int, int]) -> tuple[Ring, ...]:
    """The borders of a canvas whose outer size is given: equally thick on all sides, and some of the picture stays."""
    return thinned(rings_around(finish, canvas, min(canvas)), canvas)


def thinned(rings: tuple[Ring, ...], canvas: tuple[int, int], grow: bool = False) -> tuple[Ring, ...]:
    """Borders that leave something of `canvas` inside of them; of one that grows, that can still be made."""
    share = Fraction(1)
    for edge, added in zip(canvas, total(rings), strict=True):
        room = MAX_PIXELS - edge if grow else edge - min(_LEAST, edge)
        if added > room:
            share = min(share, Fraction(room, added))
    if share == 1:
        return rings
    return tuple((int(a * share), int(b * share), int(c * share), int(d * share)) for a, b, c, d in rings)


def reshaped(rect: Rect, size: tuple[int, int], pads: bool) -> Rect:
    """A rectangle around the same center in the shape of `size`: inside of `rect`, or around it where it is padded."""
    left, top, width, height = rect
    ratio = size[0] / size[1]
    fit = (height * ratio, height) if (width > height * ratio) != pads else (width, width / ratio)
    return left + (width - fit[0]) / 2, top + (height - fit[1]) / 2, *fit
