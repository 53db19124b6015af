"""Add a person to a studio; the studio is made where there is none of that name."""

from __future__ import annotations

import getpass
import os
import sys
from argparse import ArgumentParser
from typing import Any

from django.contrib.auth import get_user_model
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError
from django.db import transaction

from server.studios.models import Member, Studio


class Command(BaseCommand):
    help = "Add a person; the password is asked for, or taken from UPPER_TRAY_PASSWORD."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("studio")
        parser.add_argument("name")

    @transaction.atomic
    def handle(self, *args: Any, **options: Any) -> None:
        password = os.environ.get("UPPER_TRAY_PASSWORD") or self._asked()
        user, _ = get_user_model().objects.get_or_create(username=options["name"])
        try:
            validate_password(password, user)
        except ValidationError as error:
            raise CommandError("; ".join(error.messages)) from error
        user.set_password(password)
        user.save()
        studio, _ = Studio.objects.get_or_create(name=options["studio"])
        Member.objects.update_or_create(user=user, defaults={"studio": studio})
        self.stdout.write(f"{options['name']} belongs to {studio}")

    def _asked(self) -> str:
        if not sys.stdin.isatty():
            raise CommandError(
                "Expected a password, found no terminal to ask for one. Set UPPER_TRAY_PASSWORD for this command."
            )
        return getpass.getpass("Password: ")
