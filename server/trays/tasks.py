"""Work on photos that runs in the background."""

from __future__ import annotations

from procrastinate.contrib.django import app

from server.live.hub import hint
from server.trays.models import Photo


@app.task(name="trays.read_photo", queue="read")
def read_photo(photo_id: int) -> None:
    """Read one photo; safe to run again."""
    from server.trays.reading import read  # the imaging libraries stay out of the web process's start

    photo = Photo.objects.select_related("root").filter(pk=photo_id).first()
    if photo is None:
        return
    read(photo)
    for tray_id in photo.places.values_list("tray_id", flat=True):
        hint(photo.studio_id, "tray", tray_id)
