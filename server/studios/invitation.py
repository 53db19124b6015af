"""An address that signs the demo's person in, once: whoever sits at the terminal that printed it."""

from __future__ import annotations

import secrets
from pathlib import Path

from django.contrib.auth import get_user_model, login
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import render
from django.views.decorators.http import require_GET

from server.project.conf import conf
from server.studios.sign_in import BACKEND

DEMO_USER = "demo"


def _token() -> Path:
    return conf.var / "invitation"


def password_file() -> Path:
    """Where the demo's password stands, for other browsers."""
    return conf.var / "demo-password"


def invite() -> None:
    """Make a new address; an older one that nobody used is void."""
    _token().write_text(secrets.token_urlsafe(24))


def demo_password() -> str:
    """The password of the demo's person; the same as long as the product's files are there."""
    path = password_file()
    if not path.exists():
        path.write_text(secrets.token_urlsafe(9))
    return path.read_text()


@require_GET
def sign_in_once(request: HttpRequest, token: str) -> HttpResponse:
    """Sign in whoever has the token; it is gone with that."""
    if not conf.demo:
        raise Http404
    if request.user.is_authenticated:
        return HttpResponseRedirect("/")
    if not _taken(token):
        return render(request, "sign-in.html", {"used": True, "demo": True}, status=403)
    user = get_user_model().objects.get(username=DEMO_USER)
    login(request, user, backend=BACKEND)
    return HttpResponseRedirect("/")


def _taken(token: str) -> bool:
    """Whether the token was there and is ours now: of two who come at once, one gets it."""
    try:
        if not secrets.compare_digest(_token().read_text().encode(), token.encode()):
            return False
        _token().rename(_token().with_name("invitation-used"))
    except FileNotFoundError:
        return False
    return True
