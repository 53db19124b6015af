"""What is done with the outlines of photos."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, NamedTuple

from django.db import transaction

from server.framings.flows import placed
from server.http.problems import Problem
from server.live.hub import hint
from server.photos.models import Photo
from server.photos.outlines import curves_of, keep_curves
from server.trays.models import Tray
from tray_core import RecipeError
from tray_core.outline import Outline, check_outline


class Edit(NamedTuple):
    """outline: plain values; nothing takes it away. version: the one that was edited; None takes whatever is there."""

    photo: int
    outline: dict[str, Any]
    version: int | None


def checked(values: dict[str, Any]) -> Outline:
    """The outline of plain values; Problem (422) names the wrong field."""
    try:
        return check_outline(values)
    except RecipeError as error:
        wrong = {"field": error.subject, "expected": error.expected, "found": error.found, "remedy": error.remedy}
        raise Problem(422, "The outline is not right", str(error), [wrong]) from error


@transaction.atomic
def keep(tray: Tray, edits: Iterable[Edit]) -> list[Edit]:
    """Give photos of a tray these outlines: all, or where one was changed meanwhile, none. Gives what they had."""
    wanted = {edit.photo: edit for edit in edits}
    found = list(
        Photo.objects.select_for_update(of=("self",)).filter(places__tray=tray, pk__in=list(wanted)).order_by("pk")
    )
    if len(found) < len(wanted):
        raise Problem(409, "A photo is gone", "A photo was taken out of the tray meanwhile. Look at the board again.")
    before: list[Edit] = []
    changed: list[Photo] = []
    for photo in found:
        edit = wanted[photo.pk]
        if edit.version is not None and edit.version != photo.outline_version:
            detail = (
                f"Expected the outline of {photo.name} as you saw it, found a newer one. Look at it, then try again."
            )
            raise Problem(409, "Somebody else changed it", detail)
        there, traced = curves_of(photo), keep_curves(photo, checked(edit.outline))
        if traced != photo.traced:
            before.append(Edit(photo.pk, there, photo.outline_version + 1))
            photo.traced, photo.outline_version, photo.outlined = traced, photo.outline_version + 1, True
            changed.append(photo)
    Photo.objects.bulk_update(changed, ["traced", "outline_version", "outlined"], batch_size=500)
    placed.send(Photo, photos=changed)
    for number in Tray.objects.filter(places__photo__in=changed).distinct().values_list("pk", flat=True):
        hint(tray.studio_id, "tray", number)
    return before
