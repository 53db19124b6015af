"""Photos and their folders over time: what is new, changed, taken out, cannot be read now, or has no proper name."""

from __future__ import annotations

import os
import threading
from dataclasses import replace
from unittest import mock

from procrastinate.contrib.django.models import ProcrastinateJob

from server.board import starting
from server.photos import reading
from server.photos.models import Photo
from server.project.conf import conf
from server.queue import patience
from server.runs import making, recovery
from server.tests.cases import StudioCase
from server.trays import flows, gathering, watching
from server.trays.models import Tray
from tray_core import read_facts

ONE, TWO = "shop-stock/QM4_0117.jpg", "shop-stock/QM4_0118.jpg"


class Folders(StudioCase):
    def names(self, tray: Tray) -> list[str]:
        return list(tray.places.values_list("photo__name", flat=True))

    def test_what_was_taken_out_stays_out_until_somebody_wants_it(self) -> None:
        self.copy(ONE, TWO)
        tray = self.tray(self.recipe())
        self.work()
        first = tray.places.first()
        assert first is not None
        taken = flows.take_out(tray, [first.photo_id])
        self.assertEqual(watching.look_again(tray).new, 0)
        self.assertEqual(self.names(tray), ["QM4_0118.jpg"])
        flows.put_back(tray, taken)
        self.assertEqual(self.names(tray), ["QM4_0117.jpg", "QM4_0118.jpg"])
        flows.take_out(tray, [first.photo_id])
        gathering.add_folder(tray, self.root, "")
        self.assertEqual(sorted(self.names(tray)), ["QM4_0117.jpg", "QM4_0118.jpg"])
        self.assertFalse(tray.taken_out.exists())

    def test_odd_names_and_links_stay_out_alone(self) -> None:
        (good,) = self.copy(ONE)
        (self.folder / "ring.jpg").symlink_to(self.folder / "ring.jpg")
        odd = os.fsencode(self.folder) + b"/caf\xe9.jpg"
        with open(odd, "wb") as file:
            file.write(good.read_bytes())
        os.mkfifo(self.folder / "pipe.jpg")
        tray = self.tray(self.recipe())
        self.work()
        self.assertEqual(self.names(tray), [good.name])
        self.copy(TWO)
        seen = watching.look_again(tray)
        self.assertEqual((seen.new, seen.odd), (1, ["caf\ufffd.jpg"]))
        self.work()
        self.assertEqual(set(Photo.objects.values_list("state", flat=True)), {"ready"})

    def test_one_tray_that_cannot_be_looked_at_leaves_the_others_alone(self) -> None:
        self.copy(ONE)
        self.tray(name="Broken")
        other = self.tray(name="Whole")
        self.copy(TWO)
        usual = watching.look_again

        def look(tray: Tray) -> watching.Seen:
            if tray.name == "Broken":
                raise OSError("of the disk")
            return usual(tray)

        with mock.patch.object(watching, "look_again", look), self.assertLogs("server.trays.watching", "ERROR"):
            watching.look_at_fresh_trays()
        self.assertEqual(self.names(other), ["QM4_0117.jpg", "QM4_0118.jpg"])


class Reading(StudioCase):
    def jobs(self) -> int:
        return ProcrastinateJob.objects.filter(task_name="trays.read_photo").count()

    def test_a_photo_has_one_read_job_at_most(self) -> None:
        (path,) = self.copy(ONE)
        tray = self.tray(self.recipe())
        for _ in range(3):
            watching.look_again(tray)
            gathering.add_folder(tray, self.root, "")
        self.assertEqual(self.jobs(), 1)
        self.work()
        path.write_bytes((self.copy(TWO)[0]).read_bytes())
        for _ in range(3):
            watching.look_again(tray)
        self.assertEqual(self.jobs(), 2)  # the one that changed and the one that is new
        self.work()
        self.assertEqual(set(Photo.objects.values_list("state", "asked")), {("ready", None)})

    def test_what_fails_by_no_fault_of_the_photo_is_tried_again(self) -> None:
        """And only then is it part of a run; until then the run says that it left it out."""
        self.copy(ONE, TWO)
        tray = self.tray(self.recipe())
        usual, failed = reading.read_facts, []

        def fails_for_one(path, *rest):  # type: ignore[no-untyped-def]
            if path.name == "QM4_0118.jpg" and len(failed) < 4:
                failed.append(path)
                raise OSError("of something else")
            return usual(path, *rest)

        fails = mock.patch.object(reading, "read_facts", fails_for_one)
        with fails, mock.patch.object(recovery, "LATER", 0), self.assertLogs("procrastinate", "ERROR"):
            self.work()
            run = starting.start_run(tray)
            self.assertEqual([each["name"] for each in run.left_out], ["QM4_0118.jpg"])
            self.assertIn("was not read yet", run.left_out[0]["reason"])
            for _ in range(5):
                recovery.settle()
                self.work()
        self.assertEqual(len(failed), 4)
        self.assertEqual(set(Photo.objects.values_list("state", "tries")), {("ready", 0)})
        self.assertFalse(ProcrastinateJob.objects.exclude(queue_name="system").exists())

    def test_a_job_that_was_lost_is_given_out_again(self) -> None:
        self.copy(ONE)
        self.tray()
        ProcrastinateJob.objects.all().delete()
        with mock.patch.object(recovery, "_looked", -1e9):
            recovery.settle()
        self.work()
        self.assertEqual(Photo.objects.get().state, "ready")

    def test_full_cache_disk(self) -> None:
        """A photo can be made and seen without its small copies, and these are kept once there is room."""
        self.copy(ONE)
        tray = self.tray(self.recipe())
        with mock.patch.object(reading, "_keep_copy", side_effect=OSError(28, "No space left on device")):
            self.work()
            photo = Photo.objects.get()
            self.assertEqual(photo.state, "ready")
            for copy in (960, 320):
                reading.copy_path(photo.digest, copy).unlink(missing_ok=True)
            version = tray.recipes.get().current_id
            cells = {"cells": [{"photo": photo.pk, "version": version}]}
            answer = self.client.post("/api/pictures/cells", cells, content_type="application/json")
            self.assertGreater(len(answer.content), 1000)
            self.assertFalse(reading.copy_path(photo.digest, 320).exists())
        answer = self.client.post("/api/pictures/cells", cells, content_type="application/json")
        self.assertGreater(len(answer.content), 1000)
        self.assertTrue(reading.copy_path(photo.digest, 320).exists())
        none = self.client.post("/api/pictures/cells", {"cells": []}, content_type="application/json")
        self.assertEqual((none.status_code, none.content), (200, b""))

    def test_no_part_of_a_copy_stays_behind(self) -> None:
        target = reading.copy_path("ab" * 32, 320)
        with mock.patch("pathlib.Path.replace", side_effect=OSError(28, "full")), self.assertRaises(OSError):
            reading._keep_copy(target, b"half")
        self.assertEqual([each.name for each in target.parent.iterdir() if each.name.endswith(".part")], [])

    def test_facts_of_any_length_and_kind_can_be_stored(self) -> None:
        self.copy(ONE)
        self.tray()

        def odd(*given):  # type: ignore[no-untyped-def]
            return replace(read_facts(*given), profile="a\0b" + "c" * 300 + "\ud800", depth=40_000)

        with mock.patch.object(reading, "read_facts", odd):
            self.work()
        photo = Photo.objects.get()
        self.assertEqual((photo.state, photo.profile, photo.depth), ("ready", "ab" + "c" * 198, 32_767))

    def test_a_photo_that_ends_its_reader_every_time_is_given_up(self) -> None:
        self.copy(ONE)
        self.tray()
        (job,) = ProcrastinateJob.objects.all()
        gone = 2**22 + 1  # above any process there is
        Photo.objects.update(reader=gone)
        for _ in range(3):
            with mock.patch.object(recovery, "_started_since", return_value=True):
                recovery.count_death(job.pk, "trays.read_photo", {"photo_id": Photo.objects.get().pk})
        self.work()
        photo = Photo.objects.get()
        self.assertEqual((photo.state, photo.asked), ("unreadable", None))
        self.assertIn("crashed the reader 3 times", photo.reason)

    def test_work_without_an_end_ends_with_its_process(self) -> None:
        self.copy(ONE)
        tray = self.tray(self.recipe())
        ended = threading.Event()
        soon = mock.patch.object(patience, "conf", conf.model_copy(update={"job_seconds": 0.2}))
        gone = mock.patch.object(patience.os, "_exit", lambda code: ended.set())

        def hang(*_: object) -> None:
            ended.wait(10)
            raise SystemExit  # as far as anybody else is concerned, the process is gone

        with soon, gone, mock.patch.object(reading, "read", hang), self.assertLogs("procrastinate", "ERROR"):
            self.work()
        photo = Photo.objects.get()
        self.assertEqual((photo.state, photo.asked), ("unreadable", None))
        self.assertIn("found no end of it", photo.reason)
        photo.state = Photo.State.WAITING
        reading.read(photo)
        run = starting.start_run(tray)
        ended.clear()
        hangs = mock.patch.object(making, "make_renditions", lambda *_, **__: iter(hang, None))
        with soon, gone, hangs, self.assertLogs("procrastinate", "ERROR"):
            self.work()
        row = run.renditions.get()
        self.assertEqual((row.state, "found no end of it" in row.error), ("failed", True))
