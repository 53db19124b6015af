"""Make a large tray out of photos that are there, to measure the board with."""

from __future__ import annotations

import itertools
import os
import shutil
from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError
from django.db import transaction

from server.photos.models import Photo
from server.project.conf import conf
from server.studios.models import Root, Studio
from server.trays import flows
from server.trays.models import Tray, TrayPhoto

_COPIED = (
    *("format", "width", "height", "orientation", "depth", "mode", "alpha", "profile", "bytes", "taken"),
    *("modified", "bad_profile", "ends_early", "digest", "interest", "subjects", "detail", "read", "state"),
)
_IN_FOLDER = 500


class Command(BaseCommand):
    help = "Make a tray of many photos: links to the studio's own, read already, with its recipes lit."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--photos", type=int, default=10_000)
        parser.add_argument("--recipes", type=int, default=8)
        parser.add_argument("--name", default="Large tray")

    @transaction.atomic
    def handle(self, *args: Any, **options: Any) -> None:
        studio = Studio.objects.filter(photos__state=Photo.State.READY).order_by("pk").first()
        if studio is None:
            raise CommandError("Expected photos that are read, found none. Start ./upper-tray demo first.")
        sources = list(studio.photos.filter(state=Photo.State.READY).select_related("root").order_by("pk")[:40])
        name = str(options["name"])
        folder = conf.var / "large" / name
        folder.mkdir(parents=True, exist_ok=True)
        root, _ = Root.objects.get_or_create(studio=studio, name=name, defaults={"path": str(folder)})
        photos = []
        for number, source in zip(range(int(options["photos"])), itertools.cycle(sources), strict=False):
            path = f"shelf-{number // _IN_FOLDER:03}/{number:05}-{source.name}"
            _link(source.file, folder / path)
            values = {field: getattr(source, field) for field in _COPIED}
            values |= {"name": Path(path).name, "folder": Path(path).parent.name}
            photos.append(Photo(studio=studio, root=root, path=path, **values))
        Photo.objects.bulk_create(photos, ignore_conflicts=True, batch_size=1000)
        tray = flows.create_tray(studio, name)
        flows.light(tray, studio.recipes.filter(archived=False).values_list("pk", flat=True)[: int(options["recipes"])])
        found = studio.photos.filter(root=root).order_by("path").values_list("pk", flat=True)[: int(options["photos"])]
        rows = (TrayPhoto(tray=tray, photo_id=photo, position=place) for place, photo in enumerate(found))
        TrayPhoto.objects.bulk_create(rows, batch_size=1000)
        Tray.objects.filter(pk=tray.pk).update(end=len(found))
        self.stdout.write(f"/trays/{tray.pk}: {tray.places.count()} photos x {tray.recipes.count()} recipes")


def _link(source: Path, target: Path) -> None:
    """The same file under another name; a copy where the file system cannot."""
    target.parent.mkdir(parents=True, exist_ok=True)
    if target.exists():
        return
    try:
        os.link(source, target)
    except OSError:
        shutil.copy2(source, target)
