"""The names of a whole tray's renditions, kept for as long as nothing changes that they depend on.

A name is unique over the whole tray, so that one cell's name needs all others' plans. Rows of a large board are
asked for a few at a time: they take their names from here, or go without where nobody planned the whole yet.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from dataclasses import replace

from django.db.models import Count, Max

from server.trays.models import Framing, Tray
from tray_core import Plan
from tray_core.plan.cautions import same_name

Given = dict[tuple[int, int, int], tuple[str, str, bool]]
"""(folder, name, whether it was numbered) by photo, recipe and part."""

_KEPT = 8
_lock = threading.Lock()
_cache: OrderedDict[int, tuple[object, Given]] = OrderedDict()


def stamp(tray: Tray, versions: list[int | None]) -> object:
    """What changes whenever a name of the tray may change."""
    photos = tray.places.aggregate(Count("id"), Max("id"), Max("photo__read"))
    framings = Framing.objects.filter(photo__places__tray=tray).aggregate(Count("id"), Max("id"))
    return tray.name, versions, tuple(photos.values()), tuple(framings.values())


def kept_names(tray: Tray, mark: object) -> Given | None:
    """The names given under the same stamp, if the whole was planned since."""
    with _lock:
        found = _cache.get(tray.pk)
    return found[1] if found is not None and found[0] == mark else None


def names_kept(tray: Tray) -> bool:
    """Whether anybody planned the whole tray before."""
    with _lock:
        return tray.pk in _cache


def keep_names(tray: Tray, mark: object, given: Given) -> None:
    """Keep the names of a whole tray."""
    with _lock:
        _cache[tray.pk] = (mark, given)
        _cache.move_to_end(tray.pk)
        while len(_cache) > _KEPT:
            _cache.popitem(last=False)


def with_name(plan: Plan, given: tuple[str, str, bool] | None) -> Plan:
    """`plan` with the name that it got."""
    if given is None:
        return plan
    folder, name, numbered = given
    return replace(
        plan, folder=folder, name=name, warnings=(*plan.warnings, same_name()) if numbered else plan.warnings
    )
