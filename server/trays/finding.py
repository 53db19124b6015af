"""Looking things up below the visitor's studio."""

from __future__ import annotations

from django.http import HttpRequest
from django.shortcuts import get_object_or_404

from server.studios.visitors import studio_of
from server.trays.models import Tray


def find_tray(request: HttpRequest, number: int) -> Tray:
    """A tray of the visitor's studio, or 404."""
    return get_object_or_404(studio_of(request).trays, pk=number)
