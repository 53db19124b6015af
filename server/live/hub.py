"""Hints to open pages: one listening connection a process, fanned out to a bounded queue a page.

A hint says only that something changed; whoever gets one asks the API, which is the truth. A page
that falls behind gets a `resync` in place of what it missed.
"""

from __future__ import annotations

import asyncio
import contextlib
import json
from collections.abc import AsyncIterator

import psycopg
from django.db import connection

CHANNEL = "upper_tray"
QUEUE = 100
Hint = dict[str, str | int]

RESYNC: Hint = {"kind": "resync", "id": 0}


def hint(studio_id: int, kind: str, number: int) -> None:
    """Tell the studio's pages that something changed, when the transaction around this commits."""
    with connection.cursor() as cursor:
        message = json.dumps({"studio": studio_id, "kind": kind, "id": number})
        cursor.execute("SELECT pg_notify(%s, %s)", [CHANNEL, message])


class Hub:
    """The listening connection and the pages that wait for it; lives in one event loop."""

    def __init__(self) -> None:
        self._pages: set[tuple[int, asyncio.Queue[Hint]]] = set()
        self._listening: asyncio.Task[None] | None = None

    async def hints(self, studio_id: int) -> AsyncIterator[Hint]:
        """Yield the studio's hints as they come, for as long as the page is there."""
        queue: asyncio.Queue[Hint] = asyncio.Queue(QUEUE)
        page = (studio_id, queue)
        self._pages.add(page)
        if self._listening is None or self._listening.done():
            self._listening = asyncio.create_task(self._listen())
        try:
            while True:
                yield await queue.get()
        finally:
            self._pages.discard(page)

    async def close(self) -> None:
        """Stop listening; open streams end with the server."""
        if self._listening is not None:
            self._listening.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await self._listening
            self._listening = None

    def _spread(self, studio_id: int | None, message: Hint) -> None:
        for studio, queue in self._pages:
            if studio_id is not None and studio != studio_id:
                continue
            if queue.full():
                while not queue.empty():
                    queue.get_nowait()
                queue.put_nowait(RESYNC)
            else:
                queue.put_nowait(message)

    async def _listen(self) -> None:
        while True:
            try:
                params = {**connection.get_connection_params(), "autocommit": True}
                for name in ("cursor_factory", "context"):
                    params.pop(name, None)
                async with await psycopg.AsyncConnection.connect(**params) as listener:
                    await listener.execute(f"LISTEN {CHANNEL}")
                    self._spread(None, RESYNC)  # what was said while nobody listened
                    async for notice in listener.notifies():
                        data = json.loads(notice.payload)
                        self._spread(data.pop("studio"), data)
            except psycopg.Error:
                await asyncio.sleep(1)  # the database is away; pages poll meanwhile


hub = Hub()
