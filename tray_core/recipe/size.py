"""The size station: how many pixels a rendition gets."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from tray_core.recipe.base import MAX_PIXELS, Station

Pixels = Annotated[int, Field(ge=1, le=MAX_PIXELS)]
Percent = Annotated[int, Field(ge=1, le=1000, description="Of the photo's own pixels.")]
Megapixels = Annotated[float, Field(gt=0, le=300, description="Millions of pixels.")]
Enlarge = Literal["never", "always"] | Annotated[int, Field(ge=101, le=1000)]


class Minimum(Station):
    """The smallest picture that the outlet takes; a smaller rendition gets a warning."""

    width: Pixels = 1
    height: Pixels = 1

    @property
    def words(self) -> str:
        """As people say it: "600 × 400", "600 px wide", "400 px high"; nothing where any picture will do."""
        if self.width > 1 and self.height > 1:
            return f"{self.width} × {self.height}"
        return f"{self.width} px wide" if self.width > 1 else f"{self.height} px high" if self.height > 1 else ""


class _Size(Station):
    """enlarge: never, always, or up to a limit in per cent. light: what is averaged when resampling:
    gamma-encoded values, or linear light. ppi: a tag in the file; it changes no pixel.
    """

    enlarge: Annotated[Enlarge, Field(description='"never", "always", or a limit in per cent such as 150.')] = "never"
    light: Literal["gamma", "linear"] = "gamma"
    ppi: Annotated[int, Field(ge=1, le=9600, description="A tag; it changes no pixel.")] | None = None
    minimum: Minimum | None = None

    @property
    def limit(self) -> float | None:
        """The largest scale allowed: 1 for never, None for no limit."""
        return 1.0 if self.enlarge == "never" else None if self.enlarge == "always" else self.enlarge / 100

    def for_shape(self, shape: str) -> dict[str, Any]:
        """The values of this station for landscape, portrait or square photos."""
        mine = {name: getattr(self, name) for name in self.values()}
        other = getattr(self, shape, None) if shape != "landscape" else None
        return mine | ({name: getattr(other, name) for name in mine} if other is not None else {})

    @classmethod
    def values(cls) -> tuple[str, ...]:
        """The fields that may differ between landscape, portrait and square photos."""
        return ()


class OnePixels(Station):
    """Another edge for photos of one shape."""

    pixels: Pixels


class TwoPixels(Station):
    """Another width and height for photos of one shape."""

    width: Pixels
    height: Pixels


class OnePercent(Station):
    """Another share for photos of one shape."""

    percent: Percent


class OneMegapixels(Station):
    """Another area for photos of one shape."""

    megapixels: Megapixels


class OwnSize(_Size):
    """The photo's own pixels, or those of an exact pixel shape that the frame gives."""

    by: Literal["own"]


class EdgeSize(_Size):
    """One edge of the upright picture gets `pixels`; the other follows the shape.

    portrait, square: other values for such photos.
    """

    by: Literal["long-edge", "short-edge", "width", "height"]
    pixels: Annotated[int, Field(ge=1, le=MAX_PIXELS, description="The edge asked for, in pixels; exact.")]
    portrait: OnePixels | None = None
    square: OnePixels | None = None

    @classmethod
    def values(cls) -> tuple[str, ...]:
        return ("pixels",)


class _PairSize(_Size):
    width: Pixels
    height: Pixels
    portrait: TwoPixels | None = None
    square: TwoPixels | None = None

    @classmethod
    def values(cls) -> tuple[str, ...]:
        return ("width", "height")


class BoxSize(_PairSize):
    """The largest picture of its shape that lies inside width x height."""

    by: Literal["box"]


class ExactSize(_PairSize):
    """Exactly width x height; the frame says whether by crop, padding or stretching."""

    by: Literal["exact"]


class PercentSize(_Size):
    """Both edges by the same share of their own pixels."""

    by: Literal["percent"]
    percent: Percent
    portrait: OnePercent | None = None
    square: OnePercent | None = None

    @classmethod
    def values(cls) -> tuple[str, ...]:
        return ("percent",)


class MegapixelSize(_Size):
    """About so many pixels in all, in the picture's own shape."""

    by: Literal["megapixels"]
    megapixels: Megapixels
    portrait: OneMegapixels | None = None
    square: OneMegapixels | None = None

    @classmethod
    def values(cls) -> tuple[str, ...]:
        return ("megapixels",)


class WidthsSize(_Size):
    """A responsive set: one rendition a width. Widths that end at the photo's own size are made once."""

    by: Literal["widths"]
    widths: Annotated[tuple[Pixels, ...], Field(strict=False, min_length=1, max_length=12)]


Size = Annotated[
    OwnSize | EdgeSize | BoxSize | ExactSize | PercentSize | MegapixelSize | WidthsSize, Field(discriminator="by")
]
