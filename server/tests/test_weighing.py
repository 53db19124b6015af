"""Cells weighed ahead by idle workers: exact bytes on the board, used by the run, and out of the way of real work."""

from __future__ import annotations

from unittest import mock

from procrastinate.contrib.django import app

from server.board import weighing
from server.runs import ahead
from server.runs.models import Rendition, Weighed
from server.tests.cases import StudioCase
from tray_core import line

NAMES = ("autumn-rehang/2031-10-17_08_dial-detail.jpg", "shop-stock/QM4_0117.jpg")


class Ahead(StudioCase):
    def setUp(self) -> None:
        super().setUp()
        self.copy(*NAMES)
        self.recipes = [
            self.recipe("Large", size={"by": "long-edge", "pixels": 700}),
            self.recipe("Look", size={"by": "long-edge", "pixels": 300}, file={"format": "webp", "looks": 80}),
            self.recipe("Panels", frame={"way": "crop", "shape": "1:1", "panels": {"columns": 2, "rows": 1}}),
        ]
        self.made_of = self.tray(*self.recipes)
        self.work()

    def cells(self) -> dict[tuple[int, int], dict[str, object]]:
        rows = self.rows(self.made_of.pk)
        return {(row["photo"]["id"], cell["recipe"]): cell for row in rows for cell in row["cells"]}

    def weigh(self, cells: list[tuple[int, int]]) -> None:
        self.send("post", f"trays/{self.made_of.pk}/weigh", {"cells": cells}, status=204)

    def test_bytes_become_exact_and_the_run_takes_them(self) -> None:
        before = self.cells()
        self.assertTrue(all(cell["about"] for cell in before.values()))
        self.weigh(list(before))
        self.work()
        after = self.cells()
        self.assertFalse(any(cell["about"] for cell in after.values()))
        self.send("post", f"trays/{self.made_of.pk}/runs", {})
        with mock.patch.object(line.renditions, "coded", side_effect=AssertionError("encoded again")):
            self.work()
        made: dict[tuple[int, int], int] = {}
        for row in Rendition.objects.all():
            self.assertEqual(row.state, Rendition.State.MADE, row.error)
            assert row.receipt is not None
            key = (row.photo_id, row.recipe_id)
            made[key] = made.get(key, 0) + row.receipt["bytes"]
            if row.recipe == self.recipes[1]:
                self.assertIn("a score of", row.receipt["notes"][-1])
        self.assertEqual(made, {key: cell["bytes"] for key, cell in after.items()})

    def test_a_cache_that_was_emptied_does_no_harm(self) -> None:
        self.weigh(list(self.cells()))
        self.work()
        for row in Weighed.objects.all():
            row.file.unlink()
        self.send("post", f"trays/{self.made_of.pk}/runs", {})
        self.work()
        self.assertEqual(set(Rendition.objects.values_list("state", flat=True)), {Rendition.State.MADE})

    def test_real_work_goes_first_and_questions_do_not_pile_up(self) -> None:
        cells = list(self.cells())
        for _ in range(3):
            self.weigh(cells)
        jobs = app.job_manager.list_jobs(task="board.weigh", status="todo")
        self.assertEqual(len(list(jobs)), 1)
        with mock.patch.object(weighing, "busy", return_value=True):
            self.work()
        self.assertEqual(Weighed.objects.count(), 0)

    def test_others_neither_ask_nor_profit(self) -> None:
        cells = list(self.cells())
        self.weigh(cells)
        self.work()
        self.assertEqual(set(Weighed.objects.values_list("studio", flat=True)), {self.studio.pk})
        prints = list(Weighed.objects.values_list("fingerprint", flat=True))
        self.assertEqual(len(ahead.known_bytes(self.studio.pk, prints)), len(prints))
        self.assertEqual(ahead.known_bytes(self.studio.pk + 1, prints), {})

    def test_the_oldest_goes_when_there_is_too_much(self) -> None:
        self.weigh(list(self.cells()))
        with mock.patch.object(ahead, "MOST_BYTES", 100_000):
            self.work()
        kept = Weighed.objects.all()
        self.assertTrue(kept)
        self.assertTrue(all(row.file.exists() for row in kept))
        self.assertLessEqual(sum(row.bytes for row in kept), 100_000)
