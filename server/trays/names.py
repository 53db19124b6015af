"""The names of a whole tray's renditions, kept for as long as nothing changes that they depend on.

A name is unique over the whole tray, so that one cell's name needs all others' plans. Rows of a large board are
asked for a few at a time: they take their names from here, or go without where nobody planned the whole yet.
"""

from __future__ import annotations

from dataclasses import replace

from django.db.models import Count, Max, Sum

from server.trays.kept import Kept
from server.trays.models import Framing, Sharpness, Tray
from tray_core import Plan
from tray_core.plan.cautions import same_name

Given = dict[tuple[int, int, int], tuple[str, str, bool]]
"""(folder, name, whether it was numbered) by photo, recipe and part."""

kept_names: Kept[Given] = Kept()


def stamp(tray: Tray, versions: list[int | None]) -> object:
    """What changes whenever a name or a picture of the tray may change."""
    photos = tray.places.aggregate(Count("id"), Max("id"), Max("photo__read"))
    framings = Framing.objects.filter(photo__places__tray=tray).aggregate(Count("id"), Max("id"))
    strengths = Sharpness.objects.filter(photo__places__tray=tray).aggregate(Count("id"), Max("id"), Sum("strength"))
    return tray.name, versions, tuple(photos.values()), tuple(framings.values()), tuple(strengths.values())


def with_name(plan: Plan, given: tuple[str, str, bool] | None) -> Plan:
    """`plan` with the name that it got."""
    if given is None:
        return plan
    folder, name, numbered = given
    return replace(
        plan, folder=folder, name=name, warnings=(*plan.warnings, same_name()) if numbered else plan.warnings
    )
