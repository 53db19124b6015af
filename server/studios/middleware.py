"""Who is asking: the demo user signed in by itself, and the studio of whoever is signed in."""

from __future__ import annotations

import ipaddress
from collections.abc import Callable

from django.contrib.auth import get_user_model, login
from django.http import HttpRequest, HttpResponseBase
from django.utils.decorators import sync_only_middleware

from server.project.conf import conf
from server.studios.models import Studio
from server.studios.sign_in import BACKEND

Answer = Callable[[HttpRequest], HttpResponseBase]
DEMO_USER = "demo"


def _from_this_machine(request: HttpRequest) -> bool:
    """Whether the visitor sits at this machine and no proxy stands between."""
    forwarded = "HTTP_X_FORWARDED_FOR" in request.META or "HTTP_FORWARDED" in request.META
    try:
        return ipaddress.ip_address(request.META.get("REMOTE_ADDR", "")).is_loopback and not forwarded
    except ValueError:
        return False


@sync_only_middleware
def sign_in_demo(get_response: Answer) -> Answer:
    """Sign the demo user in, in the demo, on loopback only, until they sign out."""

    def answer(request: HttpRequest) -> HttpResponseBase:
        static = request.path.startswith(("/static/", "/sign-"))
        if conf.demo and not static and not request.user.is_authenticated and _from_this_machine(request):
            user = get_user_model().objects.filter(username=DEMO_USER).first()
            if user is not None:
                login(request, user, backend=BACKEND)
        return get_response(request)

    return answer


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
