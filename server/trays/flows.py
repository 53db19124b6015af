"""What is done with trays and photos."""

from __future__ import annotations

import secrets
from collections.abc import Iterable
from pathlib import Path, PurePath
from typing import Any

from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.utils import timezone

from server.conf import conf
from server.jobs import READ, defer_all
from server.live.hub import hint
from server.problems import Problem
from server.studios.confine import below
from server.studios.models import Root, Studio
from server.trays.models import Exclusion, Photo, TakenOut, Tray, TrayPhoto
from tray_core import find_photos
from tray_core.plan.naming import safe_text


@transaction.atomic
def create_tray(studio: Studio, name: str) -> Tray:
    """An empty tray; the recipes that were lit last are lit again, or all where there was no tray yet."""
    name = name.strip()[:120]
    if not name:
        raise Problem(422, "The tray has no name", "name: expected a name, found nothing. Type one.")
    last = studio.trays.order_by("-seen").first()
    recipes = last.recipes.filter(archived=False) if last else studio.recipes.filter(archived=False)
    tray = Tray.objects.create(studio=studio, name=name, order=last.order if last else [])
    tray.recipes.set(recipes)
    hint(studio.pk, "tray", tray.pk)
    return tray


def add_folder(tray: Tray, root: Root, relative: str) -> int:
    """Gather all photos below a folder into the tray; how many were new to it.

    Files behind links that lead out of the root are left out.
    """
    folder = below(root, relative)
    if not folder.is_dir():
        raise Problem(422, "Not a folder", f"{root.name}/{relative}: expected a folder, found a file.")
    top = root.folder
    found: list[str] = []
    for path, error in find_photos([folder]):
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


def have_read(photos: Iterable[int]) -> None:
    """Have photos read, but for those that will be anyway. Inside a transaction."""
    waiting = Photo.objects.select_for_update().filter(pk__in=list(photos), asked=None).order_by("pk")
    fresh = list(waiting.values_list("pk", flat=True))
    Photo.objects.filter(pk__in=fresh).update(asked=timezone.now())
    defer_all(READ, ({"photo_id": photo} for photo in fresh))


def add_upload(tray: Tray, upload: UploadedFile[Any], relative: str = "", place: int | None = None) -> Photo:
    """Take an uploaded file into the tray. relative: its path in the folder that was dropped. place: a promised one."""
    name = safe_text(PurePath(upload.name or "").name).strip(" .")
    # File systems count bytes; its end keeps the extension.
    name = name.encode()[-200:].decode(errors="ignore") or "untitled"
    if upload.size is not None and upload.size > conf.upload_bytes:
        raise Problem(413, "The file is too large", f"{name}: expected at most {conf.upload_bytes / 1e6:.0f} MB.")
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
        parent = PurePath(relative).parent.name
        if parent:
            photo.folder = safe_text(parent)[:255]
            photo.save(update_fields=["folder"])
    return photo


@transaction.atomic
def include(tray: Tray, cells: Iterable[tuple[int, int]], included: bool) -> None:
    """Take cells (photo, recipe) into what is made, or leave them out."""
    photos = set(tray.places.values_list("photo_id", flat=True))
    recipes = set(tray.recipes.values_list("pk", flat=True))
    wanted = [(photo, recipe) for photo, recipe in cells if photo in photos and recipe in recipes]
    if included:
        by_recipe: dict[int, list[int]] = {}
        for photo, recipe in wanted:
            by_recipe.setdefault(recipe, []).append(photo)
        for recipe, found in by_recipe.items():
            tray.exclusions.filter(recipe_id=recipe, photo_id__in=found).delete()
    else:
        rows = (Exclusion(tray=tray, photo_id=photo, recipe_id=recipe) for photo, recipe in wanted)
        Exclusion.objects.bulk_create(rows, ignore_conflicts=True, batch_size=2000)
    hint(tray.studio_id, "tray", tray.pk)


@transaction.atomic
def light(tray: Tray, recipes: Iterable[int]) -> None:
    """Light exactly these recipes for the tray, in this order."""
    order = list(dict.fromkeys(recipes))
    tray.recipes.set(tray.studio.recipes.filter(pk__in=order, archived=False))
    tray.order = order
    tray.save(update_fields=["order"])
    hint(tray.studio_id, "tray", tray.pk)


@transaction.atomic
def change_tray(tray: Tray, name: str | None = None, archived: bool | None = None) -> None:
    """Rename a tray, put it away or bring it back; nothing that was made of it is touched."""
    if name is not None:
        if not name.strip():
            raise Problem(422, "The tray has no name", "name: expected a name, found nothing. Type one.")
        tray.name = name.strip()[:120]
    if archived is not None:
        tray.archived = archived
    tray.save(update_fields=["name", "archived"])
    hint(tray.studio_id, "tray", tray.pk)


@transaction.atomic
def take_out(tray: Tray, photos: Iterable[int]) -> list[tuple[int, int]]:
    """Take photos out of a tray; their files and what was made of them stay. Returns (photo, place) to put back."""
    places = tray.places.filter(photo_id__in=list(photos))
    found = list(places.values_list("photo_id", "position"))
    places.delete()
    TakenOut.objects.bulk_create(
        (TakenOut(tray=tray, photo_id=photo) for photo, _ in found), ignore_conflicts=True, batch_size=1000
    )
    hint(tray.studio_id, "tray", tray.pk)
    return found


@transaction.atomic
def put_back(tray: Tray, places: list[tuple[int, int]]) -> None:
    """Undo `take_out`."""
    known = set(tray.studio.photos.filter(pk__in=[photo for photo, _ in places]).values_list("pk", flat=True))
    rows = (TrayPhoto(tray=tray, photo_id=photo, position=place) for photo, place in places if photo in known)
    TrayPhoto.objects.bulk_create(rows, ignore_conflicts=True, batch_size=1000)
    tray.taken_out.filter(photo_id__in=known).delete()
    hint(tray.studio_id, "tray", tray.pk)
