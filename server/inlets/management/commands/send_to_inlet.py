"""Copy the pictures of a folder into an inlet, as if a camera had sent them."""

from __future__ import annotations

from argparse import ArgumentParser
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from server.http.problems import Problem
from server.inlets import flows
from server.inlets.models import Inlet
from tray_core.photo.find import EXTENSIONS


def _pieces(path: Path) -> Iterator[bytes]:
    with path.open("rb") as file:
        while piece := file.read(1 << 20):
            yield piece


class Command(BaseCommand):
    help = "Copy pictures into an inlet. What is there already under its name is left alone."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("folder")
        parser.add_argument("--inlet", required=True, help="its name")

    def handle(self, *args: Any, **options: Any) -> None:
        folder = Path(options["folder"]).expanduser()
        if not folder.is_dir():
            raise CommandError(f"{folder}: expected a folder, found nothing there. Check the path.")
        inlet = Inlet.objects.select_related("root", "studio").filter(name=options["inlet"]).first()
        if inlet is None:
            known = ", ".join(Inlet.objects.values_list("name", flat=True)) or "none yet"
            raise CommandError(f"{options['inlet']}: no such inlet. Known: {known}. Make one on the page Inlets.")
        new = there = 0
        for path in sorted(folder.rglob("*")):
            if path.is_file() and path.suffix.lower() in EXTENSIONS and not path.name.startswith("."):
                try:
                    _, fresh = flows.take(inlet, path.name, _pieces(path))
                except Problem as error:
                    raise CommandError(error.detail) from error
                new, there = new + fresh, there + (not fresh)
        self.stdout.write(f"{new} sent to {inlet}, {there} were there already")
