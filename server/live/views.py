"""The stream of hints, as server-sent events."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator

from django.http import HttpRequest, HttpResponse, HttpResponseBase, StreamingHttpResponse

from server.live.hub import hub

HEARTBEAT = 15


async def events(request: HttpRequest) -> HttpResponseBase:
    """One event a hint; a comment every now and then, so that a lost page is noticed."""
    studio = request.studio  # type: ignore[attr-defined]
    if studio is None:
        return HttpResponse(status=401)
    return StreamingHttpResponse(
        _stream(studio.id),
        content_type="text/event-stream",
        headers={"Cache-Control": "no-cache", "X-Accel-Buffering": "no"},
    )


async def _stream(studio_id: int) -> AsyncIterator[str]:
    yield "retry: 2000\n\n"
    hints = hub.hints(studio_id)
    pending = asyncio.ensure_future(anext(hints))
    try:
        while True:
            done, _ = await asyncio.wait({pending}, timeout=HEARTBEAT)
            if not done:
                yield ": still here\n\n"
                continue
            yield f"data: {json.dumps(pending.result())}\n\n"
            pending = asyncio.ensure_future(anext(hints))
    finally:
        pending.cancel()
