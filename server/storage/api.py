"""What takes room, and making room, over the API."""

from __future__ import annotations

from typing import Annotated, Literal

from django.db.models import Count, Sum
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field

from server.http.problems import Problem
from server.runs.models import Tally
from server.storage import clearing
from server.studios.models import Studio
from server.studios.room import taken
from server.studios.visitors import studio_of

router = Router(tags=["storage"])
Days = Annotated[int, Field(ge=0, le=3650)]


class StorageOut(Schema):
    """Bytes. copies: of photos, for the screens; ahead: renditions encoded before any run. old_runs: as many, over for
    the days asked for. unused: uploads in no tray and no run.
    """

    quota: int
    renditions: int
    uploads: int
    copies: int
    ahead: int
    old_runs: int
    old_runs_bytes: int
    unused: int
    unused_bytes: int


class ClearIn(Schema):
    """what: runs over for `days`, or one `run` that is over, with the files that they made or without; unused uploads;
    copies.
    """

    what: Literal["runs", "run", "uploads", "copies"]
    days: Days = 30
    run: int | None = None
    files: bool = False


class ClearedOut(Schema):
    freed: int
    storage: StorageOut


def _storage(studio: Studio, days: int) -> StorageOut:
    runs = clearing.old_runs(studio, days)
    unused = clearing.unused_uploads(studio).aggregate(bytes=Sum("bytes", default=0), count=Count("pk"))
    return StorageOut(
        quota=studio.quota,
        **taken(studio),
        old_runs=runs.count(),
        old_runs_bytes=Tally.objects.filter(run__in=runs).aggregate(bytes=Sum("bytes", default=0))["bytes"],
        unused=unused["count"],
        unused_bytes=unused["bytes"],
    )


@router.get("", response=StorageOut)
def get_storage(request: HttpRequest, days: Days = 30) -> StorageOut:
    """What the studio's things take, and what of it may go."""
    return _storage(studio_of(request), days)


@router.post("/clear", response=ClearedOut)
def clear_storage(request: HttpRequest, body: ClearIn) -> ClearedOut:
    """Make room. Originals in registered folders are never touched."""
    studio = studio_of(request)
    match body.what:
        case "runs":
            freed = clearing.clear_runs(studio, body.days, body.files)
        case "run":
            run = get_object_or_404(studio.runs, pk=body.run)
            if run.finished is None:
                raise Problem(
                    409, "The run goes on", "Expected a run that is over, found one that goes on. Stop it first."
                )
            freed = clearing.clear_run(run, body.files)
        case "uploads":
            freed = clearing.clear_uploads(studio)
        case "copies":
            freed = clearing.clear_copies(studio)
    return ClearedOut(freed=freed, storage=_storage(studio, body.days))
