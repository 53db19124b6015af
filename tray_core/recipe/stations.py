"""The stations of a recipe: frozen values that cannot be built wrong."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator

from tray_core.recipe.base import Station
from tray_core.recipe.pattern import check_file_pattern, check_folder_pattern


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
