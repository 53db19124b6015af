"""What a recipe does, in a sentence; each phrase knows the station that it speaks of."""

from __future__ import annotations

import math
from collections.abc import Iterator
from pathlib import PurePosixPath

from tray_core.recipe.cutout import Cutout
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
    shape_numbers,
)
from tray_core.recipe.model import Recipe
from tray_core.recipe.phrases import Phrase, cutout_words, finish_words, metadata_words, place_phrases
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
    "same": "the photo’s own file",
}
_SPACES = {
    "srgb": "sRGB",
    "display-p3": "Display P3",
    "adobe-rgb": "Adobe-RGB-compatible",
    "grey": "grey",
    "own": "own color",
}
_NUMBERS = {2: "two", 3: "three", 4: "four", 5: "five", 6: "six", 7: "seven", 8: "eight", 9: "nine", 10: "ten"}
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


def shape_words(shape: str) -> str:
    """A shape as people say it: "a square", "3:2", "1920 × 640"."""
    if (pixels := parse_pixels(shape)) is not None:
        return f"{pixels[0]} × {pixels[1]}"
    width, height = parse_ratio(shape)
    return "a square" if width == height else shape


def ground_words(fill: str) -> str:
    """What lies beside the picture: "white", "a blurred copy of itself", "#dcdcda"."""
    return _GROUNDS.get(fill) or _COLORS.get(fill) or f"the color {fill}"


def _given(shape: str | None, size: Size | None) -> tuple[int, int] | None:
    """The exact pixels that a shape gives; none where the size station says how large it is: then it is a ratio."""
    return parse_pixels(shape) if shape and (size is None or isinstance(size, OwnSize)) else None


def _ratio_words(width: float, height: float) -> str:
    if width == height:
        return "a square"
    if not (float(width).is_integer() and float(height).is_integer()):
        return f"{width:g}:{height:g}"
    shared = math.gcd(int(width), int(height))
    return f"{int(width) // shared}:{int(height) // shared}"


def _whole(frame: CropFrame | PadFrame | StretchFrame, size: Size | None) -> str:
    """The shape of the whole picture, of which `frame.shape` is one panel: " to 6:1", " to the exact size"."""
    columns, rows = frame.split
    if frame.shape is None:
        return " to the exact size" if (columns, rows) == (1, 1) else " to the exact size of all panels together"
    if (given := _given(frame.shape, size)) is not None:
        return f" to {given[0] * columns} × {given[1] * rows}"
    width, height = shape_numbers(frame.shape)
    return f" to {_ratio_words(width * columns, height * rows)}"


def _placed(anchor: str) -> str:
    """How a crop is placed: by its framing, and without one by the anchor."""
    if anchor == "ask":
        return "by its framing, or waits for your crop where it has none"
    return f"by its framing, or else around {_SIDES[anchor]}"


def _laid(frame: PadFrame | BoundsFrame) -> str:
    """What a picture is padded with, and where it lies."""
    ground = f"with {ground_words(frame.fill)}"
    if frame.anchor == "ask":
        return f"{ground} as its framing says, or waits for your crop where it has none"
    side = "" if frame.anchor in ("middle", "interest") else f", set to the {frame.anchor.replace('-', ' ')}"
    return f"{ground}{side}, unless a framing says otherwise"


def frame_words(frame: Frame | None, size: Size | None, cutout: Cutout | None = None) -> str:
    """What the frame station does to each photo: "is cropped to a square by its framing, or else around its middle".

    cutout: which may have the frame lie around the object, and brings a ground of its own.
    """
    if cutout is not None and cutout.fit != "no":
        shape = _whole(frame, size) if isinstance(frame, CropFrame | PadFrame) else ""
        return f"is framed{shape} around its object, unless a framing says otherwise"
    if cutout is not None and cutout.cuts and isinstance(frame, PadFrame | BoundsFrame):
        frame = frame.model_copy(update={"fill": {"clear": "transparent"}.get(cutout.ground, cutout.ground)})
    match frame:
        case CropFrame():
            return f"is cropped{_whole(frame, size)} {_placed(frame.anchor)}"
        case PadFrame():
            return f"is padded{_whole(frame, size)} {_laid(frame)}"
        case StretchFrame():
            return f"is stretched{_whole(frame, size)}"
        case BoundsFrame():
            between = f"keeps a shape between {frame.narrowest} and {frame.widest}; any other is"
            if frame.outside == "pad":
                return f"{between} padded to the nearer of the two {_laid(frame)}"
            return f"{between} cropped to the nearer of the two {_placed(frame.anchor)}"
    return "keeps its shape"


def panel_words(frame: Frame | None) -> str:
    """ "3 × 2 panels", or nothing where the picture stays whole."""
    if frame is None or frame.split == (1, 1):
        return ""
    columns, rows = frame.split
    return f"{columns} × {rows} panels"


def _cut_words(frame: Frame, size: Size | None) -> str:
    """What a picture is cut into: "six squares side by side", "3 × 2 panels of 4:5"."""
    columns, rows = frame.split
    shape = getattr(frame, "shape", None)
    given = _given(shape, size)
    said = "" if shape is None else f"{given[0]} × {given[1]}" if given else _ratio_words(*shape_numbers(shape))
    piece = "squares" if said == "a square" else f"panels of {said}" if said else "panels"
    if rows > 1 and columns > 1:
        return f"{columns} × {rows} {piece}"
    count = columns * rows
    return f"{_NUMBERS.get(count, count)} {piece}{' side by side' if rows == 1 else ', one above the other'}"


def _measure_words(size: Size, values: dict[str, object]) -> str:
    match size:
        case EdgeSize():
            return _EDGES[size.by].format(values["pixels"])
        case BoxSize():
            return f"inside {values['width']} × {values['height']}"
        case ExactSize():
            return f"{values['width']} × {values['height']}"
        case PercentSize():
            percent, most = values["percent"], {"never": 100, "always": 1000}.get(str(size.enlarge), size.enlarge)
            assert isinstance(percent, int | float) and isinstance(most, int | float)
            return "its own size" if min(percent, most) == 100 else f"{min(percent, most):g} % of its own size"
        case MegapixelSize():
            return f"{values['megapixels']:g} megapixel{'' if values['megapixels'] == 1 else 's'}"
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
        return f"{name} with {file.colors} colors"
    if isinstance(file, WebpFile) and file.lossless:
        return f"lossless {name}"
    if isinstance(file, TiffFile):
        bits = recipe.color.bits if recipe.color else 8
        return f"{bits}-bit {name}"
    if not isinstance(file, Lossy):
        return name if recipe.color is None or recipe.color.bits == 8 else f"16-bit {name}"
    if file.under_kb is not None:
        return f"the best {name} under {file.under_kb} kB"
    if file.looks is not None:
        near = "" if file.looks >= LOOKS_THE_SAME else "nearly "
        return f"the lightest {name} that looks {near}the same (a score of {file.looks})"
    return f"{name} at quality {file.quality}"


def _weight_line(file: File) -> str:
    name = _FORMATS[file.format]
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
    """The color station as a phrase: "converted to sRGB"."""
    if color is None or color.profile == "own":
        return "kept in its own color space"
    said = f"converted to {space_words(color)}"
    if color.intent != "relative":
        said += f" with the {color.intent} intent"
    return said if color.embed else f"{said} without embedding the profile"


def sharpen_words(station: Sharpen | None) -> str:
    """The sharpen station as a phrase: "sharpened for screen at 100 %"."""
    if station is None or station.strength == 0:
        return "not sharpened"
    said = f"sharpened for screen at {station.strength} %"
    if station.method == "highpass":
        said += " by high-pass"
    if station.radius is not None:
        said += f" with a radius of {station.radius:g} px"
    if station.threshold:
        said += f", differences below {station.threshold:g} levels left alone"
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
    if recipe.file.format == "same":
        return "as it is", "the photo’s own file"
    return ", ".join(_headline(recipe)), f"{_weight_line(recipe.file)} · {space_words(recipe.color)}"


def _headline(recipe: Recipe) -> Iterator[str]:
    frame, size = recipe.frame, recipe.size
    shape = getattr(frame, "shape", None)
    exact = isinstance(size, ExactSize) or (shape and parse_pixels(shape) and (size is None or size.by == "own"))
    if shape and (not exact or size is None or size.by == "own"):
        given = _given(shape, size)
        yield shape_words(shape).removeprefix("a ") if given else _ratio_words(*shape_numbers(shape)).removeprefix("a ")
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
    if recipe.file.format == "same":
        changed = recipe.metadata is not None
        kept = "Each photo’s own file is copied as it is" if not changed else "Each photo’s picture is copied as it is"
        own = (Phrase(f"{kept}, "), Phrase(metadata_words(recipe.metadata), "file")) if changed else (Phrase(kept),)
        return (*own, Phrase(", named "), Phrase(recipe.name.pattern, "name"), *place_phrases(recipe))
    said = [Phrase("Each photo ")]
    if recipe.prep is not None and (prepared := prep_words(recipe.prep)):
        said += [Phrase(prepared, "prep"), Phrase(", and " if " and " in prepared else " and ")]
    if recipe.cutout is not None:
        said += [Phrase(cutout_words(recipe.cutout), "cutout"), Phrase(", and ")]
    said += [Phrase(frame_words(frame, size, recipe.cutout), "frame")]
    panels = frame is not None and frame.split != (1, 1)
    if frame is not None and panels:
        joint = " and is cut into " if isinstance(frame, KeepFrame) else ", and is cut into "
        said += [Phrase(joint), Phrase(_cut_words(frame, size), "frame")]
    said += list(_size_phrases(recipe, "each is" if panels else "it is"))
    said += [Phrase("; "), Phrase(sharpen_words(recipe.sharpen), "sharpen")]
    if recipe.finish is not None:
        said += [Phrase("; it "), Phrase(finish_words(recipe.finish), "finish")]
    said += [Phrase("; "), Phrase(color_words(recipe.color), "color")]
    said += [Phrase(" and saved as "), Phrase(file_words(recipe), "file")]
    if size is not None and size.ppi is not None:
        said += [Phrase(" with "), Phrase(f"a tag of {size.ppi} ppi", "size")]
    said += [Phrase(", "), Phrase(metadata_words(recipe.metadata), "file"), Phrase(", named ")]
    said += [Phrase(recipe.name.pattern, "name")]
    return (*said, *place_phrases(recipe))


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
    else:
        lead = {"percent": "made at", "megapixels": "made at", "box": "made to fit"}.get(size.by, "made")
        yield Phrase(f"; {subject} {lead} ")
        yield Phrase(size_words(size), "size")
        yield Phrase(", one file each, " if isinstance(size, WidthsSize) and len(set(size.widths)) > 1 else ", ")
        yield Phrase(enlarge_words(size), "size")
    if size is not None and size.light == "linear" and not isinstance(size, OwnSize):
        yield Phrase(", resampled in ")
        yield Phrase("linear light", "size")
    if size is not None and size.minimum is not None and size.minimum.words:
        yield Phrase(", with a warning below ")
        yield Phrase(size.minimum.words, "size")
