"""The stations of a recipe: frozen values that cannot be built wrong."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from tray_core.recipe.base import Conflict, Station
from tray_core.recipe.frame import HexColor

Guard = Annotated[float, Field(ge=0, le=40, description="Levels of 255; 0 guards nothing.")]
AutoGuard = Guard | Literal["auto"]
"""auto: by the noise in the picture's own flat areas."""

Radius = Annotated[float, Field(ge=0.2, le=5, description="The Gaussian's standard deviation in pixels.")]
Clip = Annotated[float, Field(ge=0, le=5, description="Per cent of the picture.")]


class FirstSharpen(Station):
    """An unsharp mask on the photo's own pixels, before it is resized."""

    amount: Annotated[int, Field(ge=1, le=300, description="Per cent of the difference that is added.")] = 60
    radius: Radius = 1.0
    guard: Guard = 4


class Prep(Station):
    """Automatic corrections of the whole photo, and a first sharpening before it is resized.

    levels: the darkest and lightest tones become black and white, all channels alike. contrast: the tones between
    are spread to a usual contrast. balance: greys that have a cast become grey. clip_dark, clip_light: how much of
    the picture levels may lose to black and to white.
    """

    levels: bool = False
    contrast: bool = False
    balance: bool = False
    clip_dark: Clip = 0.1
    clip_light: Clip = 0.1
    sharpen: FirstSharpen | None = None

    @property
    def corrects(self) -> bool:
        """Whether any tone is changed."""
        return self.levels or self.contrast or self.balance


class Sharpen(Station):
    """Sharpening for screen, after resizing, on luminance. A strength of 100 suits most pictures.

    method: unsharp, an unsharp mask; highpass, the same detail laid over the picture, strongest in the middle tones
    and fading towards black and white. radius: by the size of the rendition where it is not given. threshold:
    differences up to so many levels of 255 are left alone. guard: areas with less structure than this stay as they
    are; auto measures how much noise there is in each rendition's own flat areas.
    """

    strength: Annotated[int, Field(ge=0, le=200, description="Per cent; 0 changes nothing.")]
    method: Literal["unsharp", "highpass"] = "unsharp"
    radius: Radius | None = None
    threshold: Annotated[float, Field(ge=0, le=40, description="Levels of 255.")] = 0
    guard: AutoGuard = 0.0


class Color(Station):
    """The color space that the rendition is converted to and tagged with.

    profile: one of the spaces that ship with the product, or "icc" for the profile file named in `icc`. intent and
    black_point: how colors are taken over that the space cannot hold. embed: whether the profile is put into the
    file. bits: of a channel, where the format has a choice. dither: noise of less than a level when a photo of
    more bits is reduced to 8, so that skies show no bands. matte: what lies behind transparent parts where the
    format has no transparency.
    """

    profile: Literal["srgb", "display-p3", "adobe-rgb", "grey", "icc", "own"] = "srgb"
    icc: Annotated[str, Field(min_length=1, max_length=120, pattern=r"^[^/\\]+$")] | None = None
    intent: Literal["perceptual", "relative", "saturation", "absolute"] = "relative"
    black_point: bool = True
    embed: bool = True
    bits: Literal[8, 16] = 8
    dither: bool = True
    matte: HexColor = "#ffffff"

    @model_validator(mode="after")
    def _named(self) -> Color:
        if (self.profile == "icc") == (self.icc is None):
            raise Conflict(
                "color.icc",
                expected="the name of a profile file" if self.icc is None else "no profile file beside a named space",
                found="nothing" if self.icc is None else repr(self.icc),
                remedy="Choose a profile file." if self.icc is None else "Leave it out, or write icc as the profile.",
            )
        return self
