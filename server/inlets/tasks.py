"""Work on inlets that runs in the background."""

from __future__ import annotations

from asgiref.sync import sync_to_async
from procrastinate.contrib.django import app

from server.queue.deferring import LOOK


@app.periodic(cron="* * * * * */3")  # the sixth field is seconds: every three of them
@app.task(name=LOOK, queue="system", queueing_lock="inlets", lock="inlets")
async def look_at_inlets(timestamp: int) -> None:
    """Look at every inlet; one look at a time."""
    from server.inlets.watching import look_at_all

    # In a thread of its own: large folders must not keep recovery waiting.
    await sync_to_async(look_at_all, thread_sensitive=False)()
