"""The plan: what a rendition will be, in numbers and names, before a pixel is touched.

The forecast, the board, the line and the run all call this and compute none of it again.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

from tray_core.outline import Traced
from tray_core.photo.facts import PhotoFacts
from tray_core.photo.words import NAMES, NO_WORDS, RIGHTS, Words, typed_over, without_names
from tray_core.plan.cautions import (
    Caution,
    layout_cautions,
    mark_cautions,
    name_cautions,
    outlet_cautions,
    photo_cautions,
    same_name,
)
from tray_core.plan.counting import Number, Numbers
from tray_core.plan.framing import Framing
from tray_core.plan.laying import layouts
from tray_core.plan.layout import Layout
from tray_core.plan.naming import MAX_NAME, Field, Names, fields_of, file_stem, filled_text, safe_text, subfolder
from tray_core.recipe.file import EXTENSIONS
from tray_core.recipe.frame import shape_numbers
from tray_core.recipe.model import Recipe
from tray_core.tone import NEUTRAL, Tone
from tray_core.tone.looks import tone_for

_OF_KIND = {"JPEG": "jpg", "PNG": "png", "TIFF": "tif", "WebP": "webp", "AVIF": "avif", "GIF": "gif", "HEIC": "heic"}
"""What names of files end in that have no ending."""


@dataclass(frozen=True, kw_only=True, slots=True)
class Plan:
    """One rendition to be. width, height in pixels; `folder` below the output root, "" for itself, or, of a recipe that
    puts its files beside the originals, below the photo's own folder.

    number: the photo's, in its run. layout: its geometry. part, parts: its number, from 1, among those that the recipe
    makes of the photo. panel: its number in the layout, from 1, where the picture is cut into panels. strength: of the
    sharpening, where the photo has one of its own. tone: the photo's light and color. outline: its object's edge, where
    the recipe cuts it out. words: what the file will say, where its recipe writes any of it. photo_words: all that the
    photo says. own_bytes: of the photo, where its file stays as it is. A plan that was made for a look has no name.
    """

    photo: str
    recipe: Recipe
    number: Number
    width: int
    height: int
    layout: Layout
    name: str = ""
    folder: str = ""
    part: int = 1
    parts: int = 1
    panel: int | None = None
    strength: int | None = None
    tone: Tone = NEUTRAL
    outline: Traced | None = None
    words: Words | None = None
    own_bytes: int = 0
    photo_words: Words = NO_WORDS
    warnings: tuple[Caution, ...] = ()

    @property
    def needs_outline(self) -> bool:
        """Whether it cuts out an object whose outline is missing, or nobody is sure of."""
        return self.recipe.cutout is not None and (self.outline is None or not self.outline.sure)

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
    n: int | Number,
    names: Names | None,
    tray: str = "",
    framings: Sequence[Framing] = (),
    number: int | None = None,
    strength: int | None = None,
) -> list[Plan]:
    """Plan all renditions of one photo by one recipe: one, or several for panels and lists of widths.

    n: the photo's number in the run, from 1, or all its numbers. names: those given so far in the same run, which
    takes these in; None leaves the plans without names. framings: of the photo, those chosen last first. number: of the
    recipe, as framings that are tied to it say it. strength: of the sharpening, where the photo has one of its own.
    """
    found = layouts(
        (facts.width, facts.height),
        recipe.frame,
        recipe.size,
        framings,
        facts.interest,
        number,
        recipe.finish,
        recipe.cutout,
        facts.outline,
    )
    about_photo = tuple(photo_cautions(facts, recipe))
    tone = tone_for(facts.tone, facts.looks, number, recipe.title)
    if tone.mirror:
        found = tuple(replace(layout, mirror=True) for layout in found)
    panels = found[0].columns * found[0].rows
    parts = len(found) * panels
    number_of = n if isinstance(n, Number) else Number.alone(n)
    plans: list[Plan] = []
    for layout in found:
        for panel in range(1, panels + 1):
            _, _, width, height = layout.panel(panel)
            part = len(plans) + 1
            about_outlet = outlet_cautions(facts, recipe, width, height)
            warnings = (*layout_cautions(layout, recipe, width, height, facts.outline), *about_outlet, *about_photo)
            name = folder = ""
            fields = _fields(facts, recipe, number_of, tray, (width, height), part)
            if recipe.finish is not None and facts.interest and any(mark.clear for mark in recipe.finish.marks):
                layout = replace(layout, subjects=layout.shares(each.box for each in facts.interest.subjects))
            if recipe.finish is not None and recipe.finish.texts:
                layout = replace(layout, texts=tuple(filled_text(each, fields) for each in recipe.finish.texts))
                warnings += tuple(mark_cautions(layout, recipe.finish, fields))
            if names is not None:
                folder, name, about_name = _named(facts, recipe, names, fields, (width, height), part, parts)
                warnings += about_name
            plans.append(
                Plan(
                    photo=facts.path,
                    recipe=recipe,
                    number=number_of,
                    width=width,
                    height=height,
                    layout=layout,
                    name=name,
                    folder=folder,
                    part=part,
                    parts=parts,
                    panel=panel if panels > 1 else None,
                    strength=strength,
                    tone=tone,
                    outline=facts.outline if recipe.cutout is not None else None,
                    words=_words(facts, recipe, fields),
                    photo_words=facts.words,
                    own_bytes=facts.bytes if recipe.file.format == "same" else 0,
                    warnings=warnings,
                )
            )
    return plans


def _fields(
    facts: PhotoFacts, recipe: Recipe, number: Number, tray: str, size: tuple[int, int], part: int
) -> dict[str, Field]:
    """What the patterns of one rendition can tell."""
    return fields_of(
        facts.path,
        recipe=recipe.title,
        n=number.told(recipe.name),
        width=size[0],
        height=size[1],
        date=facts.taken or facts.modified,
        tray=tray,
        shelf=recipe.shelf,
        panel=part,
        shape=shape_numbers(shape) if (shape := getattr(recipe.frame, "shape", None)) else None,
        words=facts.words,
    )


def _named(
    facts: PhotoFacts,
    recipe: Recipe,
    names: Names,
    fields: dict[str, Field],
    size: tuple[int, int],
    part: int,
    parts: int,
) -> tuple[str, str, tuple[Caution, ...]]:
    """(folder, file name, what to be careful about) of one rendition."""
    place, name = recipe.place, recipe.name
    folder = subfolder(place.subfolder, fields) if place.to != "download" else ""
    extension = _extension(facts, recipe)
    behind = ""
    if parts > 1 and recipe.frame is not None and recipe.frame.split != (1, 1):
        behind = "" if "{panel" in name.pattern else f"-{part}"
    elif parts > 1:
        behind = "" if "{width" in name.pattern else f"-{size[0]}w"
    longest = MAX_NAME if name.longest is None else name.longest - len(extension) - 1
    stem = file_stem(name, fields, longest - len(behind))
    given, renamed = names.give(name_scope(recipe, folder, facts.path), f"{stem.text}{behind}", extension, longest)
    return folder, given, (*name_cautions(stem), *((same_name(),) if renamed else ()))


def _extension(facts: PhotoFacts, recipe: Recipe) -> str:
    """What a rendition's name ends in; as it is, in what the photo's own name does."""
    if recipe.file.format != "same":
        return EXTENSIONS[recipe.file.format]
    own = facts.path.rpartition("/")[2].rpartition(".")
    return safe_text(own[2])[:20] if own[0] and own[2] else _OF_KIND.get(facts.format, "bin")


def _words(facts: PhotoFacts, recipe: Recipe, fields: dict[str, Field]) -> Words | None:
    """What the file of a rendition says, with what its recipe sets; None where nothing is written."""
    metadata = recipe.metadata
    if metadata is None or not metadata.writes:
        return None
    texts = {name: filled_text(pattern, fields) for name, pattern in metadata.set.given.items()}
    kept = {"none": (), "rights": RIGHTS, "all": NAMES}[metadata.keep]
    words = {name: getattr(facts.words, name) for name in kept if name not in metadata.leave_out}
    return typed_over(Words(**without_names(words, facts.words, metadata.leave_out)), texts)


def name_scope(recipe: Recipe, folder: str, photo: str) -> str:
    """Where names need to differ, as `Names` takes it. folder: the rendition's own. photo: the original's path.

    Downloads of different recipes go into one zip, a folder each.
    """
    if recipe.place.to == "beside":
        return f"\1{photo.rpartition('/')[0]}\0{folder}"
    return folder if recipe.place.to == "output" else f"\0{recipe.title}"


def name_key(plan: Plan) -> str:
    """What differs between any two renditions of a run: names that differ in letter case only count as the same."""
    return f"{name_scope(plan.recipe, plan.folder, plan.photo)}/{plan.name}".casefold()


def plan_all(photos: Iterable[PhotoFacts | None], recipes: Sequence[Recipe], tray: str = "") -> Iterator[list[Plan]]:
    """Plan every photo by every recipe, photo by photo; names are unique over the whole.

    None stands for a photo that cannot be read: it keeps its number, so that mending it later
    renames nothing, and yields an empty list.
    """
    names, numbers = Names(), Numbers()
    for facts in photos:
        n = numbers.next(facts)
        if facts is None:
            yield []
        else:
            yield [plan for recipe in recipes for plan in plan_renditions(facts, recipe, n, names, tray)]
