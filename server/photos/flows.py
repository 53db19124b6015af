"""What is done with photos."""

from __future__ import annotations

from collections.abc import Iterable

from django.utils import timezone

from server.photos.models import Photo
from server.queue.deferring import READ, defer_all


def have_read(photos: Iterable[int]) -> None:
    """Have photos read, but for those that will be anyway. Inside a transaction."""
    waiting = Photo.objects.select_for_update().filter(pk__in=list(photos), asked=None).order_by("pk")
    fresh = list(waiting.values_list("pk", flat=True))
    Photo.objects.filter(pk__in=fresh).update(asked=timezone.now())
    defer_all(READ, ({"photo_id": photo} for photo in fresh))
