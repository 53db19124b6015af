"""The stream of hints, as server-sent events."""

from __future__ import annotations

import asyncio
import json
import time
from collections.abc import AsyncIterator

from asgiref.sync import sync_to_async
from django.contrib.sessions.models import Session
from django.http import HttpRequest, HttpResponse, HttpResponseBase, StreamingHttpResponse
from django.utils import timezone

from server.http.connections import let_go
from server.live.hub import hub

HEARTBEAT = 15


async def events(request: HttpRequest) -> HttpResponseBase:
    """One event a hint; a comment every now and then, so that a lost page is noticed."""
    studio = request.studio  # type: ignore[attr-defined]
    if studio is None:
        return HttpResponse(status=401)
    return StreamingHttpResponse(
        _stream(studio.id, request.session.session_key or ""),
        content_type="text/event-stream",
        headers={"Cache-Control": "no-cache", "X-Accel-Buffering": "no"},
    )


def _lives(session: str) -> bool:
    """Whether the session is there still: it may be ended somewhere else."""
    found = Session.objects.filter(session_key=session, expire_date__gt=timezone.now()).exists()
    let_go()
    return found


async def _stream(studio_id: int, session: str) -> AsyncIterator[str]:
    yield "retry: 1000\n\n"
    hints = hub.hints(studio_id)
    pending = asyncio.ensure_future(anext(hints))
    looked = time.monotonic()
    try:
        while True:
            done, _ = await asyncio.wait({pending}, timeout=HEARTBEAT)
            if time.monotonic() - looked > HEARTBEAT / 2 or not done:
                looked = time.monotonic()
                if not await sync_to_async(_lives, thread_sensitive=False)(session):
                    return
            if not done:
                yield ": still here\n\n"
                continue
            yield f"data: {json.dumps(pending.result())}\n\n"
            pending = asyncio.ensure_future(anext(hints))
    finally:
        pending.cancel()
