"""Reading photos: their facts into rows, a working copy into the cache."""

from __future__ import annotations

import datetime as dt
import os
import secrets
from pathlib import Path

from django.utils import timezone

from server.conf import conf
from server.trays.models import Photo
from tray_core import Limits, PhotoError, TrayError, read_facts
from tray_core.errors import PhotoGone
from tray_core.fingerprint import content_digest
from tray_core.line.preview import WORKING_EDGES, look_at
from tray_core.photo import read_bytes

LIMITS = Limits(pixels=conf.photo_pixels, bytes=conf.photo_bytes)
_FACTS = (
    "format",
    "width",
    "height",
    "orientation",
    "depth",
    "mode",
    "alpha",
    "profile",
    "bad_profile",
    "bytes",
    "ends_early",
)


def copy_path(digest: str, edge: int) -> Path:
    """Where the working copy of a content lies, whose long edge is `edge`."""
    return conf.cache / "copies" / digest[:2] / f"{digest}-{edge}"


def _as_utc(moment: dt.datetime | None) -> dt.datetime | None:
    return moment.replace(tzinfo=dt.UTC) if moment else None


def read(photo: Photo) -> None:
    """Read the file anew; what is found goes into the row, with the reason where it cannot be read."""
    path = photo.file
    try:
        if photo.root is not None and photo.root.folder not in path.resolve().parents:
            raise PhotoError(
                photo.name,
                expected=f"a file below {photo.root.name}",
                found="a link that leads out of it",
                remedy="Put the file itself into the folder.",
            )
        data = read_bytes(path, LIMITS)
        photo.bytes = len(data)
        facts = read_facts(path, LIMITS, data)
        for name in _FACTS:
            setattr(photo, name, getattr(facts, name))
        photo.taken, photo.modified = _as_utc(facts.taken), _as_utc(facts.modified)
        photo.digest = content_digest(data)
        looked = look_at(facts, data)
        photo.interest = looked.interest.across + looked.interest.down
        photo.subjects = [[each.kind, list(each.box)] for each in looked.interest.subjects]
        photo.detail = looked.detail.to_json()
        for edge, copy in zip(WORKING_EDGES, looked.copies, strict=True):
            _keep_copy(copy_path(photo.digest, edge), copy)
        photo.state, photo.reason = Photo.State.READY, ""
    except PhotoGone as error:
        photo.state = Photo.State.GONE
        photo.reason = f"Expected {error.expected}, found {error.found}. {error.remedy}"
    except TrayError as error:
        photo.state = Photo.State.UNREADABLE
        photo.reason = f"Expected {error.expected}, found {error.found}. {error.remedy}"
    photo.read = timezone.now()
    photo.save()


def _keep_copy(path: Path, data: bytes) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    part = path.with_name(f".{path.name}.{secrets.token_hex(4)}.part")
    part.write_bytes(data)
    part.replace(path)


def unchanged(photo: Photo) -> bool:
    """Whether the file still has the time and size that it had when it was read."""
    try:
        info = os.stat(photo.file)
    except OSError:
        return False
    modified = dt.datetime.fromtimestamp(info.st_mtime).replace(tzinfo=dt.UTC)
    return info.st_size == photo.bytes and modified == photo.modified
