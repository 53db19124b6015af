"""Pieces of the sentence that a recipe is told in, and those of the last stations."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from tray_core.recipe.cutout import Cutout
from tray_core.recipe.finish import Border, Finish, Mark, TextMark
from tray_core.recipe.metadata import Metadata
from tray_core.recipe.model import Recipe
from tray_core.recipe.place import Afterwards, Deliver

_AFTERWARDS = {
    "zip": "all go into a zip",
    "markup": "a page is written beside them",
    "sheets": "they are laid out on contact sheets",
    "path": "the folder is shown",
}
_TAKEN = {
    "new-name": "where the name is taken, the new file gets a number",
    "replace": "a file of the same name is replaced",
    "keep": "a file of the same name is kept",
    "ask": "where the name is taken, it waits for your answer",
}


@dataclass(frozen=True, slots=True)
class Phrase:
    """text: a piece of the sentence. station: the station it speaks of, or None for plain text."""

    text: str
    station: str | None = None


def place_phrases(recipe: Recipe) -> Iterator[Phrase]:
    """Where the file goes, what lies beside it, and what is done afterwards."""
    place = recipe.place
    if place.to == "download":
        yield from (Phrase(", "), Phrase("to be downloaded", "place"))
    else:
        folder = place.subfolder or "the output folder itself"
        where = f"{folder} beside the original" if place.to == "beside" else folder
        yield from (Phrase(", in "), Phrase(where, "place"), Phrase(f"; {_TAKEN[place.taken]}"))
    if place.sidecars:
        names = _listed(tuple(f".{kind}" for kind in place.sidecars), "and")
        yield from (Phrase("; its words go into "), Phrase(f"{names} beside it", "place"))
    if done := tuple(_afterwards_words(each) for each in place.afterwards):
        yield from (Phrase("; afterwards "), Phrase(_listed(done, "and"), "place"))
    yield Phrase(".")


def _afterwards_words(step: Afterwards) -> str:
    return f"all are sent to {step.to}" if isinstance(step, Deliver) else _AFTERWARDS[step.do]


def cutout_words(cutout: Cutout) -> str:
    """What becomes of the object: "is cut out and laid on white with a soft shadow, its object as large as fits"."""
    grounds = {"keep": "keeps its ground", "clear": "is cut out", "#ffffff": "is cut out and laid on white"}
    said = grounds.get(cutout.ground, f"is cut out and laid on the color {cutout.ground}")
    if cutout.shadow is not None:
        said += " with a soft shadow"
    if cutout.fit != "no":
        size = "as large as that of any other" if cutout.fit == "area" else "as large as fits"
        said += f", its object {size} with a margin of {cutout.margin:g} %"
    kept = [f"in the file as “{cutout.path}”"] if cutout.path else []
    kept += ["beside it as SVG"] if cutout.svg else []
    return f"{said}, its outline {' and '.join(kept)}" if kept else said


def finish_words(finish: Finish) -> str:
    """What lies around the picture and over it: "gets a white border of 4 %, and “© {creator}” at the bottom right"."""
    said = [_border_words(border) for border in finish.borders]
    if not finish.corners.startswith("0 "):
        said.append(f"corners rounded by {finish.corners}")
    said += [_mark_words(mark) for mark in finish.marks]
    if (proof := finish.proof) is not None:
        limit = f", at most {proof.longest} px" if proof.longest != "any" else ""
        said.append(f"“{proof.text}” stamped over it{limit}")
    added = ", added to its size" if finish.borders and finish.grow else ""
    return f"gets {_listed(tuple(said), 'and')}{added}" if said else "gets nothing around it"


def _border_words(border: Border) -> str:
    named = {"#ffffff": "a white border", "#000000": "a black border", "main": "a border of its main color"}
    what = "a border of its blurred copy" if border.blur else named.get(border.color, f"a border of {border.color}")
    return f"{what} up to {border.to}" if border.to is not None else f"{what} of {border.width}"


def _mark_words(mark: Mark) -> str:
    what = f"“{mark.text}”" if isinstance(mark, TextMark) else f"the mark {getattr(mark, 'picture', '')}"
    if mark.tiled:
        return f"{what} all over it"
    place = f"at the {mark.at.replace('-', ' ')}" if isinstance(mark.at, str) else "where it was put"
    place = "in the middle" if mark.at == "middle" else place
    return f"{what} {place}{', clear of faces and the main thing' if mark.clear else ''}"


def metadata_words(metadata: Metadata | None) -> str:
    """What goes out of a photo's words: "without metadata", "with rights and contact but without the place"."""
    if metadata is None or not metadata.writes:
        return "without metadata"
    said = {"none": "without metadata", "rights": "with rights and contact", "all": "with all metadata"}[metadata.keep]
    if metadata.keep != "none" and metadata.leave_out:
        said += f" but without the {_listed(metadata.leave_out, 'or')}"
    if given := metadata.set.given:
        said += f"{' but' if metadata.keep == 'none' else ' and'} with a {_listed(tuple(given), 'and')} of its own"
    return said


def _listed(names: tuple[str, ...], joint: str) -> str:
    return f" {joint} ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)
