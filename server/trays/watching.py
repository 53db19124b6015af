"""Looking again at the folders of a tray: what is new, changed or gone."""

from __future__ import annotations

import datetime as dt
import logging
import os
from dataclasses import dataclass, field

from django.db import transaction
from django.utils import timezone

from server.live.hub import hint
from server.photos.flows import have_read
from server.photos.models import Photo
from server.photos.reading import sidecar_time
from server.photos.written import ours_below
from server.studios.models import Root
from server.trays.gathering import gather, path_below, readable
from server.trays.models import Tray
from tray_core import find_photos

logger = logging.getLogger(__name__)

_COMPARED = ("path", "state", "read", "bytes", "modified", "sidecar", "origin")

File = tuple[int, float, dt.datetime | None]
"""Bytes, time of change, and that of the XMP beside it."""

FRESH = dt.timedelta(minutes=15)
"""Trays that somebody looked at in this time are looked at again by themselves."""


@dataclass(frozen=True, slots=True)
class Seen:
    """How many photos are new, changed, gone, or back again; odd: files whose names are no text, as far as it goes."""

    new: int = 0
    changed: int = 0
    gone: int = 0
    odd: list[str] = field(default_factory=list)


def files_below(root: Root, relative: str, odd: list[str]) -> dict[str, File] | None:
    """What is to be compared of the photos below a folder of a root, by path; None where it cannot be read.

    odd: gets the names of those that cannot be kept.
    """
    top = root.folder
    folder = top / relative
    found: dict[str, File] = {}
    ours = ours_below(folder)
    for path, error in find_photos([folder]):
        if path in ours:
            continue
        if error is not None:
            if path == folder:
                return None
            continue
        inside = path_below(top, path)
        if inside is None:
            if (name := readable(path)) != path.name:
                odd.append(name)
            continue
        try:
            info = os.stat(path)
        except OSError:
            continue
        found[inside] = (info.st_size, info.st_mtime, sidecar_time(path))
    return found


def look_again(tray: Tray) -> Seen:
    """Compare the tray's folders with what is known of them; differences are read, and gone photos say so."""
    new = 0
    changed: list[int] = []
    gone: list[int] = []
    waiting: list[int] = []
    odd: list[str] = []
    for folder in tray.folders.select_related("root"):
        files = files_below(folder.root, folder.path, odd)
        lead = f"{folder.path}/" if folder.path else ""
        here = Photo.objects.filter(root=folder.root, path__startswith=lead)
        known = {photo.path: photo for photo in here.filter(places__tray=tray).only(*_COMPARED)}
        files = files or {}  # a folder that is gone takes its photos with it
        out = set(here.filter(takenout__tray=tray).values_list("path", flat=True))
        fresh = [path for path in files if path not in known and path not in out]
        if fresh:
            with transaction.atomic():
                new += gather(tray, folder.root, fresh)
        for path, photo in known.items():
            if path not in files:
                if photo.state != Photo.State.GONE:
                    gone.append(photo.pk)
            elif photo.state == Photo.State.WAITING:
                waiting.append(photo.pk)
            elif photo.state == Photo.State.GONE or _differs(photo, files[path]):
                changed.append(photo.pk)
    if changed or gone or waiting:
        with transaction.atomic():
            Photo.objects.filter(pk__in=gone).update(
                state=Photo.State.GONE,
                reason="Expected the file where it was, found nothing there. "
                "Bring it back, or take the photo out of the tray.",
                read=timezone.now(),
            )
            have_read([*changed, *waiting])
            if changed or gone:
                hint(tray.studio_id, "tray", tray.pk)
    return Seen(new, len(changed), len(gone), odd)


def _differs(photo: Photo, file: File) -> bool:
    size, changed, sidecar = file
    if photo.state == Photo.State.UNREADABLE:
        # What is known of it may be from a file that was there before: only the moment of looking counts.
        return photo.read is None or dt.datetime.fromtimestamp(changed, dt.UTC) > photo.read
    if sidecar != photo.sidecar or photo.origin is None:  # an older version did not read words
        return True
    return size != photo.bytes or dt.datetime.fromtimestamp(changed).replace(tzinfo=dt.UTC) != photo.modified


def look_at_fresh_trays() -> None:
    """Look again at every tray that somebody has open."""
    since = timezone.now() - FRESH
    for tray in Tray.objects.filter(archived=False, seen__gte=since):
        try:
            look_again(tray)
        except Exception:  # of one tray's folders, which must not keep the others from being looked at
            logger.exception("looking again at the tray %s failed", tray.pk)
