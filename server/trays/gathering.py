"""Gathering photos into a tray: from folders, and uploaded."""

from __future__ import annotations

import secrets
from collections.abc import Iterable
from pathlib import Path, PurePath
from typing import Any

from django.core.files.uploadedfile import UploadedFile
from django.db import transaction

from server.http.problems import Problem
from server.live.hub import hint
from server.photos.flows import have_read
from server.photos.models import Photo
from server.photos.written import ours_below
from server.project.conf import conf
from server.studios.confine import below
from server.studios.models import Root
from server.studios.room import check_room
from server.trays.models import Tray, TrayPhoto
from tray_core import find_photos
from tray_core.plan.naming import safe_text


def add_folder(tray: Tray, root: Root, relative: str) -> int:
    """Gather all photos below a folder into the tray; how many were new to it.

    Files behind links that lead out of the root are left out.
    """
    folder = below(root, relative)
    if not folder.is_dir():
        raise Problem(422, "Not a folder", f"{root.name}/{relative}: expected a folder, found a file.")
    top = root.folder
    found: list[str] = []
    ours = ours_below(folder)
    for path, error in find_photos([folder]):
        if path in ours:
            continue
        if error is not None:
            if path == folder:
                raise Problem(422, "The folder cannot be read", str(error))
            continue
        if (inside := path_below(top, path)) is not None:
            found.append(inside)
    with transaction.atomic():
        tray.folders.get_or_create(root=root, path="" if relative in ("", ".") else relative.strip("/"))
        # Somebody wants all of it, also what they took out before.
        tray.taken_out.filter(photo__root=root, photo__path__in=found).delete()
        return gather(tray, root, found)


def readable(path: Path) -> str:
    """A file's name, with a mark for every byte of it that is no text."""
    return path.name.encode(errors="surrogateescape").decode(errors="replace")


def path_below(top: Path, path: Path) -> str | None:
    """The path of a file from `top` on; None where a link leads out of it or nowhere, or where its name is no text."""
    try:
        inside = top in path.resolve().parents
        name = str(path.relative_to(top))
        name.encode()
    except (OSError, RuntimeError, ValueError):
        return None
    return name if inside else None


@transaction.atomic
def promise(tray: Tray, count: int) -> int:
    """The first of `count` places at the end of a tray, for uploads: they keep their order, whatever arrives first."""
    start = Tray.objects.select_for_update(no_key=True).get(pk=tray.pk).end
    Tray.objects.filter(pk=tray.pk).update(end=start + count)
    return start


def gather(tray: Tray, root: Root | None, paths: Iterable[str], place: int | None = None) -> int:
    """Make rows for paths below the root (the media folder for None) and put the photos into the tray.

    place: a promised one, for a single photo. Inside a transaction.
    """
    paths = list(dict.fromkeys(paths))
    Photo.objects.bulk_create(
        (
            Photo(
                studio_id=tray.studio_id,
                root=root,
                path=path,
                name=PurePath(path).name[-255:],
                folder=PurePath(path).parent.name if root else "uploads",
            )
            for path in paths
        ),
        ignore_conflicts=True,
        batch_size=1000,
    )
    photos = {photo.path: photo for photo in Photo.objects.filter(studio_id=tray.studio_id, root=root, path__in=paths)}
    end = Tray.objects.select_for_update(no_key=True).get(pk=tray.pk).end
    here = set(tray.places.filter(photo__in=photos.values()).values_list("photo_id", flat=True))
    new = [photos[path] for path in paths if path in photos and photos[path].pk not in here]
    start = place if place is not None and place < end else promise(tray, len(new))
    TrayPhoto.objects.bulk_create(
        (TrayPhoto(tray=tray, photo=photo, position=start + i) for i, photo in enumerate(new)), batch_size=1000
    )
    # All are read again, known ones too: their files may have changed since.
    have_read(photo.pk for photo in photos.values())
    hint(tray.studio_id, "tray", tray.pk)
    return len(new)


def add_upload(tray: Tray, upload: UploadedFile[Any], relative: str = "", place: int | None = None) -> Photo:
    """Take an uploaded file into the tray. relative: its path in the folder that was dropped. place: a promised one."""
    name = safe_text(PurePath(upload.name or "").name).strip(" .")
    # File systems count bytes; its end keeps the extension.
    name = name.encode()[-200:].decode(errors="ignore") or "untitled"
    if upload.size is not None and upload.size > conf.upload_bytes:
        raise Problem(413, "The file is too large", f"{name}: expected at most {conf.upload_bytes / 1e6:.0f} MB.")
    check_room(tray.studio, upload.size or 0, name)
    folder = Path("uploads") / str(tray.pk) / secrets.token_hex(8)
    (conf.media / folder).mkdir(parents=True)
    path = folder / name
    try:
        with (conf.media / path).open("xb") as file:
            for chunk in upload.chunks():
                file.write(chunk)
    except OSError as error:
        (conf.media / path).unlink(missing_ok=True)
        found = (error.strerror or "an error").lower()
        detail = f"{name}: expected room for it on the server's disk, found {found}. Free some space, then try again."
        raise Problem(507, "The file could not be kept", detail) from error
    with transaction.atomic():
        gather(tray, None, [str(path)], place)
        photo = Photo.objects.get(studio_id=tray.studio_id, root=None, path=str(path))
        photo.bytes = upload.size or 0
        if parent := PurePath(relative).parent.name:
            photo.folder = safe_text(parent)[:255]
        photo.save(update_fields=["bytes", "folder"])
    return photo
