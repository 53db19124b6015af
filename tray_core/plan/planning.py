"""The plan: what a rendition will be, in numbers and names, before a pixel is touched.

The forecast, the board, the line and the run all call this and compute none of it again.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from tray_core.photo.facts import PhotoFacts
from tray_core.plan.cautions import Caution, layout_cautions, photo_cautions, same_name
from tray_core.plan.framing import Framing
from tray_core.plan.layout import Layout, layouts
from tray_core.plan.naming import Names, fields_of, file_stem, subfolder
from tray_core.recipe.file import EXTENSIONS
from tray_core.recipe.frame import shape_numbers
from tray_core.recipe.model import Recipe


@dataclass(frozen=True, kw_only=True, slots=True)
class Plan:
    """One rendition to be. width, height in pixels; `folder` below the output root, "" for itself.

    layout: its geometry. part, parts: its number, from 1, among those that the recipe makes of the photo.
    panel: its number in the layout, from 1, where the picture is cut into panels. strength: of the sharpening, where
    the photo has one of its own. A plan that was made for a look only has no name.
    """

    photo: str
    recipe: Recipe
    n: int
    width: int
    height: int
    layout: Layout
    name: str = ""
    folder: str = ""
    part: int = 1
    parts: int = 1
    panel: int | None = None
    strength: int | None = None
    warnings: tuple[Caution, ...] = ()

    @property
    def format(self) -> str:
        """As in `tray_core.recipe.file`: jpeg, png, ..."""
        return self.recipe.file.format

    @property
    def path(self) -> str:
        """Folder and name, with slashes."""
        return f"{self.folder}/{self.name}" if self.folder else self.name


def plan_renditions(
    facts: PhotoFacts,
    recipe: Recipe,
    n: int,
    names: Names | None,
    tray: str = "",
    framings: Sequence[Framing] = (),
    number: int | None = None,
    strength: int | None = None,
) -> list[Plan]:
    """Plan all renditions of one photo by one recipe: one, or several for panels and lists of widths.

    n: the photo's number in the run, from 1. names: those given so far in the same run, which takes these in;
    None leaves the plans without names. framings: of the photo, those chosen last first. number: of the
    recipe, as framings that are tied to it say it. strength: of the sharpening, where the photo has one of its own.
    """
    found = layouts((facts.width, facts.height), recipe.frame, recipe.size, framings, facts.interest, number)
    about_photo = tuple(photo_cautions(facts, recipe))
    panels = found[0].columns * found[0].rows
    parts = len(found) * panels
    plans: list[Plan] = []
    for layout in found:
        for panel in range(1, panels + 1):
            _, _, width, height = layout.panel(panel)
            part = len(plans) + 1
            warnings = (*layout_cautions(layout, recipe, width, height), *about_photo)
            name = folder = ""
            if names is not None:
                folder, name, renamed = _named(facts, recipe, names, n, tray, (width, height), part, parts)
                warnings += (same_name(),) if renamed else ()
            plans.append(
                Plan(
                    photo=facts.path,
                    recipe=recipe,
                    n=n,
                    width=width,
                    height=height,
                    layout=layout,
                    name=name,
                    folder=folder,
                    part=part,
                    parts=parts,
                    panel=panel if panels > 1 else None,
                    strength=strength,
                    warnings=warnings,
                )
            )
    return plans


def _named(
    facts: PhotoFacts,
    recipe: Recipe,
    names: Names,
    n: int,
    tray: str,
    size: tuple[int, int],
    part: int,
    parts: int,
) -> tuple[str, str, bool]:
    """(folder, file name, whether it had to be numbered) of one rendition."""
    fields = fields_of(
        facts.path,
        recipe=recipe.title,
        n=n,
        width=size[0],
        height=size[1],
        date=facts.taken or facts.modified,
        tray=tray,
        shelf=recipe.shelf,
        panel=part,
        shape=shape_numbers(shape) if (shape := getattr(recipe.frame, "shape", None)) else None,
    )
    place, pattern = recipe.place, recipe.name.pattern
    folder = subfolder(place.subfolder, fields) if place.to == "output" else ""
    stem = file_stem(pattern, fields)
    if parts > 1 and recipe.frame is not None and recipe.frame.split != (1, 1):
        stem = stem if "{panel" in pattern else f"{stem}-{part}"
    elif parts > 1:
        stem = stem if "{width" in pattern else f"{stem}-{size[0]}w"
    return folder, *names.give(name_scope(recipe, folder), stem, EXTENSIONS[recipe.file.format])


def name_scope(recipe: Recipe, folder: str) -> str:
    """Where names need to differ, as `Names` takes it. folder: the rendition's own.

    Downloads of different recipes go into one zip, a folder each.
    """
    return folder if recipe.place.to == "output" else f"\0{recipe.title}"


def name_key(plan: Plan) -> str:
    """What differs between any two renditions of a run: names that differ in letter case only count as the same."""
    return f"{name_scope(plan.recipe, plan.folder)}/{plan.name}".casefold()


def plan_all(photos: Iterable[PhotoFacts | None], recipes: Sequence[Recipe], tray: str = "") -> Iterator[list[Plan]]:
    """Plan every photo by every recipe, photo by photo; names are unique over the whole.

    None stands for a photo that cannot be read: it keeps its number, so that mending it later
    renames nothing, and yields an empty list.
    """
    names = Names()
    for n, facts in enumerate(photos, 1):
        if facts is None:
            yield []
        else:
            yield [plan for recipe in recipes for plan in plan_renditions(facts, recipe, n, names, tray)]
