"""What people decided of photos, as `plan_renditions` takes it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from typing import Any

from django.db.models import F, Q

from server.framings.models import Framing, Sharpness
from server.photos.models import Photo
from server.trays.models import Tray
from tray_core.plan import Framing as CoreFraming

Lists = dict[int, list[CoreFraming]]
"""Framings by photo, those chosen last first."""


WITH_CHOICES = ("framings", "sharpnesses")
"""What to prefetch with photos that `chosen_for` is asked about."""


def chosen_for(photo: Photo, recipe: int | None) -> dict[str, Any]:
    """What a person chose for a photo: its framings, and its sharpening by a recipe."""
    strengths: dict[int | None, int] = {each.recipe_id: each.strength for each in photo.sharpnesses.all()}
    framings = [framing.core() for framing in photo.framings.all()]
    return {"framings": framings, "strength": strengths.get(recipe), "number": recipe}


def lists_of(photos: Iterable[Photo]) -> Lists:
    """The framings of some photos as they are now."""
    made: Lists = {photo.pk: [] for photo in photos}
    for framing in Framing.objects.filter(photo_id__in=list(made)):
        made[framing.photo_id].append(framing.core())
    return made


def framings_of(photos: Iterable[int] | None, tray: Tray) -> Lists:
    """The framings of some photos of a tray, or of all."""
    found = Framing.objects.filter(_of(photos, tray))
    made: Lists = defaultdict(list)
    for framing in found:
        made[framing.photo_id].append(framing.core())
    return made


def strengths_of(photos: Iterable[int] | None, tray: Tray) -> dict[tuple[int, int], int]:
    """How strongly some photos of a tray, or all, are sharpened on their own: by photo and recipe."""
    found = Sharpness.objects.filter(_of(photos, tray)).values_list("photo", "recipe", "strength")
    return {(photo, recipe): strength for photo, recipe, strength in found}


def _of(photos: Iterable[int] | None, tray: Tray) -> Q:
    # Where the photos are named, they are known to be the tray's, and the tables need not be joined.
    return Q(photo__places__tray=tray) if photos is None else Q(photo_id__in=list(photos))


def similar(tray: Tray, photo: Photo) -> list[int]:
    """The photos of the tray and folder that have the photo's shape, to a hundredth."""
    shape = photo.width / photo.height
    others = Photo.objects.filter(places__tray=tray, folder=photo.folder, state=Photo.State.READY).exclude(pk=photo.pk)
    alike = others.filter(width__gt=F("height") * shape * 0.99, width__lt=F("height") * shape * 1.01)
    return list(alike.values_list("pk", flat=True))
