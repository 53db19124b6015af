"""Framings: what a person chose of one photo, for one shape, in coordinates that outlive every size."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any, Literal

Rect = tuple[float, float, float, float]
"""(left, top, width, height) in pixels of the upright photo; may reach beyond it."""

SAME_SHAPE = 0.01
"""How far two aspect ratios may differ and still be one shape: less than a pixel in a hundred."""

REACH = 10_000
"""How far beyond the photo a framing may reach, in the photo's own edges: more than any shape needs."""


@dataclass(frozen=True, kw_only=True, slots=True)
class Framing:
    """A rectangle of one photo.

    x, y, width, height: left, top and size in shares of the upright photo's width and height; it may reach
    beyond 0..1, where padding shows. angle: degrees clockwise that the rectangle is turned by around
    its center, -45..45. turn: quarter turns clockwise of the finished rendition, in degrees.
    recipe: the one recipe that it is tied to, by whatever number the caller gives recipes; None for all.
    """

    name: str
    x: float
    y: float
    width: float
    height: float
    angle: float = 0.0
    turn: Literal[0, 90, 180, 270] = 0
    recipe: int | None = None

    def __post_init__(self) -> None:
        wrong = None
        numbers = (self.x, self.y, self.width, self.height, self.angle)
        if not all(math.isfinite(number) for number in numbers):
            wrong = "finite numbers"
        elif not (0 < self.width <= 2 * REACH and 0 < self.height <= 2 * REACH):
            wrong = f"a width and a height above 0 and up to {2 * REACH:g}"
        elif not (-45 <= self.angle <= 45 and self.turn in (0, 90, 180, 270)):
            wrong = "an angle from -45 to 45 degrees and whole quarter turns"
        elif not (-REACH <= self.x < 1 and -REACH <= self.y < 1 and self.x + self.width > 0 < self.y + self.height):
            wrong = "a rectangle that overlaps the photo"
        if wrong:
            raise ValueError(f"framing {self.name!r}: expected {wrong}")

    def rect(self, photo: tuple[int, int]) -> Rect:
        """The rectangle in pixels of an upright photo of (width, height) pixels."""
        return self.x * photo[0], self.y * photo[1], self.width * photo[0], self.height * photo[1]

    def ratio(self, photo: tuple[int, int]) -> float:
        """Width over height of what it shows, turned as it will be."""
        _, _, width, height = self.rect(photo)
        return height / width if self.turn in (90, 270) else width / height

    def to_json(self) -> dict[str, Any]:
        """Plain values."""
        return {name: getattr(self, name) for name in self.__slots__}


def chosen_framing(
    framings: Iterable[Framing], photo: tuple[int, int], ratio: float | None, recipe: int | None
) -> Framing | None:
    """The framing that a recipe follows: one tied to it, or else the first free one of its shape.

    framings: of the photo, those chosen last first. ratio: the shape wanted, None for a recipe that keeps
    shapes, which follows tied framings only.
    """
    free = None
    for framing in framings:
        if framing.recipe is not None:
            if framing.recipe == recipe:
                return framing
        elif free is None and ratio is not None and abs(math.log(framing.ratio(photo) / ratio)) <= SAME_SHAPE:
            free = framing
    return free


def fitted(rect: Rect, ratio: float) -> Rect:
    """The largest rectangle of width / height = ratio around the same center inside `rect`."""
    left, top, width, height = rect
    fit = (height * ratio, height) if width > height * ratio else (width, width / ratio)
    return left + (width - fit[0]) / 2, top + (height - fit[1]) / 2, *fit


def framing_of(
    name: str, rect: Rect, photo: tuple[int, int], angle: float = 0.0, turn: int = 0, recipe: int | None = None
) -> Framing:
    """The framing that a rectangle in pixels is."""
    width, height = photo
    return Framing(
        name=name,
        x=rect[0] / width,
        y=rect[1] / height,
        width=rect[2] / width,
        height=rect[3] / height,
        angle=angle,
        turn=turn,  # type: ignore[arg-type]
        recipe=recipe,
    )


def carried_over(
    framing: Framing, source: tuple[int, int], target: tuple[int, int], name: str | None = None
) -> Framing:
    """The same framing for another photo: same center and same share of it, in the shape it had.

    source, target: (width, height) of both photos. Where both have one shape, nothing changes. Otherwise
    the rectangle keeps its own shape and is made no larger than it was; one that lay inside the photo is moved
    to lie inside again.
    """
    _, _, width, height = framing.rect(source)
    inside = framing.x >= 0 and framing.y >= 0 and framing.x + framing.width <= 1 and framing.y + framing.height <= 1
    scale = min(framing.width * target[0] / width, framing.height * target[1] / height)
    share_x, share_y = width * scale / target[0], height * scale / target[1]
    x = framing.x + (framing.width - share_x) / 2
    y = framing.y + (framing.height - share_y) / 2
    if inside:
        x, y = min(max(x, 0), 1 - share_x), min(max(y, 0), 1 - share_y)
    return Framing(
        name=framing.name,
        x=x,
        y=y,
        width=share_x,
        height=share_y,
        angle=framing.angle,
        turn=framing.turn,
        recipe=framing.recipe,
    )
