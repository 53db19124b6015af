"""The application as uvicorn runs it."""

from __future__ import annotations

import json
import os
import sys
import threading
import time
from collections.abc import Awaitable, Callable, Mapping
from typing import Any

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.project.settings")

from django.core.asgi import get_asgi_application

from server.live.hub import hub
from server.looks.hands import hands
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
    allowed = conf.upload_bytes + _MARGIN if scope["path"].endswith("/uploads") else 4 << 20
    length = next((int(value) for name, value in scope["headers"] if name == b"content-length"), 0)
    if length > allowed:
        await _too_large(send, length, allowed)
        return
    received = 0

    async def limited() -> dict[str, Any]:
        nonlocal received
        message = await receive()
        received += len(message.get("body", b""))
        return message if received <= allowed else {"type": "http.disconnect"}

    await _django(scope, limited, send)


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


async def _too_large(send: Send, length: int, allowed: int) -> None:
    body = {
        "title": "The file is too large",
        "detail": f"Expected at most {allowed / 1e6:.0f} MB, found {length / 1e6:.0f} MB. Send a smaller file.",
        "status": 413,
    }
    headers = [(b"content-type", b"application/problem+json"), (b"connection", b"close")]
    await send({"type": "http.response.start", "status": 413, "headers": headers})
    await send({"type": "http.response.body", "body": json.dumps(body).encode()})
