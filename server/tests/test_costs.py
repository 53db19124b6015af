"""What one page, one crop or one rendition asks the database does not grow with the tray, its runs, or the trays."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.db import connection, transaction
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from server.board import starting
from server.board.planning import lit
from server.framings import flows as framings
from server.runs import tallies
from server.runs.models import Run
from server.tests.cases import StudioCase
from server.trays import flows
from tray_core.plan import Framing


class Costs(StudioCase):
    def asked(self, work: Callable[[], Any]) -> int:
        """How many questions it takes, once what is kept in memory is there."""
        work()
        with CaptureQueriesContext(connection) as questions:
            work()
        return len(questions)

    def read(self, work: Callable[[], Any]) -> int:
        """How many rows of renditions it reads, where PostgreSQL does as it would with many of them."""
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("SET LOCAL enable_seqscan = off")

            def so_far() -> int:
                cursor.execute(
                    "SELECT coalesce(seq_tup_read, 0) + coalesce(idx_tup_fetch, 0) FROM pg_stat_xact_user_tables "
                    "WHERE relname = 'runs_rendition'"
                )
                return int(cursor.fetchone()[0])

            before = so_far()
            work()
            return so_far() - before

    def costs(self, count: int) -> dict[str, int]:
        """Questions by what was done, with a tray of so many photos, half of a run made."""
        recipes = [self.recipe(f"Square {count}", frame={"way": "crop", "shape": "1:1", "anchor": "ask"})]
        recipes += [self.recipe(f"Page {n} {count}") for n in range(3)]
        tray = flows.create_tray(self.studio, f"Of {count}")
        flows.light(tray, [recipe.pk for recipe in recipes])
        photos = self.read_already(tray, [f"{tray.pk}/{n}.jpg" for n in range(count)])
        run = starting.start_run(tray)
        first, recipe = photos[:5], recipes[0].pk
        self.get(f"trays/{tray.pk}/overview")
        drawn = iter(range(1, 100))

        def keep() -> None:
            size = 0.5 - next(drawn) / 1000
            body = {"photos": {str(first[0]): [{"name": "close", "x": 0.1, "y": 0.1, "width": size, "height": size}]}}
            self.send("put", f"trays/{tray.pk}/framings", body)

        def change() -> None:
            framings.keep(self.studio, {first[1]: [Framing(name="a", x=0, y=0, width=0.3, height=0.001 * next(drawn))]})
            self.get(f"trays/{tray.pk}/overview")

        waiting = iter(run.renditions.filter(state="waiting"))

        def finish() -> None:
            row = next(waiting)
            with transaction.atomic():
                tallies.lock([run.pk])
                type(row).objects.filter(pk=row.pk).update(state="kept")
                tallies.move(run, row.recipe_id, "open", "kept")
                tallies.finish_if_done(run)

        def page() -> None:
            self.get(f"runs/{run.pk}")

        self.rows_read[count] = [self.read(page), self.read(lambda: self.get("runs"))]
        Run.objects.filter(pk=run.pk).update(finished=timezone.now())
        self.rows_read[count].append(self.read(page))
        Run.objects.filter(pk=run.pk).update(finished=None)
        cells = [[photo, recipe.pk] for photo in first for recipe, _ in lit(tray)]
        return {
            "board": self.asked(lambda: self.get(f"trays/{tray.pk}/board")),
            "rows": self.asked(lambda: self.send("post", f"trays/{tray.pk}/rows", {"photos": first})),
            "sums": self.asked(lambda: self.get(f"trays/{tray.pk}/overview")),
            "sums after a change": self.asked(change),
            "what needs a crop": self.asked(lambda: self.get(f"trays/{tray.pk}/eye")),
            "which still need one": self.asked(lambda: self.send("post", f"trays/{tray.pk}/asking", {"cells": cells})),
            "bench": self.asked(lambda: self.get(f"trays/{tray.pk}/bench/{first[2]}/{recipe}")),
            "a crop kept": self.asked(keep),
            "names of a cell": self.asked(lambda: self.get(f"trays/{tray.pk}/names/{first[0]}/{recipe}")),
            "runs": self.asked(lambda: self.get("runs")),
            "a run": self.asked(lambda: self.get(f"runs/{run.pk}")),
            "receipts": self.asked(lambda: self.get(f"runs/{run.pk}/renditions")),
            "a rendition finished": self.asked(finish),
            "trays": self.asked(lambda: self.get("trays")),
            "recipes": self.asked(lambda: self.get("recipes")),
        }

    def test_questions_stay_as_many(self) -> None:
        self.rows_read: dict[int, list[int]] = {}
        few, many = self.costs(12), self.costs(150)
        self.assertEqual(self.rows_read[12], self.rows_read[150])
        for _ in range(3):
            Run.objects.create(studio=self.studio, tray_name="another")
        self.assertEqual(few, many)
        self.assertLessEqual(max(few.values()), 30, few)
