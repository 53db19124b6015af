"""What is done with framings: a photo's list is kept as a whole, so that everything can be undone alike."""

from __future__ import annotations

import datetime as dt
import re
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from django.db import transaction
from django.dispatch import Signal
from django.utils import timezone

from server.framings.choices import Lists, lists_of
from server.framings.models import Framing
from server.http.problems import Problem
from server.live.hub import hint
from server.photos.models import Photo
from server.recipes.models import Recipe
from server.studios.models import Studio
from server.studios.names import unused
from server.trays.models import Tray
from tray_core.plan import Framing as CoreFraming
from tray_core.plan import carried_over, framing_of, plan_renditions
from tray_core.recipe import Recipe as CoreRecipe

MOST = 60
"""Framings of one photo."""

placed = Signal()
"""Sent with `photos` whose framings were kept, inside the transaction that keeps them: runs may wait for an answer."""

_FIELDS = ("name", "x", "y", "width", "height", "angle", "turn")


def checked(values: dict[str, Any]) -> CoreFraming:
    """The framing that plain values describe; Problem (422) says what is wrong with them."""
    try:
        return CoreFraming(**values)
    except (ValueError, TypeError) as error:
        raise Problem(422, "The framing is not right", f"{error}. Draw it anew.") from error


@transaction.atomic
def keep(studio: Studio, lists: Lists) -> None:
    """Give each photo exactly these framings; runs that waited for an answer take them in."""
    photos = list(studio.photos.select_for_update().filter(pk__in=list(lists)))
    recipes = set(studio.recipes.values_list("pk", flat=True))
    now = timezone.now()
    rows = []
    for photo in photos:
        framings = _named_apart(lists[photo.pk][:MOST])
        for place, framing in enumerate(framings):
            if framing.recipe is not None and framing.recipe not in recipes:
                raise Problem(422, "The framing is not right", f"{framing.name}: its recipe is not there any more.")
            # Chosen last first: the order of the list is that of the moments.
            chosen = now - dt.timedelta(microseconds=place)
            values = {name: getattr(framing, name) for name in _FIELDS}
            rows.append(Framing(photo=photo, recipe_id=framing.recipe, chosen=chosen, **values))
    Framing.objects.filter(photo__in=photos).delete()
    Framing.objects.bulk_create(rows, batch_size=1000)
    placed.send(Framing, photos=photos)
    for tray in Tray.objects.filter(places__photo__in=photos).distinct():
        hint(studio.pk, "tray", tray.pk)


def _named_apart(framings: Sequence[CoreFraming]) -> list[CoreFraming]:
    """The same with numbers behind names that others have: the first keeps its own."""
    found: list[CoreFraming] = []
    for framing in framings:
        found.append(replace(framing, name=unused(framing.name, {each.name for each in found}, 80)))
    return found


def _base(name: str) -> str:
    return re.sub(r" \d+$", "", name)


def added(lists: Lists, photo: int, framing: CoreFraming) -> None:
    """Put `framing` first in a photo's list, in place of one of the same name and shape."""
    same = (_base(framing.name), framing.recipe, framing.turn)
    rest = [
        each
        for each in lists[photo]
        if (_base(each.name), each.recipe, each.turn) != same
        or abs(each.width * framing.height - each.height * framing.width) > 0.01
    ]
    lists[photo] = [framing, *rest]


def by_anchor(cells: Sequence[tuple[Photo, Recipe, CoreRecipe]], anchor: str) -> tuple[Lists, int]:
    """The framings of these cells' photos with one more for every cell: what the recipe would show by `anchor`; and
    for how many cells there is one. The others show the whole photo.
    """
    framed = 0
    lists = lists_of({photo.pk: photo for photo, _, _ in cells}.values())
    for photo, recipe, core in cells:
        frame = core.frame
        if frame is None or not hasattr(frame, "anchor"):
            continue
        moved = core.model_copy(update={"frame": frame.model_copy(update={"anchor": anchor})})
        layout = plan_renditions(photo.facts(), moved, 1, None, number=recipe.pk)[0].layout
        if layout.cut or layout.padded:
            name = "interesting part" if anchor == "interest" else anchor.replace("-", " ")
            added(lists, photo.pk, framing_of(name, layout.rect, layout.source))
            framed += 1
    return lists, framed


def carried(framing: CoreFraming, source: Photo, targets: Sequence[Photo]) -> Lists:
    """The framings of `targets` with `framing`, which is one of `source`, put first in each."""
    lists = lists_of(targets)
    for photo in targets:
        other = carried_over(framing, (source.width, source.height), (photo.width, photo.height))
        added(lists, photo.pk, other)
    return lists
