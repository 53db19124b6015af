"""What a recipe does, in a sentence; each phrase knows the station that it speaks of."""

from __future__ import annotations

from dataclasses import dataclass

from tray_core.recipe.model import Recipe
from tray_core.recipe.stations import BoxSize, EdgeSize, JpegFile

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


@dataclass(frozen=True, slots=True)
class Phrase:
    """text: a piece of the sentence. station: the station it speaks of, or None for plain text."""

    text: str
    station: str | None = None


def size_words(size: EdgeSize | BoxSize | None) -> str:
    """The size station as a phrase: "1600 px on the long edge"."""
    if size is None:
        return "its own size"
    if isinstance(size, BoxSize):
        return f"inside {size.width} × {size.height}"
    return _EDGES[size.by].format(size.pixels)


def file_words(recipe: Recipe) -> str:
    """The file station as a phrase: "JPEG at quality 84"."""
    return f"JPEG at quality {recipe.file.quality}" if isinstance(recipe.file, JpegFile) else "PNG"


def headline(recipe: Recipe) -> tuple[str, str]:
    """Two short lines for a column head: the size, and file with color."""
    size = recipe.size
    if isinstance(size, EdgeSize) and size.by in ("long-edge", "short-edge"):
        where = f"{size.pixels} {size.by.replace('-', ' ')}"
    else:
        where = size_words(size).removeprefix("its ")
    file = f"jpeg {recipe.file.quality}" if isinstance(recipe.file, JpegFile) else "png"
    return where, f"{file} · {'sRGB' if recipe.color else 'own color'}"


def describe(recipe: Recipe) -> tuple[Phrase, ...]:
    """The whole sentence, in phrases that follow one another without added spaces."""
    said = [Phrase("Each photo keeps its shape")]
    if recipe.size is None:
        said += [Phrase(" and "), Phrase("its own size", "size"), Phrase("; ")]
    else:
        said += [
            Phrase("; it is made "),
            Phrase(size_words(recipe.size), "size"),
            Phrase(", never enlarged; "),
        ]
    strength = recipe.sharpen.strength if recipe.sharpen else 0
    said.append(Phrase(f"sharpened for screen at {strength} %" if strength else "not sharpened", "sharpen"))
    said += [Phrase("; "), Phrase("turned into sRGB" if recipe.color else "kept in its own color space", "color")]
    said += [Phrase(" and saved as "), Phrase(file_words(recipe), "file")]
    said += [Phrase(", without metadata, as "), Phrase(recipe.name.pattern, "name")]
    place = recipe.place
    if place.to == "download":
        said += [Phrase(", "), Phrase("to be downloaded", "place"), Phrase(".")]
    else:
        folder = place.subfolder or "the output folder itself"
        said += [Phrase(", in "), Phrase(folder, "place"), Phrase(f"; {_TAKEN[place.taken]}.")]
    return tuple(said)
