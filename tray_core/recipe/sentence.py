"""What a recipe does, in a sentence; each phrase knows the station that it speaks of."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import PurePosixPath

from tray_core.recipe.file import LOOKS_THE_SAME, File, GifFile, JpegFile, Lossy, PngFile, TiffFile, WebpFile
from tray_core.recipe.frame import (
    BoundsFrame,
    CropFrame,
    Frame,
    KeepFrame,
    PadFrame,
    StretchFrame,
    parse_pixels,
    parse_ratio,
)
from tray_core.recipe.model import Recipe
from tray_core.recipe.size import (
    BoxSize,
    EdgeSize,
    ExactSize,
    MegapixelSize,
    OwnSize,
    PercentSize,
    Size,
    WidthsSize,
)
from tray_core.recipe.stations import Color, Prep, Sharpen

_EDGES = {
    "long-edge": "{} px on the long edge",
    "short-edge": "{} px on the short edge",
    "width": "{} px wide",
    "height": "{} px high",
}
_TAKEN = {
    "new-name": "a taken name gets a number",
    "replace": "a file of that name is replaced",
    "keep": "a file of that name is kept",
}
_GROUNDS = {
    "blur": "a blurred copy of itself",
    "edge": "the colors of its edges",
    "transparent": "transparency",
}
_FORMATS = {
    "jpeg": "JPEG",
    "png": "PNG",
    "webp": "WebP",
    "avif": "AVIF",
    "tiff": "TIFF",
    "pdf": "PDF",
    "gif": "GIF",
}
_SPACES = {
    "srgb": "sRGB",
    "display-p3": "Display P3",
    "adobe-rgb": "Adobe-RGB-compatible",
    "grey": "grey",
    "own": "own color",
}
_COLORS = {"#ffffff": "white", "#000000": "black"}
_SIDES = {
    "middle": "its middle",
    "interest": "its interesting part",
    "top": "its top",
    "bottom": "its bottom",
    "left": "its left side",
    "right": "its right side",
    "top-left": "its top left corner",
    "top-right": "its top right corner",
    "bottom-left": "its bottom left corner",
    "bottom-right": "its bottom right corner",
}


@dataclass(frozen=True, slots=True)
class Phrase:
    """text: a piece of the sentence. station: the station it speaks of, or None for plain text."""

    text: str
    station: str | None = None


def shape_words(shape: str) -> str:
    """A shape as people say it: "a square", "3:2", "1920 × 640"."""
    if (pixels := parse_pixels(shape)) is not None:
        return f"{pixels[0]} × {pixels[1]}"
    width, height = parse_ratio(shape)
    return "a square" if width == height else shape


def ground_words(fill: str) -> str:
    """What lies beside the picture: "white", "a blurred copy of itself", "#dcdcda"."""
    return _GROUNDS.get(fill) or _COLORS.get(fill) or f"the color {fill}"


def _in_shape(shape: str | None) -> str:
    return " to the exact size" if shape is None else f" to {shape_words(shape)}"


def frame_words(frame: Frame | None) -> str:
    """What the frame station does to each photo: "is cropped to a square around its middle"."""
    match frame:
        case CropFrame(anchor="ask"):
            return f"is cropped{_in_shape(frame.shape)} by its framing, and waits for an eye where it has none"
        case CropFrame():
            return f"is cropped{_in_shape(frame.shape)} by its framing, or else around {_SIDES[frame.anchor]}"
        case PadFrame():
            return f"is padded{_in_shape(frame.shape)} with {ground_words(frame.fill)}{_set(frame.anchor)}"
        case StretchFrame():
            return f"is stretched{_in_shape(frame.shape)}"
        case BoundsFrame():
            return _bounds_words(frame)
    return "keeps its shape"


def _set(anchor: str) -> str:
    """Where a padded picture lies; nothing to say of the middle."""
    if anchor in ("middle", "interest"):
        return ""
    return ", placed by eye" if anchor == "ask" else f", set to the {anchor.replace('-', ' ')}"


def _bounds_words(frame: BoundsFrame) -> str:
    between = f"keeps its shape between {frame.narrowest} and {frame.widest}"
    if frame.outside == "pad":
        return f"{between}, and beyond is padded with {ground_words(frame.fill)}{_set(frame.anchor)}"
    if frame.anchor == "ask":
        return f"{between}, and beyond is cropped by its framing, or waits for an eye"
    return f"{between}, and beyond is cropped around {_SIDES[frame.anchor]}"


def panel_words(frame: Frame | None) -> str:
    """ "3 × 2 panels", or nothing where the picture stays whole."""
    if frame is None or frame.split == (1, 1):
        return ""
    columns, rows = frame.split
    return f"{columns} × {rows} panels"


def _measure_words(size: Size, values: dict[str, object]) -> str:
    match size:
        case EdgeSize():
            return _EDGES[size.by].format(values["pixels"])
        case BoxSize():
            return f"inside {values['width']} × {values['height']}"
        case ExactSize():
            return f"{values['width']} × {values['height']}"
        case PercentSize():
            return f"{values['percent']} % of its own size"
        case MegapixelSize():
            return f"{values['megapixels']:g} megapixels"
    return "its own size"


def size_words(size: Size | None) -> str:
    """The size station as a phrase: "1600 px on the long edge", "1920 px wide, portraits 1080 px wide"."""
    if size is None or isinstance(size, OwnSize):
        return "its own size"
    if isinstance(size, WidthsSize):
        widths = [str(width) for width in sorted(set(size.widths))]
        listed = " and ".join([", ".join(widths[:-1]), widths[-1]]) if len(widths) > 1 else widths[0]
        return f"{listed} px wide"
    said = _measure_words(size, size.for_shape("landscape"))
    for shape, name in (("portrait", "portraits"), ("square", "squares")):
        if getattr(size, shape) is not None:
            said += f", {name} {_measure_words(size, size.for_shape(shape))}"
    return said


def enlarge_words(size: Size | None) -> str:
    """How far enlarging goes: "never enlarged", "enlarged to 150 % at most"."""
    if size is None or size.enlarge == "never":
        return "never enlarged"
    return "enlarged where needed" if size.enlarge == "always" else f"enlarged to {size.enlarge} % at most"


def file_words(recipe: Recipe) -> str:
    """The file station as a phrase: "JPEG at quality 84", "WebP, the best under 200 kB"."""
    file = recipe.file
    name = _FORMATS[file.format]
    if isinstance(file, JpegFile):
        name = f"{'progressive ' if file.progressive else ''}{name}"
    if isinstance(file, PngFile | GifFile) and file.colors not in (None, 256):
        return f"{name} of {file.colors} colors"
    if isinstance(file, WebpFile) and file.lossless:
        return f"lossless {name}"
    if isinstance(file, TiffFile):
        bits = recipe.color.bits if recipe.color else 8
        return f"{name} of {bits} bits"
    if not isinstance(file, Lossy):
        return name if recipe.color is None or recipe.color.bits == 8 else f"{name} of 16 bits"
    if file.under_kb is not None:
        return f"the best {name} under {file.under_kb} kB"
    if file.looks is not None:
        near = "" if file.looks >= LOOKS_THE_SAME else "nearly "
        return f"the lightest {name} that looks {near}the same (a score of {file.looks})"
    return f"{name} at quality {file.quality}"


def _weight_line(file: File) -> str:
    name = "tiff" if isinstance(file, TiffFile) else file.format
    if isinstance(file, PngFile | GifFile) and file.colors is not None:
        return f"{name} {file.colors}"
    if isinstance(file, WebpFile) and file.lossless:
        return f"{name} lossless"
    if not isinstance(file, Lossy):
        return name
    if file.under_kb is not None:
        return f"{name} < {file.under_kb} kB"
    return f"{name} looks {file.looks}" if file.looks is not None else f"{name} {file.quality}"


def space_words(color: Color | None) -> str:
    """The color space by name: "sRGB", "Display P3", "own color"."""
    if color is None:
        return "own color"
    return _SPACES.get(color.profile) or PurePosixPath(color.icc or "").stem


def color_words(color: Color | None) -> str:
    """The color station as a phrase: "turned into sRGB"."""
    if color is None or color.profile == "own":
        return "kept in its own color space"
    said = f"turned into {space_words(color)}"
    if color.intent != "relative":
        said += f" by the {color.intent} intent"
    return said if color.embed else f"{said}, without its profile"


def sharpen_words(station: Sharpen | None) -> str:
    """The sharpen station as a phrase: "sharpened for screen at 100 %"."""
    if station is None or station.strength == 0:
        return "not sharpened"
    said = f"sharpened for screen at {station.strength} %"
    if station.method == "highpass":
        said += " by high-pass"
    if station.radius is not None:
        said += f" with a radius of {station.radius:g} px"
    return f"{said}, flat areas guarded" if station.guard else said


def prep_words(prep: Prep) -> str:
    """The prep station as a phrase: "has its levels and contrast corrected and is sharpened first"."""
    kinds = [name for name in ("levels", "contrast", "color balance") if getattr(prep, name.split()[-1])]
    listed = " and ".join([", ".join(kinds[:-1]), kinds[-1]] if len(kinds) > 1 else kinds)
    said = [f"has its {listed} corrected"] if kinds else []
    if prep.sharpen is not None:
        said.append("is sharpened before it is resized")
    return " and ".join(said)


def headline(recipe: Recipe) -> tuple[str, str]:
    """Two short lines for a column head: shape and size, and file with color."""
    return ", ".join(_headline(recipe)), f"{_weight_line(recipe.file)} · {space_words(recipe.color)}"


def _headline(recipe: Recipe) -> Iterator[str]:
    frame, size = recipe.frame, recipe.size
    shape = getattr(frame, "shape", None)
    exact = isinstance(size, ExactSize) or (shape and parse_pixels(shape) and (size is None or size.by == "own"))
    if shape and (not exact or size is None or size.by == "own"):
        yield shape_words(shape).removeprefix("a ")
    if isinstance(frame, BoundsFrame):
        yield f"{frame.narrowest} to {frame.widest}"
    if isinstance(size, EdgeSize) and size.by in ("long-edge", "short-edge"):
        yield f"{size.pixels} {size.by.replace('-', ' ')}"
    elif isinstance(size, WidthsSize):
        yield f"{len(set(size.widths))} widths"
    elif not (exact and (size is None or size.by == "own")):
        words = _measure_words(size, size.for_shape("landscape")) if size else "own size"
        yield words.removeprefix("its ").replace("% of its own size", "%").replace(" px wide", " wide")
    if (panels := panel_words(frame)) != "":
        yield panels
    if isinstance(frame, PadFrame):
        yield {"blur": "blurred", "edge": "edges"}.get(frame.fill, "padded")
    elif isinstance(frame, CropFrame | StretchFrame):
        yield "cropped" if isinstance(frame, CropFrame) else "stretched"


def describe(recipe: Recipe) -> tuple[Phrase, ...]:
    """The whole sentence, in phrases that follow one another without added spaces."""
    frame, size = recipe.frame, recipe.size
    said = [Phrase("Each photo ")]
    if recipe.prep is not None and (prepared := prep_words(recipe.prep)):
        said += [Phrase(prepared, "prep"), Phrase(", ")]
    said += [Phrase(frame_words(frame), "frame")]
    if (panels := panel_words(frame)) != "":
        joint = " and is cut into " if isinstance(frame, KeepFrame) else ", and is cut into "
        said += [Phrase(joint), Phrase(panels, "frame")]
    said += list(_size_phrases(recipe, "each is" if panels else "it is"))
    said += [Phrase("; "), Phrase(sharpen_words(recipe.sharpen), "sharpen")]
    said += [Phrase("; "), Phrase(color_words(recipe.color), "color")]
    said += [Phrase(" and saved as "), Phrase(file_words(recipe), "file")]
    if size is not None and size.ppi is not None:
        said += [Phrase(" with "), Phrase(f"a tag of {size.ppi} ppi", "size")]
    said += [Phrase(", without metadata, as "), Phrase(recipe.name.pattern, "name")]
    place = recipe.place
    if place.to == "download":
        said += [Phrase(", "), Phrase("to be downloaded", "place"), Phrase(".")]
    else:
        folder = place.subfolder or "the output folder itself"
        said += [Phrase(", in "), Phrase(folder, "place"), Phrase(f"; {_TAKEN[place.taken]}.")]
    return tuple(said)


def _size_phrases(recipe: Recipe, subject: str) -> Iterator[Phrase]:
    """What becomes of the size; enlarging is told only where a picture can meet it."""
    frame, size = recipe.frame, recipe.size
    shape = getattr(frame, "shape", None)
    given = shape is not None and parse_pixels(shape) is not None and (size is None or isinstance(size, OwnSize))
    if given:
        yield Phrase("; made in exactly these pixels, ")
        yield Phrase(enlarge_words(size), "size")
    elif size is None or isinstance(size, OwnSize):
        yield Phrase("; ")
        grows = isinstance(frame, StretchFrame)
        yield Phrase("as large as its own pixels allow" if grows else "not scaled", "size")
        return
    else:
        yield Phrase(f"; {subject} made ")
        yield Phrase(size_words(size), "size")
        yield Phrase(", one file each, " if isinstance(size, WidthsSize) and len(set(size.widths)) > 1 else ", ")
        yield Phrase(enlarge_words(size), "size")
    if size is not None and size.light == "linear":
        yield Phrase(", resampled in ")
        yield Phrase("linear light", "size")
