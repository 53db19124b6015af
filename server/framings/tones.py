"""What is done with the tones of photos."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import timedelta
from typing import Any

from django.db import transaction

from server.framings import keeping
from server.framings.keeping import Edit
from server.photos.models import Photo
from server.trays.models import Tray
from tray_core import RecipeError
from tray_core.tone import Tone, check_looks, check_tone, looks_to_json

SAME_TIME = timedelta(minutes=1)


def checked(values: dict[str, Any]) -> Tone:
    """The tone of plain values; Problem (422) names the wrong field."""
    try:
        return check_tone(values)
    except RecipeError as error:
        raise keeping.wrong("tone", error) from error


def _checked_looks(looks: list[Any]) -> list[dict[str, Any]]:
    try:
        return looks_to_json(check_looks(looks))
    except RecipeError as error:
        raise keeping.wrong("tone", error) from error


def _there(photo: Photo) -> dict[str, Any]:
    return {"tone": dict(photo.tone), "looks": list(photo.looks)}


def _put(photo: Photo, values: dict[str, Any]) -> bool:
    """values: tone, and looks; what is missing stays."""
    before = _there(photo)
    if "tone" in values:
        photo.tone = checked(values["tone"]).to_json()
    if "looks" in values:
        photo.looks = _checked_looks(values["looks"])
    return _there(photo) != before


_KIND = keeping.Kind("tone", "tone_version", ("tone", "looks"), _there, _put)


def keep(tray: Tray, edits: Iterable[Edit]) -> list[Edit]:
    """Give photos of a tray these tones: all, or where one was changed meanwhile, none. Gives what they had."""
    return keeping.keep(_KIND, tray, edits)


@transaction.atomic
def give(tray: Tray, photos: Iterable[int], values: dict[str, Any]) -> list[Edit]:
    """Set some values of several photos of a tray, leaving their others. values: neutral ones take theirs away."""
    checked(values)
    found = Photo.objects.filter(places__tray=tray, pk__in=list(photos)).values_list("pk", "tone")
    return keep(tray, [Edit(photo, {"tone": {**tone, **values}}, None) for photo, tone in found])


def of_the_same_time(tray: Tray, photo: Photo) -> list[int]:
    """The photos of a tray that were taken within a minute of one."""
    if photo.taken is None:
        return []
    within = Photo.objects.filter(places__tray=tray, taken__range=(photo.taken - SAME_TIME, photo.taken + SAME_TIME))
    return list(within.exclude(pk=photo.pk).values_list("pk", flat=True)[:500])
