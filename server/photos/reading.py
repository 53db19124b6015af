"""Reading photos: their facts into rows, a working copy into the cache."""

from __future__ import annotations

import contextlib
import datetime as dt
import os
import secrets
from collections.abc import Iterable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from django.db import connection
from django.utils import timezone

from server.http.connections import let_go
from server.photos.models import Photo
from server.photos.outlines import keep_curves
from server.project.conf import conf
from tray_core import Limits, PhotoError, TrayError, read_facts
from tray_core.errors import PhotoGone
from tray_core.fingerprint import content_digest
from tray_core.line.preview import WORKING_EDGES, look_at
from tray_core.photo import read_bytes
from tray_core.tone import Development
from tray_core.tracing import Found
from tray_core.words import read_words, sidecar_bytes, sidecar_paths

_LIMITS = Limits(pixels=conf.photo_pixels, bytes=conf.photo_bytes)
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
_READ = (
    *_FACTS,
    *("taken", "modified", "digest", "interest", "subjects", "detail", "copied"),
    *("said", "origin", "unread", "sidecar", "traced"),
    *("state", "reason", "read", "asked", "tries", "reader"),
)
MAX_TRIES = 3
"""How often a photo may take the process with it that reads it."""


def copy_path(digest: str, edge: int, development: Development | None = None) -> Path:
    """Where the working copy of a content lies, whose long edge is `edge`; of camera raw, also as tones want it."""
    how = f"-{'-'.join(map(str, development))}" if development else ""
    return conf.cache / "copies" / digest[:2] / f"{digest}-{edge}{how}"


def copies_of_content(digest: str) -> Iterable[Path]:
    """All working copies that there are of a content."""
    return (conf.cache / "copies" / digest[:2]).glob(f"{digest}-*")


def limits_of(photo: Photo) -> Limits:
    """How large the photo may be, and where it must lie, whenever it is opened."""
    return replace(_LIMITS, beneath=photo.root.folder if photo.root else conf.media)


def _as_utc(moment: dt.datetime | None) -> dt.datetime | None:
    return moment.replace(tzinfo=dt.UTC) if moment else None


def read(photo: Photo) -> None:
    """Read the file anew; what is found goes into the row, with the reason where it cannot be read."""
    file, limits = photo.file, limits_of(photo)
    let_go()
    try:
        check_place(photo)
        data = read_bytes(file, limits)
        photo.bytes = len(data)
        facts = read_facts(file, limits, data)
        for name in _FACTS:
            setattr(photo, name, _storable(name, getattr(facts, name)))
        photo.taken, photo.modified = _as_utc(facts.taken), _as_utc(facts.modified)
        before, photo.digest = photo.digest, content_digest(data)
        photo.sidecar = sidecar_time(file)
        said = read_words(data, facts.format, sidecar_bytes(file, limits.beneath) if photo.sidecar else None)
        photo.said, photo.origin, photo.unread = said.words.to_json(), dict(said.origin), list(said.unread)
        looked = look_at(facts, data)
        photo.interest = looked.interest.across + looked.interest.down
        photo.subjects = [[each.kind, list(each.box)] for each in looked.interest.subjects]
        photo.detail = looked.detail.to_json()
        photo.copied = keep_copies(photo.digest, looked.copies)
        _take_outline(photo, before, looked.found)
        photo.state, photo.reason = Photo.State.READY, ""
    except PhotoGone as error:
        photo.state = Photo.State.GONE
        photo.reason = _storable("reason", f"Expected {error.expected}, found {error.found}. {error.remedy}")
    except TrayError as error:
        photo.state = Photo.State.UNREADABLE
        photo.reason = _storable("reason", f"Expected {error.expected}, found {error.found}. {error.remedy}")
    photo.read = timezone.now()
    photo.asked, photo.tries, photo.reader = None, 0, None
    _store(photo, _READ)


def _take_outline(photo: Photo, before: str, found: Found) -> None:
    """The outline that was found; but one that a person kept stays, to be looked at again where the photo changed."""
    if not photo.outlined:
        traced = keep_curves(photo, found.outline)
        photo.traced = {**traced, "why": list(found.why)} if traced and found.why else traced
    elif photo.traced and before != photo.digest:
        photo.traced = {**photo.traced, "sure": False, "why": ["The photo was changed since."]}


ENDED_ITS_READER = (
    f"Expected a photo that can be read, found one that crashed the reader {MAX_TRIES} times. "
    "It may be damaged or too large for the memory; leave it out or save it anew."
)


def sidecar_time(file: Path) -> dt.datetime | None:
    """When the XMP beside a photo was changed; None where there is none."""
    for beside in sidecar_paths(file):
        try:
            return dt.datetime.fromtimestamp(os.stat(beside).st_mtime, dt.UTC)
        except OSError:
            continue
    return None


def give_up(photo: Photo, reason: str) -> None:
    """Say of a photo that it cannot be read, without trying."""
    photo.state, photo.reason = Photo.State.UNREADABLE, reason
    photo.read = timezone.now()
    photo.asked, photo.tries, photo.reader = None, 0, None
    _store(photo, ("state", "reason", "read", "asked", "tries", "reader"))


def _store(photo: Photo, fields: Iterable[str]) -> None:
    """Write what was found, unless the photo was deleted meanwhile."""
    Photo.objects.filter(pk=photo.pk).update(**{field: getattr(photo, field) for field in fields})


def check_place(photo: Photo) -> None:
    """Raise PhotoError where a link leads out of the photo's root, or around in a circle."""
    try:
        inside = photo.root is None or photo.root.folder in photo.file.resolve().parents
    except (OSError, RuntimeError):
        inside = False
    if not inside:
        assert photo.root is not None
        raise PhotoError(
            photo.name,
            expected=f"a file below {photo.root.name}",
            found="a link that leads out of it, or nowhere",
            remedy="Put the file itself into the folder.",
        )


def _storable(name: str, value: Any) -> Any:
    """A fact as the database takes it: what a file says of itself may be of any length, and hold anything."""
    field = Photo._meta.get_field(name)
    if isinstance(value, str):
        text = value.replace("\0", "").encode("utf-8", "replace").decode()
        return text[: getattr(field, "max_length", None)]
    if isinstance(value, int) and not isinstance(value, bool):
        _, most = connection.ops.integer_field_range(field.get_internal_type())
        return min(value, most)
    return value


def keep_copies(digest: str, copies: Sequence[bytes], development: Development | None = None) -> int:
    """Keep the working copies of a content, one for each of `WORKING_EDGES`; returns their bytes."""
    for edge, copy in zip(WORKING_EDGES, copies, strict=True):
        with contextlib.suppress(OSError):  # of the disk; a copy is made anew when it is wanted
            _keep_copy(copy_path(digest, edge, development), copy)
    return sum(map(len, copies))


def _keep_copy(path: Path, data: bytes) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    part = path.with_name(f".{path.name}.{secrets.token_hex(4)}.part")
    try:
        part.write_bytes(data)
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)


def unchanged(photo: Photo) -> bool:
    """Whether the file still has the time and size that it had when it was read."""
    try:
        info = os.stat(photo.file)
    except OSError:
        return False
    modified = dt.datetime.fromtimestamp(info.st_mtime).replace(tzinfo=dt.UTC)
    return info.st_size == photo.bytes and modified == photo.modified
