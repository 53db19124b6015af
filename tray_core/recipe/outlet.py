"""What a recipe is for: one use of an outlet, with the rules that it had when the recipe took them over."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, Field, model_validator

from tray_core.recipe.base import MAX_PIXELS, Conflict, Station
from tray_core.recipe.frame import parse_ratio

Edge = Annotated[int, Field(ge=1, le=MAX_PIXELS)]
Pair = Annotated[tuple[Edge, Edge], Field(strict=False, description="Width and height in pixels.")]
Share = Annotated[float, Field(ge=0, le=1)]
Title = Annotated[str, Field(min_length=1, max_length=60)]
Accepted = Literal["jpeg", "png", "webp", "avif", "gif", "tiff", "pdf"]


def _ratio(text: str) -> str:
    parse_ratio(text)
    return text


Shape = Annotated[str, AfterValidator(_ratio)]


class Covered(Station):
    """A part of the picture that the outlet's own page covers, in shares of its edges, and what covers it."""

    by: Title
    x: Share
    y: Share
    width: Share
    height: Share

    @model_validator(mode="after")
    def _inside(self) -> Covered:
        if self.x + self.width > 1.0001 or self.y + self.height > 1.0001:
            raise ValueError("a part that reaches beyond the picture; x + width and y + height are 1 at most")
        return self


class Rules(Station):
    """What an outlet takes for one use.

    least, most: the smallest and the largest picture that it takes; best: the pixels that it shows. narrowest, widest:
    the shapes that it takes; outside: what becomes of others. kilobytes: of 1,000 bytes, the heaviest file. color:
    whether it understands profiles, or takes all values for sRGB. covered: parts that its page covers.
    """

    formats: Annotated[tuple[Accepted, ...], Field(strict=False, min_length=1, max_length=7)] = ("jpeg",)
    least: Pair | None = None
    most: Pair | None = None
    best: Pair | None = None
    narrowest: Shape | None = None
    widest: Shape | None = None
    outside: Literal["refused", "cropped"] = "refused"
    kilobytes: Annotated[int, Field(ge=1, le=1_000_000)] | None = None
    color: Literal["any", "srgb"] = "srgb"
    covered: Annotated[tuple[Covered, ...], Field(strict=False, max_length=12)] = ()

    @model_validator(mode="after")
    def _in_order(self) -> Rules:
        for low, high, lower, higher in (
            ("least", "best", self.least, self.best),
            ("best", "most", self.best, self.most),
            ("least", "most", self.least, self.most),
        ):
            if lower and higher and (lower[0] > higher[0] or lower[1] > higher[1]):
                raise Conflict(
                    low,
                    expected=f"at most {higher[0]} × {higher[1]}, as {high} says",
                    found=f"{lower[0]} × {lower[1]}",
                    remedy="Make it smaller, or the other larger.",
                    inner=True,
                )
        if self.narrowest and self.widest and ratio_of(self.narrowest) > ratio_of(self.widest) * 1.0001:
            raise Conflict(
                "widest",
                expected=f"a shape at least as wide as {self.narrowest}",
                found=repr(self.widest),
                remedy="Exchange the two.",
                inner=True,
            )
        return self


class ForOutlet(Station):
    """The outlet and the use that a recipe is for. rules: as they were when the recipe took them over."""

    outlet: Title
    use: Title
    rules: Rules


def ratio_of(shape: str) -> float:
    """Width by height."""
    width, height = parse_ratio(shape)
    return float(width / height)
