"""Let a studio make trays from a folder of this machine."""

from __future__ import annotations

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from server.studios.models import Root, Studio


class Command(BaseCommand):
    help = "Register a folder that trays may be made from."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("studio")
        parser.add_argument("name", help="what people see, for example 'Card reader'")
        parser.add_argument("path")
        parser.add_argument("--writable", action="store_true", help="renditions may be put beside its photos")

    def handle(self, *args: Any, **options: Any) -> None:
        folder = Path(options["path"]).resolve()
        if not folder.is_dir():
            raise CommandError(f"{folder}: expected a folder, found nothing there. Check the path.")
        studio = Studio.objects.filter(name=options["studio"]).first()
        if studio is None:
            known = ", ".join(Studio.objects.values_list("name", flat=True)) or "none yet"
            raise CommandError(f"{options['studio']}: no such studio. Known: {known}. Make one with add_person.")
        told = {"path": str(folder), "writable": options["writable"]}
        Root.objects.update_or_create(studio=studio, name=options["name"], defaults=told)
        may = "read and put renditions into" if options["writable"] else "read"
        self.stdout.write(f"{studio} may {may} {folder} as {options['name']}")
