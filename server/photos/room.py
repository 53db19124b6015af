"""What photos take on the server's disk: uploads, and copies for the screens."""

from __future__ import annotations

from django.db.models import Q, Sum

from server.studios.models import Studio
from server.studios.room import takes_room


@takes_room
def of_photos(studio: Studio) -> dict[str, int]:
    """Originals in registered folders take nothing: they are where they were."""
    uploads = Sum("bytes", default=0, filter=Q(root=None))
    return dict(studio.photos.aggregate(uploads=uploads, copies=Sum("copied", default=0)))
