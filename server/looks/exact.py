"""One cell at its own pixels, for the bench: what is costly is kept in memory, and done by one thread at a time.

The resized picture is kept before sharpening, so that a change of strength, color, format or quality costs only what
comes after it. Newer requests of a page cancel its older ones before each costly step.
"""

from __future__ import annotations

import hashlib
import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeVar

from server.http.connections import let_go
from server.http.problems import Problem
from server.looks.memory import Memory
from server.photos.hands import hands
from server.photos.models import Photo
from server.photos.outlines import with_curves
from server.photos.reading import limits_of
from tray_core import Plan, Recipe, TrayError, plan_renditions
from tray_core.coders import encode
from tray_core.fingerprint import ENGINE
from tray_core.looks import Resized, finished_cell, resize_cell
from tray_core.pixels.picture import Picture
from tray_core.recipe.file import KEEPS_ALPHA
from tray_core.weight.score import Scorer

T = TypeVar("T")

MOST_BYTES = 400_000_000
"""Of pictures and files kept; those used longest ago are forgotten first."""


class Overtaken(Problem):
    """The page asked for something newer meanwhile."""

    def __init__(self) -> None:
        super().__init__(409, "Overtaken", "overtaken")


_memory = Memory(MOST_BYTES)
_turns: dict[tuple[int, str], int] = {}
working = threading.BoundedSemaphore(2)


def check_turn(studio: int, name: str, turn: int) -> None:
    """Note that a page of a studio asked for its `turn`; Overtaken where it asked for a later one already."""
    if not name:
        return
    page = studio, name
    if len(_turns) > 10_000:
        _turns.clear()
    if _turns.get(page, 0) > turn:
        raise Overtaken
    _turns[page] = turn


def kept(key: str, make: Callable[[], T], size: Callable[[T], int]) -> T:
    """The value of `key`, made now where it is not kept. size: of a value, in bytes."""
    found: T = _memory.get(key, make, size)
    return found


@dataclass(frozen=True, slots=True)
class Cell:
    """A rendition's picture before sharpening, with its plan. key: of all that it depends on."""

    plan: Plan
    made: Resized
    key: str
    part: int
    parts: list[tuple[int, int]]


def resized_cell(
    photo: Photo, recipe: Recipe, chosen: dict[str, Any], alive: Callable[[], None], part: int | None = None
) -> Cell:
    """The photo decoded and resized as the recipe says. part: of several renditions, from 1; None for the first panel,
    or the largest of a responsive set.

    alive: raises when nobody waits for the answer any more. Problem where the photo cannot be read.
    """
    plans = plan_renditions(photo.facts(), recipe, 1, None, **chosen)
    part = min(part or (1 if plans[0].panel else len(plans)), len(plans))
    plan = with_curves(photo, plans[part - 1])
    light = recipe.size.light if recipe.size else "gamma"
    what = f"{ENGINE} {photo.digest} {plan.layout.pixels_key()} {light} {recipe.prep} {plan.tone.to_json()}"
    if plan.outline is not None:
        what += f" {recipe.cutout} {plan.outline.digest}"
    key = hashlib.blake2b(what.encode(), digest_size=12).hexdigest()
    file, limits = photo.file, limits_of(photo)
    let_go()

    def make() -> Resized:
        with working:
            alive()
            return hands.do(photo.name, resize_cell, file, plan, limits)

    try:
        made = _memory.get(f"resized {key}", make, lambda made: int(made.picture.pixels.nbytes))
    except TrayError as error:
        raise Problem(409, "The photo cannot be read", f"{photo.name}: found {error.found}. {error.remedy}") from error
    return Cell(plan, made, key, part, [(each.width, each.height) for each in plans])


def finished_key(cell: Cell, recipe: Recipe, strength: int | None) -> str:
    """Of all that the picture depends on that goes to the coder."""
    clear = recipe.file.format in KEEPS_ALPHA
    stations = f"{recipe.cutout} {recipe.sharpen} {recipe.finish} {recipe.color}"
    return f"{cell.key} {cell.plan.panel} {stations} {strength} {clear}"


def for_coder(cell: Cell, recipe: Recipe, strength: int | None) -> Picture:
    """The picture as it goes to the coder, kept."""
    key = f"finished {finished_key(cell, recipe, strength)}"
    made: Picture = _memory.get(
        key, lambda: finished_cell(cell.made, cell.plan, recipe, strength), lambda p: int(p.pixels.nbytes)
    )
    return made


def file_of(cell: Cell, recipe: Recipe, strength: int | None, quality: int) -> bytes:
    """The bytes of the rendition at some quality, kept."""
    file = recipe.coded
    key = f"file {finished_key(cell, recipe, strength)} {file.model_dump_json(exclude={'quality'})} {quality}"
    ppi = recipe.size.ppi if recipe.size else None
    made: bytes = _memory.get(
        key, lambda: encode(for_coder(cell, recipe, strength), file, ppi, quality), lambda data: len(data)
    )
    return made


def score_of(cell: Cell, recipe: Recipe, strength: int | None, quality: int) -> float:
    """The perceptual score of that file, kept."""
    what = f"{finished_key(cell, recipe, strength)} {recipe.coded.model_dump_json(exclude={'quality'})} {quality}"

    def make() -> float:
        with working:
            data = file_of(cell, recipe, strength, quality)
            return scorer_of(cell, recipe, strength).score_of_file(data)

    found: float = _memory.get(f"score {what}", make, lambda _: 64)
    return found


def scorer_of(cell: Cell, recipe: Recipe, strength: int | None) -> Scorer:
    """The scorer of the picture that goes to the coder, kept. By parts: a curve is wanted soon."""
    key = f"scorer {finished_key(cell, recipe, strength)}"
    picture = for_coder(cell, recipe, strength)
    made: Scorer = _memory.get(key, lambda: Scorer(picture, sampled=True), lambda _: 40_000_000)
    return made
