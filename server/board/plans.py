"""What the renditions of a photo by a recipe are to be: their plans, and all that follows from these alone."""

from __future__ import annotations

import threading
from functools import cached_property
from typing import Any, NamedTuple

from cachetools import LRUCache
from django.db.models.expressions import RawSQL

from server.photos.models import Photo
from server.recipes.models import Recipe
from tray_core import Plan, plan_renditions
from tray_core import Recipe as CoreRecipe
from tray_core.fingerprint import fingerprint
from tray_core.photo import PhotoFacts
from tray_core.plan import Framing, Names, Number
from tray_core.plan.weight import Detail, Forecast, forecast

ROW = RawSQL("photos_photo.xmin::text || photos_photo.ctid::text", ())
"""Who wrote a photo's row, and where it lies: another one whenever anything in it changed."""

_MOST = 8000
"""Cells that are remembered: those of some dozens of open pages."""

_remembered: LRUCache[Any, Planned] = LRUCache(_MOST)
_guard = threading.Lock()


class Known:
    """A photo, and of its row what is not always asked for. row: as `ROW` has it."""

    def __init__(self, photo: Photo, row: str) -> None:
        self.photo, self.row = photo, row

    @cached_property
    def facts(self) -> PhotoFacts:
        """As plans take them."""
        return self.photo.facts()

    @cached_property
    def detail(self) -> Detail | None:
        """What it weighed when it was read."""
        return self.photo.weighed()


class Asked(NamedTuple):
    """What the renditions of a photo by a recipe hang on, but for the photo itself."""

    recipe: Recipe
    core: CoreRecipe
    number: Number
    tray: str
    framings: tuple[Framing, ...]
    strength: int | None


class Planned(NamedTuple):
    """plans, their fingerprints, and what they will weigh, in step."""

    plans: list[Plan]
    prints: list[str]
    forecasts: list[Forecast]


def plan(known: Known, asked: Asked, names: Names) -> Planned:
    """Plan a cell. names: those of the tray that were given so far."""
    recipe, core, number, tray, framings, strength = asked
    plans = plan_renditions(known.facts, core, number, names, tray, framings, recipe.pk, strength)
    prints = [fingerprint(known.photo.digest, each) for each in plans]
    return Planned(plans, prints, [forecast(each, known.detail) for each in plans])


def plan_alone(known: Known, asked: Asked) -> Planned:
    """Plan a cell as if nothing else were in the tray. Remembered: open pages ask for their rows again whenever a
    rendition is finished.
    """
    photo, core = known.photo, asked.core
    marked = core.finish is not None and (core.finish.pictures or core.finish.fonts)
    if marked or (core.color is not None and core.color.icc):
        return plan(known, asked, Names())  # hangs on files, too
    writable = photo.root is not None and photo.root.writable
    key = (photo.pk, known.row, writable, asked.recipe.current_id, *asked[2:])
    with _guard:
        found = _remembered.get(key)
    if found is None:
        found = plan(known, asked, Names())
        with _guard:
            _remembered[key] = found
    return found
