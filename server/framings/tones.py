"""What is done with the tones of photos."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import timedelta
from typing import Any, NamedTuple

from django.db import transaction

from server.http.problems import Problem
from server.live.hub import hint
from server.photos.models import Photo
from server.trays.models import Tray
from tray_core import RecipeError
from tray_core.tone import Tone, check_tone

SAME_TIME = timedelta(minutes=1)


class Edit(NamedTuple):
    """tone: plain values. version: the one that was edited; None takes whatever is there."""

    photo: int
    tone: dict[str, Any]
    version: int | None


def checked(values: dict[str, Any]) -> Tone:
    """The tone of plain values; Problem (422) names the wrong field."""
    try:
        return check_tone(values)
    except RecipeError as error:
        wrong = {"field": error.subject, "expected": error.expected, "found": error.found, "remedy": error.remedy}
        raise Problem(422, "The tone is not right", str(error), [wrong]) from error


@transaction.atomic
def keep(tray: Tray, edits: Iterable[Edit]) -> list[Edit]:
    """Give photos of a tray these tones: all, or where one was changed meanwhile, none. Gives what they had."""
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
        if edit.version is not None and edit.version != photo.tone_version:
            detail = f"Expected the tone of {photo.name} as you saw it, found a newer one. Look at it, then try again."
            raise Problem(409, "Somebody else changed it", detail)
        tone = checked(edit.tone).to_json()
        if tone != photo.tone:
            before.append(Edit(photo.pk, photo.tone, photo.tone_version + 1))
            photo.tone, photo.tone_version = tone, photo.tone_version + 1
            changed.append(photo)
    Photo.objects.bulk_update(changed, ["tone", "tone_version"], batch_size=500)
    for number in Tray.objects.filter(places__photo__in=changed).distinct().values_list("pk", flat=True):
        hint(tray.studio_id, "tray", number)
    return before


@transaction.atomic
def give(tray: Tray, photos: Iterable[int], values: dict[str, Any]) -> list[Edit]:
    """Set some values of several photos of a tray, leaving their others. values: neutral ones take theirs away."""
    checked(values)
    found = Photo.objects.filter(places__tray=tray, pk__in=list(photos)).values_list("pk", "tone")
    return keep(tray, [Edit(photo, {**tone, **values}, None) for photo, tone in found])


def of_the_same_time(tray: Tray, photo: Photo) -> list[int]:
    """The photos of a tray that were taken within a minute of one."""
    if photo.taken is None:
        return []
    within = Photo.objects.filter(places__tray=tray, taken__range=(photo.taken - SAME_TIME, photo.taken + SAME_TIME))
    return list(within.exclude(pk=photo.pk).values_list("pk", flat=True)[:500])
