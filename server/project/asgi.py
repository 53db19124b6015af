"""The application as uvicorn runs it."""

from __future__ import annotations

import json
import os
import re
import sys
import threading
import time
from collections.abc import Awaitable, Callable, Mapping
from http.cookies import CookieError, SimpleCookie
from typing import Any

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.project.settings")

from asgiref.sync import sync_to_async
from django.conf import settings
from django.core.asgi import get_asgi_application
from django.utils import timezone

from server.http.connections import let_go
from server.live.hub import hub
from server.photos.hands import hands
from server.project.conf import conf
from tray_core.line import get_ready

Scope = dict[str, Any]
Receive = Callable[[], Awaitable[dict[str, Any]]]
Send = Callable[[Mapping[str, Any]], Awaitable[None]]

# Drawing asks for the interpreter's lock dozens of times a picture. While another thread counts a large tray, each time
# would wait for the usual 5 ms.
sys.setswitchinterval(0.0005)
_django = get_asgi_application()
_MARGIN = 64 * 1024
"""What a form adds around its file."""
_USUAL = 4 << 20
_LARGE = (
    (re.compile(r"/api/trays/\d+/uploads"), conf.upload_bytes + _MARGIN),
    (re.compile(r"/api/profiles"), (16 << 20) + _MARGIN),
    (re.compile(r"/api/marks"), (30 << 20) + _MARGIN),
    (re.compile(r"/inlet/\d+/files"), conf.upload_bytes + _MARGIN),
    (re.compile(r"/api/outlets/\d+/check"), 60_000_000 + _MARGIN),
)
"""Addresses that take more, and how much."""
_LATER = 6
"""Seconds from when the first page can be drawn until close looks get ready: pages come first."""


async def application(scope: Scope, receive: Receive, send: Send) -> None:
    """Django, with the life of the process and a limit on request bodies around it.

    Django writes a whole body to disk before it looks at who sent it, so that the limit must stand
    in front of it.
    """
    if scope["type"] == "lifespan":
        await _lifespan(receive, send)
        return
    headers = dict(scope["headers"])
    allowed = next((most for path, most in _LARGE if path.fullmatch(scope["path"])), _USUAL)
    length = int(headers.get(b"content-length", b"0"))
    if length > allowed:
        await _refuse(send, 413, "The file is too large", _too_large(allowed, length))
        return
    if allowed > _USUAL and not await sync_to_async(_may, thread_sensitive=False)(scope["path"], headers):
        await _refuse(send, 401, "Not signed in", "Sign in, then try again.")
        return
    received, started = 0, False

    async def limited() -> dict[str, Any]:
        nonlocal received
        message = await receive()
        received += len(message.get("body", b""))
        if received > allowed:
            raise _TooLarge
        return message

    async def noted(message: Mapping[str, Any]) -> None:
        nonlocal started
        started = True
        await send(message)

    try:
        await _django(scope, limited, noted)
    except _TooLarge:
        if not started:
            await _refuse(send, 413, "The file is too large", _too_large(allowed, received))


class _TooLarge(Exception):
    """A body that said nothing of its size turned out to be too large."""


def _may(path: str, headers: Mapping[bytes, bytes]) -> bool:
    """Whether somebody may send a large body to an address: who is signed in, or has the token of an inlet."""
    if path.startswith("/inlet/"):
        from server.inlets.posting import may_post, token_in  # models, which the application above has to load first

        return may_post(path, token_in({"authorization": headers.get(b"authorization", b"").decode("latin-1")}))
    return _signed_in(headers.get(b"cookie", b""))


def _signed_in(cookies: bytes) -> bool:
    """Whether somebody is signed in; asked before a large body is taken."""
    from django.contrib.sessions.models import Session  # a model, which the application above has to load first

    try:
        found = SimpleCookie(cookies.decode("latin-1")).get(settings.SESSION_COOKIE_NAME)
    except CookieError:
        return False
    there = Session.objects.filter(session_key=found.value, expire_date__gt=timezone.now()) if found else None
    signed_in = there is not None and any("_auth_user_id" in session.get_decoded() for session in there)
    let_go()
    return signed_in


def _too_large(allowed: int, length: int) -> str:
    return f"Expected at most {allowed / 1e6:.0f} MB, found {length / 1e6:.0f} MB. Send a smaller file."


async def _lifespan(receive: Receive, send: Send) -> None:
    while True:
        message = await receive()
        if message["type"] == "lifespan.startup":
            # Beside the first pages, so that the first picture need not wait for it.
            threading.Thread(target=_get_ready, name="get ready", daemon=True).start()
            await send({"type": "lifespan.startup.complete"})
        else:
            await hub.close()
            hands.close()
            await send({"type": "lifespan.shutdown.complete"})
            return


def _get_ready() -> None:
    get_ready()
    time.sleep(_LATER)
    hands.wake()


async def _refuse(send: Send, status: int, title: str, detail: str) -> None:
    body = {"title": title, "detail": detail, "status": status}
    headers = [(b"content-type", b"application/problem+json"), (b"connection", b"close")]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": json.dumps(body).encode()})
