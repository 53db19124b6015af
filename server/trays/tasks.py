"""Work on photos that runs in the background."""

from __future__ import annotations

import os

from asgiref.sync import sync_to_async
from procrastinate.contrib.django import app

from server.live.hub import hint
from server.photos.models import Photo
from server.queue.deferring import READ
from server.queue.patience import patience


@app.task(name=READ, queue="read", priority=50)
def read_photo(photo_id: int) -> None:
    """Read one photo; safe to run again."""
    from server.photos import reading  # the imaging libraries stay out of the web process

    photo = Photo.objects.select_related("root").filter(pk=photo_id).first()
    if photo is None or photo.asked is None:
        return  # it was read meanwhile, or given up
    if photo.tries >= reading.MAX_TRIES:
        reading.give_up(photo, reading.ENDED_ITS_READER)
    else:
        Photo.objects.filter(pk=photo_id).update(reader=os.getpid())
        with patience(lambda reason: reading.give_up(photo, reason)):
            reading.read(photo)
    for tray_id in photo.places.values_list("tray_id", flat=True):
        hint(photo.studio_id, "tray", tray_id)


@app.periodic(cron="* * * * * */8")  # the sixth field is seconds: every eight of them
@app.task(name="trays.look_again", queue="system", queueing_lock="look-again")
async def look_at_trays(timestamp: int) -> None:
    """Find what is new, changed or gone in the folders of trays that are open somewhere."""
    from server.trays.watching import look_at_fresh_trays

    # In a thread of its own: large folders must not keep recovery waiting.
    await sync_to_async(look_at_fresh_trays, thread_sensitive=False)()
