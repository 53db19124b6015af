"""Frames around objects: the rectangle that a cut-out's fit wants, as a framing."""

from __future__ import annotations

import math

from tray_core.outline import Traced
from tray_core.plan.framing import REACH, Framing, framing_of
from tray_core.recipe.cutout import Cutout

OBJECT = "the object"
"""The name of a framing that follows from an outline."""

_AREA = 0.45
"""The share of what the margin leaves that objects fill which are fitted by their area."""


def framing_around(outline: Traced, photo: tuple[int, int], cutout: Cutout, ratio: float | None) -> Framing:
    """The rectangle around an object, its box in the middle.

    photo: (width, height), upright. ratio: width over height of the whole; None for that of the object with its
    margins. The margin is a share of the rectangle's shorter edge.
    """
    left, top, right, bottom = (share * edge for share, edge in zip(outline.box, (*photo, *photo), strict=True))
    wide, high = max(1.0, right - left), max(1.0, bottom - top)
    margin = cutout.margin / 100
    if ratio is None:
        # The shorter edge is the box's shorter edge with both margins.
        beside = margin * min(wide, high) / (1 - 2 * margin)
        width, height = wide + 2 * beside, high + 2 * beside
    else:
        # In units of the shorter edge: edges, and what the margins leave of them.
        edges = (max(1.0, ratio), max(1.0, 1 / ratio))
        room = (edges[0] - 2 * margin, edges[1] - 2 * margin)
        short = max(wide / room[0], high / room[1])
        if cutout.fit == "area":
            area = outline.area * photo[0] * photo[1]
            short = max(short, math.sqrt(area / (_AREA * room[0] * room[1])))
        width, height = edges[0] * short, edges[1] * short
    width, height = min(width, REACH * photo[0]), min(height, REACH * photo[1])
    middle = (left + right) / 2, (top + bottom) / 2
    return framing_of(OBJECT, (middle[0] - width / 2, middle[1] - height / 2, width, height), photo)
