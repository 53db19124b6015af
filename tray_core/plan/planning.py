"""The plan: what a rendition will be, in numbers and names, before a pixel is touched.

The forecast, the board, the line and the run all call this and compute none of it again.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from tray_core.photo.facts import PhotoFacts
from tray_core.plan.geometry import target_size, would_enlarge
from tray_core.plan.naming import Names, fields_of, file_stem, subfolder
from tray_core.recipe.model import Recipe

_LABELS = {
    "smaller": "own size",
    "no-profile": "no profile",
    "no-date": "no date",
    "same-name": "same name",
    "ends-early": "ends early",
    "own-color": "CMYK",
}

EXTENSIONS = {"jpeg": "jpg", "png": "png"}


@dataclass(frozen=True, slots=True)
class Caution:
    """code: a stable word for programs. text: a sentence that says what to do about it."""

    code: Literal["smaller", "no-profile", "no-date", "same-name", "ends-early", "own-color"]
    text: str

    @property
    def label(self) -> str:
        """Two words for where there is room for no more."""
        return _LABELS[self.code]


@dataclass(frozen=True, kw_only=True, slots=True)
class Plan:
    """One rendition to be. width, height in pixels; `folder` below the output root, "" for itself.

    source: (width, height) of the upright photo that this was planned for, where that is known.
    """

    photo: str
    recipe: Recipe
    n: int
    width: int
    height: int
    name: str
    folder: str
    warnings: tuple[Caution, ...] = ()
    source: tuple[int, int] | None = None

    @property
    def format(self) -> str:
        """jpeg or png."""
        return self.recipe.file.format

    @property
    def path(self) -> str:
        """Folder and name, with slashes."""
        return f"{self.folder}/{self.name}" if self.folder else self.name


def _warnings(facts: PhotoFacts, recipe: Recipe, renamed: bool) -> Iterator[Caution]:
    if would_enlarge(facts.width, facts.height, recipe.size):
        yield Caution(
            "smaller",
            f"The photo is only {facts.width} × {facts.height}; it is not enlarged. Use a larger original if you can.",
        )
    if facts.profile is None and recipe.color is not None:
        taken = "for a common offset print" if facts.mode == "CMYK" else "as sRGB"
        yield Caution("no-profile", f"The photo has no color profile and is taken {taken}; check its colors.")
    if facts.mode == "CMYK" and recipe.color is None:
        yield Caution("own-color", "A CMYK photo is turned into sRGB all the same; browsers show nothing else rightly.")
    if "{date" in recipe.name.pattern + recipe.place.subfolder and facts.taken is None:
        yield Caution("no-date", "The photo does not say when it was taken; the file's own date is used.")
    if renamed:
        yield Caution("same-name", "Another rendition has this name already; add {n:03} or {stem} to the pattern.")
    if facts.ends_early:
        yield Caution("ends-early", "The file ends early and may be damaged; copy it again from the camera.")


def plan_rendition(facts: PhotoFacts, recipe: Recipe, n: int, names: Names, tray: str = "") -> Plan:
    """Plan the rendition of one photo by one recipe. n: the photo's number in the run, from 1.

    `names` holds the names given so far in the same run and takes this one in.
    """
    width, height = target_size(facts.width, facts.height, recipe.size)
    fields = fields_of(
        facts.path,
        recipe=recipe.title,
        n=n,
        width=width,
        height=height,
        date=facts.taken or facts.modified,
        tray=tray,
    )
    place = recipe.place
    folder = subfolder(place.subfolder, fields) if place.to == "output" else ""
    # Downloads of different recipes go into one zip, a folder each; names need to differ within it only.
    scope = folder if place.to == "output" else f"\0{recipe.title}"
    name, renamed = names.give(scope, file_stem(recipe.name.pattern, fields), EXTENSIONS[recipe.file.format])
    return Plan(
        photo=facts.path,
        recipe=recipe,
        n=n,
        width=width,
        height=height,
        name=name,
        folder=folder,
        warnings=tuple(_warnings(facts, recipe, renamed)),
        source=(facts.width, facts.height),
    )


def plan_all(photos: Iterable[PhotoFacts | None], recipes: Sequence[Recipe], tray: str = "") -> Iterator[list[Plan]]:
    """Plan every photo by every recipe, photo by photo; names are unique over the whole.

    None stands for a photo that cannot be read: it keeps its number, so that mending it later
    renames nothing, and yields an empty list.
    """
    names = Names()
    for n, facts in enumerate(photos, 1):
        yield [] if facts is None else [plan_rendition(facts, recipe, n, names, tray) for recipe in recipes]
