"""Keeping what people decided of single photos, by version: all of what they changed, or nothing."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any, NamedTuple

from django.db import transaction

from server.http.problems import Problem
from server.live.hub import hint
from server.photos.models import Photo
from server.trays.models import Tray


class Edit(NamedTuple):
    """values: plain ones; none take it away. version: the one that was edited; None takes whatever is there."""

    photo: int
    values: dict[str, Any]
    version: int | None


class Kind(NamedTuple):
    """What is kept. name: as people call it. version: the photo's field. fields: others that change with it.

    there: the photo's own, as plain values. put: sets it, and says whether it is another one; Problem (422) where the
    values are wrong. after: what is to be done with the photos that were changed.
    """

    name: str
    version: str
    fields: tuple[str, ...]
    there: Callable[[Photo], dict[str, Any]]
    put: Callable[[Photo, dict[str, Any]], bool]
    after: Callable[[list[Photo]], object] = lambda photos: None


@transaction.atomic
def keep(kind: Kind, tray: Tray, edits: Iterable[Edit]) -> list[Edit]:
    """Change photos of a tray: all, or where one was changed meanwhile, none. Gives what they had."""
    wanted = {edit.photo: edit for edit in edits}
    found = list(
        Photo.objects.select_for_update(of=("self",)).filter(places__tray=tray, pk__in=list(wanted)).order_by("pk")
    )
    if len(found) < len(wanted):
        raise Problem(409, "A photo is gone", "A photo was taken out of the tray meanwhile. Look at the board again.")
    before: list[Edit] = []
    changed: list[Photo] = []
    for photo in found:
        edit, version = wanted[photo.pk], getattr(photo, kind.version)
        if edit.version not in (None, version):
            detail = f"Expected the {kind.name} of {photo.name} as you saw it, found a newer one."
            raise Problem(409, "Somebody else changed it", f"{detail} Look at it, then try again.")
        there = kind.there(photo)
        if kind.put(photo, edit.values):
            before.append(Edit(photo.pk, there, version + 1))
            setattr(photo, kind.version, version + 1)
            changed.append(photo)
    Photo.objects.bulk_update(changed, [*kind.fields, kind.version], batch_size=500)
    kind.after(changed)
    for number in Tray.objects.filter(places__photo__in=changed).distinct().values_list("pk", flat=True):
        hint(tray.studio_id, "tray", number)
    return before


def wrong(kind: str, error: Any) -> Problem:
    """The Problem (422) of a RecipeError about plain values."""
    field = {"field": error.subject, "expected": error.expected, "found": error.found, "remedy": error.remedy}
    return Problem(422, f"The {kind} is not right", str(error), [field])
