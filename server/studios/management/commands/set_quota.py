"""Say how much a studio may keep on the server's disk."""

from __future__ import annotations

from argparse import ArgumentParser
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from server.studios.models import Studio


class Command(BaseCommand):
    help = "Set how many gigabytes a studio's uploads, renditions and copies may take."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("studio")
        parser.add_argument("gigabytes", type=float)

    def handle(self, *args: Any, **options: Any) -> None:
        if not 0 < options["gigabytes"] <= 1_000_000:
            raise CommandError(f"{options['gigabytes']}: expected gigabytes above 0, for example 200.")
        if not Studio.objects.filter(name=options["studio"]).update(quota=int(options["gigabytes"] * 1e9)):
            known = ", ".join(Studio.objects.values_list("name", flat=True)) or "none yet"
            raise CommandError(f"{options['studio']}: no such studio. Known: {known}.")
        if options["verbosity"]:
            self.stdout.write(f"{options['studio']} may keep {options['gigabytes']:g} GB")
