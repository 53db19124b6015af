"""Making room: runs that are over, uploads that nothing uses, copies that can be made again."""

from __future__ import annotations

import contextlib
import datetime as dt
from collections.abc import Iterable
from pathlib import Path

from django.db.models import Exists, OuterRef, QuerySet
from django.utils import timezone

from server.http.connections import let_go
from server.live.hub import hint
from server.photos.models import Photo
from server.photos.reading import copies_of_content
from server.runs import files
from server.runs.models import Rendition, Run, Weighed
from server.studios.models import Studio
from server.trays.models import TrayPhoto

_AT_ONCE = 500


def old_runs(studio: Studio, days: int) -> QuerySet[Run]:
    """Runs that have been over for so many days."""
    return studio.runs.filter(finished__lte=timezone.now() - dt.timedelta(days=days)).order_by("pk")


def unused_uploads(studio: Studio) -> QuerySet[Photo]:
    """Uploads in no tray, of which no run knows a rendition."""
    placed = Exists(TrayPhoto.objects.filter(photo=OuterRef("pk")))
    known = Exists(Rendition.objects.filter(photo=OuterRef("pk")))
    return studio.photos.filter(~placed, ~known, root=None).order_by("pk")


def clear_runs(studio: Studio, days: int, with_files: bool) -> int:
    """Forget old runs; returns the bytes that went with them."""
    return sum(clear_run(run, with_files) for run in list(old_runs(studio, days)))


def clear_run(run: Run, with_files: bool) -> int:
    """Forget a run that is over; returns the bytes that went with it.

    with_files: its files too, where these are still the ones that were made; else those for download alone, which
    nobody could find any more.
    """
    freed = 0
    made = run.renditions.filter(state=Rendition.State.MADE).select_related("version")
    if not with_files:
        made = made.filter(version__content__place__to="download")
    last = 0
    while rows := list(made.filter(pk__gt=last).order_by("pk")[:_AT_ONCE]):
        last = rows[-1].pk
        let_go()
        for row in rows:
            if not files.look(row):  # else somebody else's file stands there
                Path(row.path).unlink(missing_ok=True)
                freed += int((row.receipt or {}).get("bytes", 0))
                for kind in row.version.content["place"].get("sidecars", ()):
                    Path(f"{row.path}.{kind}").unlink(missing_ok=True)
    number, downloads = run.pk, run.downloads
    run.delete()
    _remove_empty(downloads)
    hint(run.studio_id, "run", number)
    return freed


def clear_uploads(studio: Studio) -> int:
    """Delete unused uploads; returns their bytes."""
    freed = 0
    while photos := list(unused_uploads(studio)[:_AT_ONCE]):
        numbers = [photo.pk for photo in photos]
        unused_uploads(studio).filter(pk__in=numbers).delete()
        # Somebody may have put one into a tray meanwhile: it stays, and so does its file.
        stayed = set(Photo.objects.filter(pk__in=numbers).values_list("pk", flat=True))
        gone = [photo for photo in photos if photo.pk not in stayed]
        _unlink(photo.file for photo in gone)
        for photo in gone:
            _remove_empty(photo.file.parent)
        freed += sum(photo.bytes for photo in gone)
    return freed


def clear_copies(studio: Studio) -> int:
    """Delete what is made again when it is wanted; returns its bytes."""
    freed, last = 0, 0
    while ahead := list(Weighed.objects.filter(studio=studio).order_by("pk")[:_AT_ONCE]):
        Weighed.objects.filter(pk__in=[row.pk for row in ahead]).delete()
        _unlink(row.file for row in ahead)
        freed += sum(row.bytes for row in ahead)
    while photos := list(studio.photos.filter(pk__gt=last, copied__gt=0).order_by("pk")[:_AT_ONCE]):
        last = photos[-1].pk
        Photo.objects.filter(pk__in=[photo.pk for photo in photos]).update(copied=0)
        _unlink(path for photo in photos for path in copies_of_content(photo.digest))
        freed += sum(photo.copied for photo in photos)
    return freed


def _unlink(paths: Iterable[Path]) -> None:
    let_go()
    for path in paths:
        path.unlink(missing_ok=True)


def _remove_empty(folder: Path) -> None:
    with contextlib.suppress(OSError):  # not there, or not empty
        folder.rmdir()
