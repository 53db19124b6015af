"""Whatever ends or stops in the middle: nothing is lost, doubled, partial or stuck, and no healthy photo is blamed."""

from __future__ import annotations

import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from unittest import mock, skipUnless

from django.db import connection

from server.board import starting
from server.photos.models import Photo
from server.project.conf import PROJECT, conf
from server.runs.models import Rendition, Run
from server.tests.cases import StudioCase
from server.tests.wire import Wire
from server.trays.models import Tray
from tray_core.tests.samples import PHOTOS

KILLS = int(os.environ.get("KILLS", "6"))
"""Of workers in one run; fifty take two minutes."""

PICTURES = ("autumn-rehang/2031-10-17_08_dial-detail.jpg", "mixed/enamel-colours_P3.jpg", "mixed/bench-no-profile.jpg")
"""On no plain ground: no outline is looked for, which would be most of their reading."""

SOON = {"UPPER_TRAY_STALLED_SECONDS": "2", "UPPER_TRAY_HEARTBEAT_SECONDS": "0.4"}


class Faults(StudioCase):
    def many(self, count: int, edges: tuple[int, ...], **stations: object) -> Tray:
        """A tray of photos under names of their own."""
        for number in range(count):
            shutil.copy(PHOTOS / PICTURES[number % len(PICTURES)], self.folder / f"clock-{number:03}.jpg")
        recipes = [self.recipe(f"Edge {edge}", size={"by": "long-edge", "pixels": edge}, **stations) for edge in edges]
        return self.tray(*recipes)

    def whole(self, run: Run, count: int, output: Path | None = None) -> None:
        """All is made, once, under the name that it was given, and nothing else lies there."""
        self.assertEqual(self.states(run), {"made": count}, list(run.renditions.values_list("error", flat=True)))
        files = {str(path) for path in (output or conf.output_root).rglob("*") if path.is_file()}
        made = self.made(run)
        self.assertEqual(files, {row.path for row in made})
        for row in made:
            self.assertEqual(Path(row.path).name, row.name)
            self.assertEqual(Path(row.path).stat().st_size, row.receipt["bytes"])
        run.refresh_from_db()
        self.assertIsNotNone(run.finished)
        tallies = [(tally.open, tally.asking, tally.failed, tally.stopped) for tally in run.tallies.all()]
        self.assertEqual(set(tallies), {(0, 0, 0, 0)})


class Kills(Faults):
    def test_workers_killed_again_and_again(self) -> None:
        photos = max(12, KILLS)
        tray = self.many(photos, (2000, 1400, 900))
        self.work()
        run = starting.start_run(tray)
        chance = random.Random(1)
        workers = [self.worker("make", **SOON) for _ in range(2)]
        self.worker("system", **SOON)
        hit: dict[int, int] = {}
        killed = 0
        while killed < KILLS:
            at = dict(run.renditions.filter(state="making").values_list("maker", "photo_id"))
            # A photo whose worker dies three times is given up, and rightly: that is another test.
            wanted = [each for each in workers if hit.get(at.get(each.pid, 0), 0) < 2 and each.pid in at]
            if not wanted:
                if not run.renditions.filter(state__in=Rendition.OPEN).exists():
                    break
                time.sleep(0.02)
                continue
            time.sleep(chance.random() * 0.2)
            victim = chance.choice(wanted)
            at = dict(run.renditions.filter(state="making").values_list("maker", "photo_id"))
            photo = at.get(victim.pid, 0)
            if hit.get(photo, 0) >= 2:
                continue
            os.kill(victim.pid, signal.SIGKILL)
            victim.wait()
            hit[photo] = hit.get(photo, 0) + 1
            killed += 1
            workers[workers.index(victim)] = self.worker("make", **SOON)
        self.wait_for(lambda: not run.renditions.filter(state__in=Rendition.OPEN).exists())
        self.wait_for(lambda: Run.objects.get(pk=run.pk).finished)
        self.assertEqual(killed, KILLS)
        self.whole(run, photos * 3)


class Outage(Faults):
    def setUp(self) -> None:
        super().setUp()
        self.wire = Wire()
        self.addCleanup(self.wire.close)
        environment = {
            **os.environ,
            **SOON,
            "UPPER_TRAY_DATABASE": connection.settings_dict["NAME"],
            "UPPER_TRAY_DATABASE_PORT": str(self.wire.port),
        }
        command = [sys.executable, "-m", "server.project.supervise", "--port", "0", "--workers", "2"]
        product = subprocess.Popen(command, cwd=PROJECT, env=environment, stdout=self.log, stderr=self.log)
        self.addCleanup(product.wait)
        self.addCleanup(product.terminate)

    def out_for(self, seconds: float) -> None:
        """The database is away for a while."""
        self.wire.cut()
        time.sleep(seconds)
        self.wire.mend()

    def test_the_database_stops_while_photos_are_read(self) -> None:
        self.many(12, (300,))
        read = Photo.objects.filter(state="ready")
        self.wait_for(lambda: read.count() >= 3)
        self.assertLess(read.count(), 12, "all were read before anything could happen")
        self.out_for(2)
        self.wait_for(lambda: read.count() == 12)
        # What was read twice, since nobody knew of the first time, is over soon as well.
        self.wait_for(lambda: set(Photo.objects.values_list("state", "asked")) == {("ready", None)})
        self.assertEqual(set(Photo.objects.values_list("reason", "tries")), {("", 0)})

    def test_the_database_stops_while_renditions_are_made(self) -> None:
        tray = self.many(16, (2000, 1400, 900))
        self.wait_for(lambda: not Photo.objects.exclude(state="ready").exists())
        run = starting.start_run(tray)
        for made in (5, 20):
            self.wait_for(lambda: run.renditions.filter(state="made").count() >= made)  # noqa: B023  # asked at once
            self.assertTrue(run.renditions.filter(state__in=Rendition.OPEN).exists())
            self.out_for(1.5)
        self.wait_for(lambda: Run.objects.get(pk=run.pk).finished)
        self.whole(run, 48)


@skipUnless(os.geteuid() == 0, "a small disk can be made by root alone")
class FullDisks(Faults):
    def small_disk(self, size: str) -> Path:
        folder = Path(tempfile.mkdtemp())
        self.addCleanup(folder.rmdir)
        mounted = subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={size}", "none", folder], capture_output=True)
        if mounted.returncode:
            self.skipTest("no small disk can be made here")
        self.addCleanup(subprocess.run, ["umount", "-l", folder], check=True)
        return folder

    def test_output(self) -> None:
        """What has no room says so and leaves nothing behind; it is made once there is some."""
        disk = self.small_disk("300k")
        tray = self.many(6, (900, 600))
        self.work()
        small = conf.model_copy(update={"output": disk})
        with mock.patch("server.runs.making.conf", small), mock.patch("server.runs.places.conf", small):
            run = starting.start_run(tray)
            self.work()
            states = self.states(run)
            self.assertEqual(set(states), {"made", "failed"}, states)
            for row in run.renditions.filter(state="failed"):
                self.assertIn("found a full disk", row.error)
                self.assertNotIn(str(disk), row.error)
            files = {path for path in disk.rglob("*") if path.is_file()}
            self.assertEqual({str(path) for path in files}, {row.path for row in self.made(run)})
            subprocess.run(["mount", "-o", "remount,size=20m", disk], check=True)
            again = starting.start_run(tray)
            self.work()
            self.assertEqual(self.states(again), {"made": states["failed"]})
        self.assertEqual(len([path for path in disk.rglob("*") if path.is_file()]), 12)

    def test_cache(self) -> None:
        """Photos are read all the same; their pictures are drawn again when there is room."""
        disk = self.small_disk("200k")
        with mock.patch("server.photos.reading.conf", conf.model_copy(update={"var": disk})):
            tray = self.many(8, (300,))
            self.work()
            self.assertEqual(set(Photo.objects.values_list("state", flat=True)), {"ready"})
            self.assertEqual(list(disk.rglob("*.part")), [])
            version = self.get(f"trays/{tray.pk}/board")["recipes"][0]["version_id"]
            cells = [{"photo": photo.pk, "version": version} for photo in Photo.objects.all()]
            answer = self.client.post("/api/pictures/cells", {"cells": cells}, content_type="application/json")
            self.assertEqual(answer.status_code, 200)
            subprocess.run(["mount", "-o", "remount,size=50m", disk], check=True)
            for photo in Photo.objects.all():
                self.assertEqual(self.client.get(f"/api/pictures/photos/{photo.pk}").status_code, 200)

    def test_media(self) -> None:
        """Renditions for download that have no room fail alone."""
        disk = self.small_disk("120k")
        tray = self.many(4, (900,), place={"to": "download", "subfolder": "", "taken": "new-name"})
        self.work()
        with mock.patch("server.runs.models.conf", conf.model_copy(update={"var": disk})):
            run = starting.start_run(tray)
            self.work()
            states = self.states(run)
            self.assertIn("failed", states)
            self.assertEqual(sum(states.values()), 4)
            self.assertTrue(Run.objects.get(pk=run.pk).finished)
            files = {str(path) for path in disk.rglob("*") if path.is_file()}
            self.assertEqual(files, {row.path for row in self.made(run)})
