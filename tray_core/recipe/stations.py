"""The stations of a recipe: frozen values that cannot be built wrong."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator

from tray_core.recipe.pattern import check_file_pattern, check_folder_pattern

MAX_PIXELS = 65_500
"""The longest edge that is made: what a JPEG can hold (ITU-T T.81 allows 65,535, coders less)."""


class Station(BaseModel):
    """Unknown keys are an error that names the key; numbers are never guessed from text."""

    model_config = ConfigDict(frozen=True, extra="forbid", strict=True)


Pixels = Annotated[int, Field(ge=1, le=MAX_PIXELS)]


class EdgeSize(Station):
    """One edge of the upright picture gets `pixels`; the other follows the photo's shape."""

    by: Literal["long-edge", "short-edge", "width", "height"]
    pixels: Annotated[int, Field(ge=1, le=MAX_PIXELS, description="The edge asked for, in pixels; exact.")]
    enlarge: Literal["never"] = "never"


class BoxSize(Station):
    """The largest picture of the photo's shape that lies inside width x height."""

    by: Literal["box"]
    width: Pixels
    height: Pixels
    enlarge: Literal["never"] = "never"


Size = Annotated[EdgeSize | BoxSize, Field(discriminator="by")]


class Sharpen(Station):
    """Sharpening for screen, after resizing, on luminance. 100 suits most pictures."""

    strength: Annotated[int, Field(ge=0, le=200, description="Per cent; 0 changes nothing.")]


class Color(Station):
    """The color space that the rendition is converted to and tagged with."""

    profile: Literal["srgb"] = "srgb"


class JpegFile(Station):
    """JPEG; transparent parts lie on white."""

    format: Literal["jpeg"]
    quality: Annotated[int, Field(ge=1, le=100)] = 84


class PngFile(Station):
    """PNG, 8 bits a channel, lossless; transparency is kept."""

    format: Literal["png"]


File = Annotated[JpegFile | PngFile, Field(discriminator="format")]


class Name(Station):
    """The file's name in Python's format syntax; the extension follows the format."""

    pattern: Annotated[str, Field(min_length=1, max_length=200)]

    @field_validator("pattern")
    @classmethod
    def _check(cls, pattern: str) -> str:
        check_file_pattern(pattern)
        return pattern


class Place(Station):
    """Where the file goes, and what happens when its name is taken there.

    output: a folder below the output root (`subfolder`, a pattern; empty for the root itself).
    download: nowhere but the run itself, to be downloaded from it.
    """

    to: Literal["output", "download"] = "output"
    subfolder: Annotated[str, Field(max_length=200)] = ""
    taken: Literal["new-name", "replace", "keep"] = "new-name"

    @field_validator("subfolder")
    @classmethod
    def _check(cls, subfolder: str) -> str:
        check_folder_pattern(subfolder)
        return subfolder
