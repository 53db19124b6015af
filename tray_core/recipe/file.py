"""The file station: the formats, how heavy a file may be, and what its coder does for it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from tray_core.recipe.base import Conflict, Station
from tray_core.recipe.metadata import Metadata

Quality = Annotated[int, Field(ge=1, le=100)]
Chroma = Literal["auto", "444", "422", "420"]
Colors = Annotated[int, Field(ge=2, le=256, description="How many colors the palette has.")]

LOOKS_THE_SAME = 88
"""The usual target of the perceptual score: side by side, people see no difference (see `tray_core.weight`)."""


class Telling(Station):
    """A format that has places for metadata. metadata: what goes out of the photo's; nothing where it is left out."""

    metadata: Metadata | None = None


class Lossy(Telling):
    """How heavy the file is: by its quality; the best quality under some kilobytes; or the lightest of a look.

    under_kb: kilobytes of 1,000 bytes that the whole file never exceeds. looks: a perceptual score, 30 to 100,
    that the file reaches with as few bytes as it can. quality counts where neither is given.
    """

    quality: Quality = 84
    under_kb: Annotated[int, Field(ge=1, le=1_000_000)] | None = None
    looks: Annotated[int, Field(ge=30, le=99)] | None = None
    lowest: Annotated[int, Field(ge=1, le=100, description="The lowest quality that a search may take.")] | None = None

    @property
    def searched(self) -> bool:
        """Whether the quality is found for each picture on its own."""
        return self.under_kb is not None or self.looks is not None

    @model_validator(mode="after")
    def _one_way(self) -> Lossy:
        if self.under_kb is not None and self.looks is not None:
            raise Conflict(
                "file.looks",
                expected="one way to say how heavy the file is",
                found="a limit of kilobytes and a look",
                remedy="Leave one of them out.",
            )
        if self.searched and "quality" in self.model_fields_set:
            raise Conflict(
                "file.quality",
                expected="one way to say how heavy the file is",
                found="a quality beside a limit of kilobytes or a look",
                remedy="Leave it out; a search finds the quality.",
            )
        if self.lowest is not None and not self.searched:
            raise Conflict(
                "file.lowest",
                expected="a search whose quality can be bounded",
                found="a fixed quality",
                remedy="Leave it out, or give a limit or a look.",
            )
        return self


class JpegFile(Lossy):
    """JPEG; transparent parts lie on the matte of the color station.

    coder: quick, or thorough, which takes ten times as long for files that look the same and weigh a tenth to a seventh
    less. chroma: how much finer lightness is kept than color; auto is 4:2:0 below a quality of 90 and 4:4:4 from there,
    and a search tries both.
    """

    format: Literal["jpeg"]
    coder: Literal["quick", "thorough"] = "quick"
    progressive: bool = False
    chroma: Chroma = "auto"

    @model_validator(mode="after")
    def _coder_can(self) -> JpegFile:
        if self.coder == "thorough" and self.chroma == "422":
            raise Conflict(
                "file.chroma",
                expected="auto, 420 or 444, which the thorough coder has",
                found="422",
                remedy="Choose one of them, or the quick coder.",
            )
        return self


class PngFile(Telling):
    """PNG, lossless; transparency is kept. colors: reduce to a palette of so many. effort: 0 fast, 9 light."""

    format: Literal["png"]
    colors: Colors | None = None
    effort: Annotated[int, Field(ge=0, le=9)] = 6


class WebpFile(Lossy):
    """WebP, lossy or lossless; transparency is kept. effort: 0 fast, 6 light.

    sharp: whether color, which has half the resolution of lightness in lossy files, is converted so that its edges stay
    sharp; four times as slow. Left out, it is where the file is to look the same, and not otherwise.
    """

    format: Literal["webp"]
    lossless: bool = False
    sharp: bool | None = None
    effort: Annotated[int, Field(ge=0, le=6)] = 2

    @property
    def sharp_color(self) -> bool:
        """Whether color is converted sharply."""
        return self.looks is not None if self.sharp is None else self.sharp

    @model_validator(mode="after")
    def _nothing_to_search(self) -> WebpFile:
        if self.lossless and self.searched:
            field = "file.under_kb" if self.under_kb is not None else "file.looks"
            raise Conflict(
                field,
                expected="a lossy file, whose quality can be chosen",
                found="a lossless one",
                remedy="Leave it out, or switch lossless off.",
            )
        return self


class AvifFile(Lossy):
    """AVIF, 8 bits a channel; transparency is kept. effort: 0 fast, 9 light."""

    format: Literal["avif"]
    quality: Quality = 65
    effort: Annotated[int, Field(ge=0, le=9)] = 1
    chroma: Chroma = "auto"


class TiffFile(Telling):
    """TIFF, lossless, 8 or 16 bits as the color station says; transparency is kept."""

    format: Literal["tiff"]
    compression: Literal["lzw", "deflate", "none"] = "deflate"


class PdfFile(Lossy):
    """PDF of one page with the picture as a JPEG in it; the page's size follows from ppi, 300 without."""

    format: Literal["pdf"]


class GifFile(Station):
    """GIF with a palette; transparency is all or nothing."""

    format: Literal["gif"]
    colors: Colors = 256
    dither: bool = True


class SameFile(Telling):
    """The photo's own file as it is: only its name and place are the recipe's, and its metadata where any is asked for.

    Without metadata every byte is the same; with it the picture's data are, and the rest is written anew.
    """

    format: Literal["same"]


File = Annotated[
    JpegFile | PngFile | WebpFile | AvifFile | TiffFile | PdfFile | GifFile | SameFile, Field(discriminator="format")
]

EXTENSIONS = {"jpeg": "jpg", "png": "png", "webp": "webp", "avif": "avif", "tiff": "tif", "pdf": "pdf", "gif": "gif"}
"""What a file's name ends in, by format; as it is, in what the photo's own does."""

KEEPS_ALPHA = frozenset(("png", "webp", "avif", "tiff", "gif"))
KEEPS_16_BITS = frozenset(("png", "tiff"))
HAS_GREY = frozenset(("jpeg", "png", "avif", "tiff", "pdf"))
"""Formats with pictures of one channel, and so with profiles for one; others hold grey as three equal channels."""
HAS_PROFILE = frozenset(("jpeg", "png", "webp", "avif", "tiff", "pdf"))
KEEPS_CMYK = frozenset(("jpeg", "tiff", "pdf"))
