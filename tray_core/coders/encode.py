"""One entrance to all coders, and the search for a quality where the recipe asks for one."""

from __future__ import annotations

from dataclasses import dataclass

from tray_core.coders.jpeg import encode_jpeg
from tray_core.coders.lossless import encode_gif, encode_png, encode_tiff
from tray_core.coders.lossy import encode_avif, encode_pdf, encode_webp
from tray_core.errors import LineError
from tray_core.pixels.picture import Picture
from tray_core.recipe.file import AvifFile, File, GifFile, JpegFile, Lossy, PdfFile, PngFile, TiffFile, WebpFile
from tray_core.weight.score import Scorer
from tray_core.weight.search import Found, lightest_of_a_look, under_a_limit

_LOWEST = 20
"""The lowest quality that a search takes unless the recipe says another: below it, pictures are no use."""


@dataclass(frozen=True, slots=True)
class Encoded:
    """A file's bytes. quality: that was used, None where there is none. score: perceptual, where it was searched by.

    tries: how many times the picture was encoded.
    """

    data: bytes
    quality: int | None = None
    score: float | None = None
    tries: int = 1


def encode(picture: Picture, file: File, ppi: int | None = None, quality: int | None = None) -> bytes:
    """Encode a picture as `file` says, at `quality` or the station's own.

    picture: grey, RGB, RGBA or CMYK as the format can hold, 8 bits or, for PNG and TIFF, 16; its profile, if any,
    is put into the file. ppi: pixels an inch, written as a tag where the format has one; it changes no pixel.
    LineError when the coder refuses.
    """
    if quality is None and isinstance(file, Lossy):
        quality = file.quality
    try:
        match file:
            case JpegFile():
                return encode_jpeg(picture, file, quality or 1, ppi)
            case PngFile():
                return encode_png(picture, file, ppi)
            case WebpFile():
                return encode_webp(picture, file, quality or 1)
            case AvifFile():
                return encode_avif(picture, file, quality or 1)
            case TiffFile():
                return encode_tiff(picture, file, ppi)
            case PdfFile():
                return encode_pdf(picture, file, quality or 1, ppi)
            case GifFile():
                return encode_gif(picture, file)
    except Exception as error:  # the one boundary to foreign coders, which raise anything
        raise LineError(
            file.format.upper(),
            expected="a picture that can be encoded",
            found=str(error) or type(error).__name__,
            remedy="Make the rendition smaller, or choose another format.",
        ) from error


def coded(picture: Picture, file: File, ppi: int | None = None) -> Encoded:
    """`encode`, with the quality searched for where the station gives a limit of bytes or a look.

    A limit is never exceeded: LineError says by how much even the lowest quality does.
    """
    if not isinstance(file, Lossy) or getattr(file, "lossless", False):
        return Encoded(encode(picture, file, ppi))
    if not file.searched:
        return Encoded(encode(picture, file, ppi), file.quality)
    lowest = file.lowest or _LOWEST

    def at(quality: int) -> bytes:
        return encode(picture, file, ppi, quality)

    if file.under_kb is not None:
        found = under_a_limit(at, file.under_kb * 1000, lowest)
        if found.size > file.under_kb * 1000:
            raise _too_heavy(file, found, lowest)
    else:
        assert file.looks is not None
        scorer = Scorer(picture)
        found = lightest_of_a_look(at, scorer.score_of_file, file.looks, lowest)
    return Encoded(found.data, found.quality, found.score, found.tries)


def _too_heavy(file: Lossy, found: Found, lowest: int) -> LineError:
    assert file.under_kb is not None
    over = found.size - file.under_kb * 1000
    return LineError(
        "file.under_kb",
        expected=f"at most {file.under_kb} kB",
        found=f"{found.size / 1000:.1f} kB at quality {lowest}, {over / 1000:.1f} kB too many",
        remedy="Raise the limit, lower the lowest quality, make the rendition smaller, or choose a lighter format.",
    )
