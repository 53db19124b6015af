"""A worker killed in the middle of its work: nothing lost, nothing doubled, no half file."""

from __future__ import annotations

import asyncio
import os
import signal
import threading
from pathlib import Path
from unittest import mock

from django.db import connection
from procrastinate.contrib.django.models import ProcrastinateJob
from procrastinate.exceptions import ConnectorException

from server.board import starting
from server.queue import outage
from server.queue.deferring import READ, defer_all
from server.runs import making, recovery, tallies
from server.runs.models import Rendition, Run
from server.runs.recovery import orphans
from server.tests.cases import StudioCase
from server.trays.tasks import read_photo

SHOP = ["QM4_0117.jpg", "QM4_0118.jpg", "QM4_0121.jpg", "QM4_0123.jpg", "QM4_0126.jpg"]


class Killed(StudioCase):
    def test_kill_9_in_the_middle(self) -> None:
        self.copy("autumn-rehang/2031-10-16_06_clock-tower-dusk.jpg", *(f"shop-stock/{name}" for name in SHOP))
        sizes = (2000, 1500, 1000, 500, 250)
        recipes = [self.recipe(f"Edge {edge}", size={"by": "long-edge", "pixels": edge}) for edge in sizes]
        tray = self.tray(*recipes)
        self.work()
        run = starting.start_run(tray)
        first = self.worker("make")

        def in_the_middle() -> bool:
            """Some renditions of a photo are made while others of the same photo are not."""
            half = run.renditions.filter(state="making", photo__renditions__state="made", photo__renditions__run=run)
            return half.exists()

        self.wait_for(in_the_middle)
        os.kill(first.pid, signal.SIGKILL)
        first.wait()
        left = set(run.renditions.filter(state="making").values_list("photo_id", flat=True))
        self.assertEqual(len(left), 1)
        self.worker("make")
        self.worker("system")
        photo = left.pop()
        self.wait_for(lambda: not run.renditions.filter(photo_id=photo, state__in=Rendition.OPEN).exists())
        self.wait_for(lambda: not run.renditions.filter(state__in=Rendition.OPEN).exists())
        self.assertEqual(self.states(run), {"made": 30})
        files = [path for path in self.output.rglob("*") if path.is_file()]
        self.assertEqual({str(path) for path in files}, {row.path for row in self.made(run)})
        self.assertEqual(len(files), 30)
        for row in self.made(run):
            self.assertEqual(row.path.rsplit("/", 1)[1], row.name)
            self.assertEqual(row.receipt["bytes"], Path(row.path).stat().st_size)
        self.wait_for(lambda: run.__class__.objects.get(pk=run.pk).finished)
        self.assertEqual(set(run.renditions.filter(photo_id=photo).values_list("tries", flat=True)), {0, 1})

    def test_killed_between_the_file_and_its_row(self) -> None:
        """The file is there and claimed, the row does not know: the second try takes the same path."""
        self.copy("shop-stock/QM4_0117.jpg")
        tray = self.tray(self.recipe())
        self.work()
        run = starting.start_run(tray)
        self.work()
        run.renditions.update(state="making", receipt=None, finished=None)
        type(run).objects.update(finished=None)
        tallies.count_anew(run)
        self.assertEqual(orphans(), [(run.pk, run.renditions.get().photo_id)])
        self.worker("make")
        self.worker("system")
        self.wait_for(lambda: run.renditions.filter(state="made").exists())
        self.assertEqual([path.name for path in (self.output / "Journal").iterdir()], ["QM4_0117.jpg"])

    def test_a_photo_that_ends_its_worker_every_time_fails_in_the_end(self) -> None:
        self.copy("shop-stock/QM4_0117.jpg")
        tray = self.tray(self.recipe())
        self.work()
        run = starting.start_run(tray)
        run.renditions.update(tries=3, state="making")
        self.work()
        row = run.renditions.get()
        self.assertEqual(row.state, "failed")
        self.assertIn("crashed the renderer 3 times", row.error)

    def test_a_worker_that_was_only_quiet_doubles_nothing(self) -> None:
        """It goes on where it stood after others have done its work: what it makes is discarded, nobody is blamed."""
        self.copy("autumn-rehang/2031-10-16_06_clock-tower-dusk.jpg", *(f"shop-stock/{name}" for name in SHOP))
        recipes = [self.recipe(f"Edge {edge}", size={"by": "long-edge", "pixels": edge}) for edge in (2000, 1500, 1000)]
        tray = self.tray(*recipes)
        self.work()
        run = starting.start_run(tray)
        soon = {"UPPER_TRAY_STALLED_SECONDS": "2", "UPPER_TRAY_HEARTBEAT_SECONDS": "0.4"}
        first = self.worker("make", **soon)
        self.wait_for(lambda: run.renditions.filter(state="making").exists())
        os.kill(first.pid, signal.SIGSTOP)
        self.worker("make", **soon)
        self.worker("system", **soon)
        self.wait_for(lambda: type(run).objects.get(pk=run.pk).finished)
        os.kill(first.pid, signal.SIGCONT)
        first.terminate()  # it ends when it is through with its photo
        first.wait(30)
        self.assertEqual(self.states(run), {"made": 18})
        files = {str(path) for path in self.output.rglob("*") if path.is_file()}
        self.assertEqual(files, {row.path for row in self.made(run)})
        self.assertEqual(run.renditions.exclude(tries=0).count(), 0)
        for row in self.made(run):
            self.assertEqual(row.path.rsplit("/", 1)[1], row.name)

    def test_errors_are_no_deaths(self) -> None:
        self.copy("shop-stock/QM4_0117.jpg")
        tray = self.tray(self.recipe())
        self.work()
        run = starting.start_run(tray)
        with mock.patch.object(recovery, "LATER", 0):
            fails = mock.patch.object(making, "make_renditions", side_effect=OSError("of something else"))
            with fails, self.assertLogs("procrastinate", "ERROR"):
                for _ in range(5):
                    self.work()
                    recovery.settle()
            self.work()
        self.assertEqual(list(run.renditions.values_list("state", "tries")), [("made", 0)])

    def test_a_job_that_fails_while_the_database_is_away_ends_once_it_is_back(self) -> None:
        away = iter([ConnectorException, ConnectorException])
        asked: list[str] = []

        async def execute_query_one_async(query: str) -> dict[str, int]:
            asked.append(query)
            if (error := next(away, None)) is not None:
                raise error
            return {"one": 1}

        async def fails() -> None:
            raise OSError("the server closed the connection")

        worker = mock.Mock()
        worker.app.connector.execute_query_one_async = execute_query_one_async
        with mock.patch.object(outage, "PAUSE", 0), self.assertRaisesRegex(OSError, "closed the connection"):
            asyncio.run(outage.wait_for_the_database(fails, mock.Mock(), worker))
        self.assertEqual(len(asked), 3)

    def test_the_last_two_photos_end_their_run_together(self) -> None:
        self.copy("shop-stock/QM4_0117.jpg", "shop-stock/QM4_0118.jpg")
        tray = self.tray(self.recipe())
        self.work()
        photos = list(tray.places.values_list("photo_id", flat=True))
        unended = 0
        for _ in range(20):
            run = starting.start_run(tray)
            both = threading.Barrier(2)

            def end(photo: int, run: Run = run, both: threading.Barrier = both) -> None:
                _, rows = making._take(run.pk, photo)
                both.wait()
                making._close(run, rows, Rendition.State.FAILED)
                connection.close()

            threads = [threading.Thread(target=end, args=[photo]) for photo in photos]
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
            unended += Run.objects.get(pk=run.pk).finished is None
        self.assertEqual(unended, 0)

    def test_a_run_that_is_done_is_ended(self) -> None:
        self.copy("shop-stock/QM4_0117.jpg")
        tray = self.tray(self.recipe())
        self.work()
        run = starting.start_run(tray)
        self.work()
        Run.objects.update(finished=None)
        recovery.settle()
        self.assertIsNotNone(Run.objects.get(pk=run.pk).finished)

    def test_rows_and_jobs_come_together_or_not_at_all(self) -> None:
        self.copy("shop-stock/QM4_0117.jpg")
        tray = self.tray(self.recipe())
        self.work()
        from django.db import transaction

        try:
            with transaction.atomic():
                starting.start_run(tray)
                self.assertEqual(ProcrastinateJob.objects.filter(task_name="runs.make_photo").count(), 1)
                raise InterruptedError
        except InterruptedError:
            pass
        self.assertEqual(ProcrastinateJob.objects.filter(task_name="runs.make_photo").count(), 0)
        self.assertEqual(Rendition.objects.count(), 0)


class Fair(StudioCase):
    def test_a_few_do_not_wait_behind_thousands(self) -> None:
        """Photos of a studio that comes later are read before the tail of one that came with many, and made before."""
        order: list[int] = []

        def note(photo_id: int) -> None:
            order.append(photo_id)

        defer_all(READ, ({"photo_id": number} for number in range(1000)))
        defer_all(READ, ({"photo_id": number} for number in (5001, 5002)))
        with mock.patch.object(read_photo, "func", note):
            self.work()
        self.assertEqual(sorted(order), [*range(1000), 5001, 5002])
        self.assertLess(order.index(5002), 40)
        self.assertEqual([number for number in order if number < 5000], list(range(1000)))
