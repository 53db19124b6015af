"""One entrance to all coders, and the search for a quality where the recipe asks for one."""

from __future__ import annotations

from dataclasses import dataclass, replace

from tray_core.coders.jpeg import FINE_COLOR_FROM, encode_jpeg
from tray_core.coders.lossless import encode_gif, encode_png, encode_tiff
from tray_core.coders.lossy import encode_avif, encode_pdf, encode_webp
from tray_core.coders.metadata import with_metadata
from tray_core.errors import LineError
from tray_core.pixels.picture import Picture
from tray_core.recipe.file import (
    AvifFile,
    File,
    GifFile,
    JpegFile,
    Lossy,
    PdfFile,
    PngFile,
    SameFile,
    TiffFile,
    WebpFile,
)
from tray_core.weight.score import Scorer
from tray_core.weight.search import Found, lightest_of_a_look, under_a_limit
from tray_core.words.carried import Carried

_LOWEST = 20
"""The lowest quality that a search takes unless the recipe says another: below it, pictures are no use."""

Searched = JpegFile | WebpFile | AvifFile | PdfFile

_COARSE_SHOWS = 84
"""The quality from which coarse color costs more than it saves in some pictures."""


@dataclass(frozen=True, slots=True)
class Encoded:
    """A file's bytes. quality: that was used, None where there is none. score: perceptual, where it was searched by.

    tries: how many times the picture was encoded.
    """

    data: bytes
    quality: int | None = None
    score: float | None = None
    tries: int = 1


def encode(
    picture: Picture,
    file: File,
    ppi: int | None = None,
    quality: int | None = None,
    said: Carried | None = None,
) -> bytes:
    """Encode a picture as `file` says, at `quality` or the station's own.

    picture: grey, RGB, RGBA or CMYK as the format can hold, 8 bits or, for PNG and TIFF, 16; its profile, if any,
    is put into the file. ppi: pixels an inch, written as a tag where the format has one; it changes no pixel.
    said: what the file says of its picture.
    LineError when the coder refuses.
    """
    if quality is None and isinstance(file, Lossy):
        quality = file.quality
    try:
        match file:
            case JpegFile():
                return with_metadata(encode_jpeg(picture, file, quality or 1, ppi), "JPEG", said)
            case PngFile():
                return with_metadata(encode_png(picture, file, ppi), "PNG", said)
            case WebpFile():
                return with_metadata(encode_webp(picture, file, quality or 1), "WebP", said)
            case AvifFile():
                return encode_avif(picture, file, quality or 1, said)
            case TiffFile():
                return with_metadata(encode_tiff(picture, file, ppi), "TIFF", said)
            case PdfFile():
                return encode_pdf(picture, file, quality or 1, ppi, said)
            case GifFile():
                return encode_gif(picture, file)
            case SameFile():
                raise ValueError("a file that stays as it is has no coder")
    except Exception as error:  # the one boundary to foreign coders, which raise anything
        raise LineError(
            file.format.upper(),
            expected="a picture that can be encoded",
            found=f"one of {picture.size[0]} x {picture.size[1]} that its coder refused",
            remedy="Make the rendition smaller, or choose another format.",
        ) from error


def coded(picture: Picture, file: File, ppi: int | None = None, said: Carried | None = None) -> Encoded:
    """`encode`, with the quality searched for where the station gives a limit of bytes or a look.

    A limit is never exceeded: LineError says by how much even the lowest quality does.
    """
    if not isinstance(file, Searched) or getattr(file, "lossless", False):
        return Encoded(encode(picture, file, ppi, said=said))
    if not file.searched:
        return Encoded(encode(picture, file, ppi, said=said), file.quality)
    lowest = file.lowest or _LOWEST
    if file.under_kb is not None:
        found = _under(picture, file, ppi, file.under_kb * 1000, lowest, said)
        if found.size > file.under_kb * 1000:
            raise _too_heavy(file, found, lowest)
    else:
        assert file.looks is not None
        found = _looking(picture, file, ppi, file.looks, lowest, said)
    return Encoded(found.data, found.quality, found.score, found.tries)


def _under(picture: Picture, file: Searched, ppi: int | None, limit: int, lowest: int, said: Carried | None) -> Found:
    """The best quality under a limit, its color as fine as its lightness where there is room for that.

    Where finer color would take a step over the limit, coarse color goes on to higher qualities instead.
    """
    tries = 0
    if isinstance(file, JpegFile) and file.chroma == "auto" and picture.space == "RGB":
        fine, coarse = (file.model_copy(update={"chroma": each}) for each in ("444", "420"))
        floor = max(lowest, FINE_COLOR_FROM)
        if (tries := 1) and len(encode(picture, fine, ppi, floor, said)) <= limit:
            file, lowest = fine, floor
        else:
            file = coarse
    found = under_a_limit(lambda quality: encode(picture, file, ppi, quality, said), limit, lowest)
    return replace(found, tries=found.tries + tries)


def _looking(picture: Picture, file: Searched, ppi: int | None, looks: int, lowest: int, said: Carried | None) -> Found:
    """The lightest file that looks as is asked for, in all ways that the station leaves open.

    Coarse and fine color; and where the thorough coder is wanted, the quick one too, which is lighter for some.
    """
    scorer = Scorer(picture)

    def found_by(way: Searched) -> Found:
        return lightest_of_a_look(
            lambda quality: encode(picture, way, ppi, quality, said), scorer.score_of_file, looks, lowest
        )

    if not isinstance(file, JpegFile):
        return found_by(file)
    auto = file.chroma == "auto" and picture.space == "RGB"
    best_way = file.model_copy(update={"chroma": "420"}) if auto else file
    best, tries = found_by(best_way), 0
    others = [{"chroma": "444"}] if auto and (_falls_short(best, looks) or best.quality >= _COARSE_SHOWS) else []
    others += [{"coder": "quick"}] if file.coder == "thorough" else []
    for change in others:
        way = best_way.model_copy(update=change)
        found = found_by(way)
        tries += found.tries
        if _better(found, best, looks):
            best, best_way, tries = found, way, tries - found.tries + best.tries
    return replace(best, tries=best.tries + tries)


def _falls_short(found: Found, looks: int) -> bool:
    return found.score is None or found.score < looks


def _better(one: Found, other: Found, looks: int) -> bool:
    """Whether `one` is lighter and looks as is asked for, or looks more like it where neither does."""
    if _falls_short(one, looks) or _falls_short(other, looks):
        return (one.score or 0) > (other.score or 0) and _falls_short(other, looks)
    return one.size < other.size


def _too_heavy(file: Lossy, found: Found, lowest: int) -> LineError:
    assert file.under_kb is not None
    over = found.size - file.under_kb * 1000
    return LineError(
        "file.under_kb",
        expected=f"at most {file.under_kb} kB",
        found=f"{found.size / 1000:.1f} kB at quality {lowest}, {over / 1000:.1f} kB too many",
        remedy="Raise the limit, lower the lowest quality, make the rendition smaller, or choose a lighter format.",
    )
