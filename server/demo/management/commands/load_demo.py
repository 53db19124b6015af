"""Load the demo museum: its studio, recipes and trays. Running it again changes nothing."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand
from django.db import transaction

from server.deliveries.models import Account
from server.outlets import flows as outlet_flows
from server.project.conf import PROJECT, conf
from server.recipes import flows as recipe_flows
from server.studios.invitation import DEMO_USER, demo_password
from server.studios.models import Member, Root, Studio
from server.studios.sealing import seal
from server.trays import flows, gathering
from tray_core import read_recipe_file
from tray_core.outlets import read_outlet_file
from tray_core.recipe.outlet import ForOutlet

STUDIO = "Quillmarsh Clock & Automata Museum"
PHOTOS = "Museum photographs"
TRAYS = (
    ("Autumn rehang", ("autumn-rehang", "shop-stock"), ("Shop",)),
    ("Shop stock", ("shop-stock",), ("Hall banner", "Tallboy", "Journal column")),
    ("Mixed sources", ("mixed", "bench-raw", "broken"), ("Hall banner", "Shop")),
)
"""Name, folders, and the recipes that are not lit for it."""
STAND_IN = ("quillmarsh", "brass-escapement")
"""The stand-in platform's account and its made-up secret."""
AIMS = {"Gridwick": "Post", "Dailyloom": "Post", "Tallboy": "Story"}
"""Recipes that are for an outlet of the same name, and for which use of it."""


class Command(BaseCommand):
    help = "Load the demo museum (idempotent)."

    @transaction.atomic
    def handle(self, *args: Any, **options: Any) -> None:
        studio, _ = Studio.objects.get_or_create(name=STUDIO)
        user, _ = get_user_model().objects.get_or_create(username=DEMO_USER)
        if not user.check_password(demo_password()):
            user.set_password(demo_password())
            user.save()
        Member.objects.get_or_create(user=user, defaults={"studio": studio})
        folder = str(PROJECT / "demo" / "photos")
        root, _ = Root.objects.update_or_create(studio=studio, name=PHOTOS, defaults={"path": folder})
        incoming = conf.var / "incoming"
        incoming.mkdir(exist_ok=True)
        told = {"path": str(incoming), "writable": True}
        Root.objects.update_or_create(studio=studio, name="Incoming", defaults=told)
        sheets = {}
        for path in sorted((PROJECT / "demo" / "outlets").glob("*.json")):
            sheet = sheets[path] = read_outlet_file(path)
            if not studio.outlets.filter(name=sheet.name).exists():
                outlet_flows.create(studio, sheet.to_json())
        uses = {sheet.name: sheet.use(AIMS.get(sheet.name, "")) for sheet in sheets.values()}
        for path in sorted((PROJECT / "demo" / "recipes").glob("*.json")):
            core = read_recipe_file(path)
            if (use := uses.get(core.title)) is not None:
                aim = ForOutlet(outlet=core.title, use=use.use, rules=use.rules)
                core = core.model_copy(update={"outlet": aim})
            if not studio.recipes.filter(title=core.title).exists():
                recipe_flows.create(studio, user, core.to_json())
        for name, kind in (("Dailyloom", "Post"), ("Gridwick", "Post")):
            outlet = studio.outlets.filter(name=name).first()
            settings = {"address": f"http://127.0.0.1:{conf.stand_in_port}", "user": STAND_IN[0]}
            more = {"kind": "platform", "outlet": outlet, "use": kind, "secret": seal(STAND_IN[1])}
            # The stand-in may answer at another port at each start.
            account, made = studio.accounts.get_or_create(
                name=f"{name} (stand-in)", defaults={"settings": settings, **more}
            )
            if not made and account.settings != settings and account.kind == "platform":
                Account.objects.filter(pk=account.pk).update(settings=settings)
        for name, folders, unlit in TRAYS:
            if not studio.trays.filter(name=name).exists():
                tray = flows.create_tray(studio, name)
                flows.light(tray, studio.recipes.exclude(title__in=unlit).values_list("pk", flat=True))
                for each in folders:
                    gathering.add_folder(tray, root, each)
        self.stdout.write(f"{studio}: {studio.recipes.count()} recipes, {studio.trays.count()} trays")
