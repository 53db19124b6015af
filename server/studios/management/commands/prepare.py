"""Everything between a started database and a started server, in one process: starting is to be quick."""

from __future__ import annotations

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand

from server.project.conf import conf
from server.studios.invitation import invite


class Command(BaseCommand):
    help = "Migrate, load the demo where it is on, check the settings."

    def handle(self, *args: Any, **options: Any) -> None:
        # Here only: an output folder that is gone later, with its drive, is not made anew without a word.
        conf.output_root.mkdir(parents=True, exist_ok=True)
        call_command("migrate", verbosity=0)
        if conf.demo:
            call_command("load_demo", stdout=self.stdout)
            invite()
        self.check(display_num_errors=False, databases=["default"])
