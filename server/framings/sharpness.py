"""What is done with the sharpness of single photos."""

from __future__ import annotations

from django.db import transaction

from server.framings.models import Sharpness
from server.live.hub import hint
from server.photos.models import Photo
from server.recipes.models import Recipe
from server.trays.models import Tray

Strengths = dict[int, int | None]
"""Per cent by photo; None follows the recipe."""


@transaction.atomic
def keep(tray: Tray, recipe: Recipe, strengths: Strengths) -> Strengths:
    """Sharpen photos of a tray by strengths of their own, or as the recipe says again; gives what they had."""
    wanted = Photo.objects.filter(places__tray=tray, pk__in=list(strengths))
    # Two at once for one photo take turns.
    photos = [photo.pk for photo in Photo.objects.select_for_update().filter(pk__in=wanted.values("pk"))]
    rows = Sharpness.objects.filter(photo__in=photos, recipe=recipe)
    before: Strengths = dict.fromkeys(photos) | dict(rows.values_list("photo", "strength"))
    rows.delete()
    Sharpness.objects.bulk_create(
        Sharpness(photo_id=photo, recipe=recipe, strength=strength)
        for photo in photos
        if (strength := strengths[photo]) is not None
    )
    for each in Tray.objects.filter(places__photo__in=photos).distinct():
        hint(each.studio_id, "tray", each.pk)
    return before
