"""What runs take on the server's disk: their files, and what was encoded ahead of any."""

from __future__ import annotations

from django.db.models import Sum

from server.runs.models import Tally, Weighed
from server.studios.models import Studio
from server.studios.room import takes_room


@takes_room
def of_runs(studio: Studio) -> dict[str, int]:
    """A file that a later run replaced counts twice until the earlier run is cleared."""
    renditions = Tally.objects.filter(run__studio=studio).aggregate(bytes=Sum("bytes", default=0))["bytes"]
    ahead = Weighed.objects.filter(studio=studio).aggregate(bytes=Sum("bytes", default=0))["bytes"]
    return {"renditions": renditions, "ahead": ahead}
