"""What the server's work costs on a large tray with half of a run made, against a tray of 20 photos."""

from __future__ import annotations

import json
import statistics
import time
from argparse import ArgumentParser
from collections.abc import Callable
from typing import Any
from unittest import mock

from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand
from django.db import connection, transaction
from django.shortcuts import get_object_or_404
from django.test import Client
from django.utils import timezone

from server.board import starting
from server.board.planning import lit
from server.board.sums import learned_weights
from server.framings.models import Framing
from server.runs import tallies
from server.runs.models import Rendition, Run
from server.trays.models import Tray, TrayPhoto

FEW, AT_ONCE = 20, 50
MOST, MOST_SUMS = 2.0, 5.0


class Command(BaseCommand):
    help = "Measure a large tray (make_large_tray) against one of 20 photos; what it makes it takes away again."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("tray", type=int)

    def handle(self, *args: Any, **options: Any) -> None:
        large = get_object_or_404(Tray, pk=options["tray"])
        small = _small(large)
        try:
            few, many = self._measured(small), self._measured(large)
        finally:
            small.delete()
        self.stdout.write(f"{'milliseconds':42}{FEW:>9} photos{large.places.count():>9} photos   ratio")
        for what in few:
            ratio, most = many[what] / few[what], MOST_SUMS if "sums" in what else MOST
            verdict = "" if ratio <= most else f"   at most {most:.0f}: NOT REACHED"
            self.stdout.write(f"{what:42}{few[what]:>16.1f}{many[what]:>16.1f}{ratio:>8.1f}{verdict}")

    def _measured(self, tray: Tray) -> dict[str, float]:
        self.stderr.write(f"starting a run of {tray.name}")
        run = _half_made(tray)
        page = Client(SERVER_NAME="localhost")
        page.force_login(get_user_model().objects.filter(member__studio=tray.studio_id)[0])
        photos = list(tray.places.values_list("photo_id", flat=True))[:FEW]
        recipes = lit(tray)
        cells = [[photo, recipe.pk] for photo in photos for recipe, _ in recipes][:AT_ONCE]
        waiting = iter(run.renditions.filter(state=Rendition.State.WAITING)[:100])

        def ask(path: str, body: Any = None) -> Callable[[], None]:
            def asked() -> None:
                address = f"/api/{path}"
                kind = "application/json"
                answer = page.get(address) if body is None else page.post(address, json.dumps(body), content_type=kind)
                assert answer.status_code == 200, answer.content[:200]

            return asked

        def finish() -> None:
            with transaction.atomic():
                _finish(run, next(waiting))

        def reframe() -> None:
            """Keep a crop, and see what is next."""
            photo, recipe = photos[0], recipes[0][0].pk
            framing = {"name": "close", "x": 0.1, "y": 0.1, "width": 0.5, "height": 0.5}
            keep = json.dumps({"photos": {str(photo): [framing]}})
            assert page.put(f"/api/trays/{tray.pk}/framings", keep, content_type="application/json").status_code == 200
            ask(f"trays/{tray.pk}/asking", {"cells": cells})()
            ask(f"trays/{tray.pk}/bench/{photos[1]}/{recipe}")()

        def changed() -> None:
            finish()
            ask(f"trays/{tray.pk}/overview")()

        ask(f"trays/{tray.pk}/overview")()
        found = {
            "a rendition finished": _median(finish),
            "the list of runs": _median(ask("runs")),
            "a run's page": _median(ask(f"runs/{run.pk}")),
            "learned weights": _median(lambda: learned_weights(recipes)),
            "the board, opened": _median(ask(f"trays/{tray.pk}/board")),
            f"rows of {FEW} photos": _median(ask(f"trays/{tray.pk}/rows", {"photos": photos})),
            f"which of {AT_ONCE} cells need a crop": _median(ask(f"trays/{tray.pk}/asking", {"cells": cells})),
            "keep and next": _median(reframe),
            "the bench": _median(ask(f"trays/{tray.pk}/bench/{cells[0][0]}/{cells[0][1]}")),
            "sums after one change": _median(changed),
        }
        Framing.objects.filter(photo_id=photos[0]).delete()
        run.delete()
        return found


def _small(large: Tray) -> Tray:
    tray = Tray.objects.create(studio=large.studio, name=f"{FEW} photos of it", order=large.order)
    tray.recipes.set(large.recipes.all())
    photos = large.places.values_list("photo_id", flat=True)[:FEW]
    TrayPhoto.objects.bulk_create(TrayPhoto(tray=tray, photo_id=photo, position=i) for i, photo in enumerate(photos))
    return tray


def _half_made(tray: Tray) -> Run:
    with mock.patch.object(starting, "defer_all"):
        run = starting.start_run(tray)
    numbers = list(run.renditions.values_list("pk", flat=True))
    # Of files that are nowhere; whether they are there is looked at elsewhere.
    run.renditions.filter(pk__in=numbers[: len(numbers) // 2]).update(
        state=Rendition.State.KEPT, finished=timezone.now()
    )
    tallies.count_anew(run)
    with connection.cursor() as cursor:
        cursor.execute("ANALYZE runs_rendition")
    return run


def _finish(run: Run, row: Rendition) -> None:
    """What `runs.making` does with each rendition, but for its file."""
    tallies.lock_working(run)
    Rendition.objects.filter(pk=row.pk, fence=row.fence).update(state=Rendition.State.KEPT, finished=timezone.now())
    tallies.move(run, row.recipe_id, "open", Rendition.State.MADE, size=1000)
    tallies.learn([tallies.Weight(row.version_id, row.about, 1000)])
    tallies.finish_if_done(run)


def _median(work: Callable[[], object], rounds: int = 15) -> float:
    spent = []
    for _ in range(rounds):
        start = time.perf_counter()
        work()
        spent.append(time.perf_counter() - start)
    return 1000 * statistics.median(spent)
