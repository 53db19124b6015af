"""The studio of whoever is signed in."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponseBase
from django.utils.decorators import sync_only_middleware

from server.studios.models import Studio

Answer = Callable[[HttpRequest], HttpResponseBase]


@sync_only_middleware
def find_studio(get_response: Answer) -> Answer:
    """Put the visitor's studio into `request.studio`, or None."""

    def answer(request: HttpRequest) -> HttpResponseBase:
        studio: Studio | None = None
        if not request.path.startswith("/static/") and request.user.is_authenticated:
            member = getattr(request.user, "member", None)  # found with the user, by our way of signing in
            studio = member.studio if member else None
        request.studio = studio  # type: ignore[attr-defined]
        return get_response(request)

    return answer
