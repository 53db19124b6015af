"""The studio of whoever asks."""

from __future__ import annotations

from django.core.exceptions import PermissionDenied
from django.http import HttpRequest

from server.studios.models import Studio


def studio_of(request: HttpRequest) -> Studio:
    """The visitor's studio; all objects are looked up below it, so that others' answer 404."""
    studio: Studio | None = getattr(request, "studio", None)
    if studio is None:
        raise PermissionDenied("You belong to no studio yet; ask its owner to take you in.")
    return studio
