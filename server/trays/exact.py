"""One cell at its own pixels, for the bench: what is costly is kept in memory, and done by one thread at a time.

The resized picture is kept before sharpening, so that a change of strength, color, format or quality costs only what
comes after it. Newer requests of a page cancel its older ones before each costly step.
"""

from __future__ import annotations

import hashlib
import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from server.connections import let_go
from server.problems import Problem
from server.trays.models import Photo
from server.trays.reading import LIMITS
from tray_core import Plan, Recipe, TrayError, plan_renditions, read_facts
from tray_core.coders import encode
from tray_core.fingerprint import ENGINE
from tray_core.line.line import decoded_for, finished, part_of, resized
from tray_core.photo import read_bytes
from tray_core.pixels.picture import Picture, Pixels8
from tray_core.recipe.file import KEEPS_ALPHA
from tray_core.weight.score import Scorer

MOST_BYTES = 400_000_000
"""Of pictures and files kept; those used longest ago are forgotten first."""


class Overtaken(Problem):
    """The page asked for something newer meanwhile."""

    def __init__(self) -> None:
        super().__init__(409, "Overtaken", "overtaken")


class Memory:
    """Values by key, up to so many bytes; each is made once, however many ask for it."""

    def __init__(self, most: int) -> None:
        self._most, self._held = most, 0
        self._values: OrderedDict[str, tuple[Any, int]] = OrderedDict()
        self._lock = threading.Lock()
        self._making: dict[str, threading.Lock] = {}

    def get(self, key: str, make: Callable[[], Any], size: Callable[[Any], int]) -> Any:
        """The value of `key`, made now where it is not kept."""
        with self._lock:
            if key in self._values:
                self._values.move_to_end(key)
                return self._values[key][0]
            making = self._making.setdefault(key, threading.Lock())
        with making:
            with self._lock:
                if key in self._values:
                    return self._values[key][0]
            try:
                value = make()
                with self._lock:
                    self._values[key] = value, size(value)
                    self._held += size(value)
                    while self._held > self._most and len(self._values) > 1:
                        self._held -= self._values.popitem(last=False)[1][1]
            finally:
                # Only now: whoever comes between the making and the keeping would make it once more.
                with self._lock:
                    self._making.pop(key, None)
            return value


_memory = Memory(MOST_BYTES)
_turns: dict[str, int] = {}
_working = threading.BoundedSemaphore(2)


def check_turn(page: str, turn: int) -> None:
    """Note that a page asked for its `turn`; Overtaken where it asked for a later one already."""
    if not page:
        return
    if len(_turns) > 10_000:
        _turns.clear()
    if _turns.get(page, 0) > turn:
        raise Overtaken
    _turns[page] = turn


@dataclass(frozen=True, slots=True)
class Resized:
    """A rendition's picture before sharpening, with its plan. deep: the photo has more than 8 bits."""

    plan: Plan
    picture: Picture
    mask: Pixels8 | None
    deep: bool
    key: str


def resized_cell(photo: Photo, recipe: Recipe, chosen: dict[str, Any], alive: Callable[[], None]) -> Resized:
    """The photo decoded and resized as the recipe says; of several renditions the largest.

    alive: raises when nobody waits for the answer any more. Problem where the photo cannot be read.
    """
    plan = plan_renditions(photo.facts(), recipe, 1, None, **chosen)[-1]
    light = recipe.size.light if recipe.size else "gamma"
    what = f"{ENGINE} {photo.digest} {plan.layout.pixels_key()} {light} {recipe.prep}"
    key = hashlib.blake2b(what.encode(), digest_size=12).hexdigest()

    file = photo.file
    let_go()

    def make() -> tuple[Picture, Pixels8 | None, bool]:
        with _working:
            alive()
            data = read_bytes(file, LIMITS)
            facts = read_facts(file, LIMITS, data)
            alive()
            source = decoded_for(facts, data, recipe, plan.layout)
            picture, mask = resized(source, recipe, plan.layout)
            return picture, mask, source.picture.pixels.dtype.itemsize > 1

    try:
        picture, mask, deep = _memory.get(f"resized {key}", make, lambda made: int(made[0].pixels.nbytes))
    except TrayError as error:
        raise Problem(409, "The photo cannot be read", f"{photo.name}: found {error.found}. {error.remedy}") from error
    return Resized(plan, picture, mask, deep, key)


def finished_cell(cell: Resized, recipe: Recipe, strength: int | None = None) -> Picture:
    """The picture as it goes to the coder; a panel is the first of its layout."""
    made = finished(cell.picture, cell.mask, recipe, cell.plan.layout, strength, cell.deep)
    part = part_of(made, replace(cell.plan, panel=1) if cell.plan.panel else cell.plan)
    return replace(part, icc=None) if recipe.color is not None and not recipe.color.embed else part


def _finished_key(cell: Resized, recipe: Recipe, strength: int | None) -> str:
    clear = recipe.file.format in KEEPS_ALPHA
    return f"{cell.key} {recipe.sharpen} {recipe.color} {strength} {clear}"


def for_coder(cell: Resized, recipe: Recipe, strength: int | None) -> Picture:
    """`finished_cell`, kept."""
    key = f"finished {_finished_key(cell, recipe, strength)}"
    made: Picture = _memory.get(key, lambda: finished_cell(cell, recipe, strength), lambda p: int(p.pixels.nbytes))
    return made


def file_of(cell: Resized, recipe: Recipe, strength: int | None, quality: int) -> bytes:
    """The bytes of the rendition at some quality, kept."""
    file = recipe.file
    key = f"file {_finished_key(cell, recipe, strength)} {file.model_dump_json(exclude={'quality'})} {quality}"
    ppi = recipe.size.ppi if recipe.size else None
    made: bytes = _memory.get(
        key, lambda: encode(for_coder(cell, recipe, strength), file, ppi, quality), lambda data: len(data)
    )
    return made


def score_of(cell: Resized, recipe: Recipe, strength: int | None, quality: int) -> float:
    """The perceptual score of that file, kept."""
    what = f"{_finished_key(cell, recipe, strength)} {recipe.file.model_dump_json(exclude={'quality'})} {quality}"

    def make() -> float:
        with _working:
            data = file_of(cell, recipe, strength, quality)
            return scorer_of(cell, recipe, strength).score_of_file(data)

    found: float = _memory.get(f"score {what}", make, lambda _: 64)
    return found


def scorer_of(cell: Resized, recipe: Recipe, strength: int | None) -> Scorer:
    """The scorer of the picture that goes to the coder, kept. By parts: a curve is wanted soon."""
    key = f"scorer {_finished_key(cell, recipe, strength)}"
    picture = for_coder(cell, recipe, strength)
    made: Scorer = _memory.get(key, lambda: Scorer(picture, sampled=True), lambda _: 40_000_000)
    return made
