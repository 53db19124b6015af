"""What takes room, the quota, and making room without touching anything else."""

from __future__ import annotations

import datetime as dt
from pathlib import Path
from typing import Any
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from django.db.models import QuerySet
from django.utils import timezone

from server.board import starting
from server.photos.models import Photo
from server.photos.reading import copy_path
from server.runs.models import Run
from server.storage import clearing
from server.studios.models import Studio
from server.tests.cases import StudioCase
from server.trays import flows
from server.trays.models import Tray, TrayPhoto
from tray_core.line.preview import WORKING_EDGES
from tray_core.tests.samples import PHOTOS

SMALL = "mixed/tiny-for-enlarging_640.jpg"


class Room(StudioCase):
    def upload(self, tray: Tray, status: int = 200) -> Any:
        file = SimpleUploadedFile("dropped.jpg", (PHOTOS / SMALL).read_bytes())
        answer = self.client.post(f"/api/trays/{tray.pk}/uploads", {"file": file})
        self.assertEqual(answer.status_code, status, answer.content[:300])
        return answer.json()

    def made(self, tray: Tray) -> list[Path]:  # type: ignore[override]
        run = starting.start_run(tray)
        self.work()
        return [Path(row.path) for row in run.renditions.order_by("pk")]

    def age(self, days: int) -> None:
        Run.objects.update(finished=timezone.now() - dt.timedelta(days=days))

    def clear(self, what: str, **more: Any) -> Any:
        return self.send("post", "storage/clear", {"what": what, **more})

    def test_what_takes_room_is_what_lies_on_the_disk(self) -> None:
        tray = self.tray(self.recipe())
        self.upload(tray)
        self.work()
        (file,) = self.made(tray)
        photo = Photo.objects.get()
        copies = sum(copy_path(photo.digest, edge).stat().st_size for edge in WORKING_EDGES)
        found = self.get("storage")
        self.assertEqual(
            {name: found[name] for name in ("renditions", "uploads", "copies", "ahead")},
            {
                "renditions": file.stat().st_size,
                "uploads": (PHOTOS / SMALL).stat().st_size,
                "copies": copies,
                "ahead": 0,
            },
        )

    def test_old_runs_go_with_the_files_that_are_still_theirs(self) -> None:
        self.copy(SMALL, "shop-stock/QM4_0117.jpg")
        tray = self.tray(self.recipe(), self.recipe("Later", place={"to": "download"}))
        self.work()
        placed, downloaded, changed, _ = sorted(self.made(tray), key=lambda path: (path.stem, path.parent.name))
        changed.write_bytes(b"somebody else's")
        self.age(20)
        self.assertEqual(self.clear("runs", days=30, files=True)["freed"], 0)
        self.assertEqual(self.get("storage?days=20")["old_runs"], 1)
        cleared = self.clear("runs", days=20, files=True)
        self.assertGreater(cleared["freed"], 1000)
        self.assertEqual((cleared["storage"]["renditions"], Run.objects.count()), (0, 0))
        self.assertEqual([path.exists() for path in (placed, downloaded)], [False, False])
        self.assertEqual(changed.read_bytes(), b"somebody else's")
        self.assertEqual({cell["state"] for row in self.rows(tray.pk) for cell in row["cells"]}, {"planned"})
        self.assertEqual(len(list(self.folder.iterdir())), 2)

    def test_files_can_be_left_and_a_run_going_on_stays(self) -> None:
        self.copy(SMALL)
        tray = self.tray(self.recipe(), self.recipe("Later", place={"to": "download"}))
        self.work()
        files = self.made(tray)
        self.age(1)
        going = starting.start_run(tray, again=True)
        self.clear("runs", days=0, files=False)
        self.assertEqual(sorted(path.exists() for path in files), [False, True])
        self.assertEqual(list(Run.objects.all()), [going])
        self.work()
        self.assertEqual(self.states(going), {"made": 2})

    def test_uploads_in_no_tray_go_others_stay(self) -> None:
        tray, other = self.tray(), self.tray(name="Other")
        gone, kept = self.upload(tray), self.upload(other)
        files = [Photo.objects.get(pk=each["id"]).file for each in (gone, kept)]
        self.assertEqual(self.get("storage")["unused"], 0)
        flows.take_out(tray, [gone["id"]])
        cleared = self.clear("uploads")
        self.assertEqual(cleared["freed"], (PHOTOS / SMALL).stat().st_size)
        self.assertEqual([file.exists() for file in files], [False, True])
        self.assertEqual(list(Photo.objects.values_list("pk", flat=True)), [kept["id"]])

    def test_an_upload_that_is_placed_meanwhile_stays_with_its_file(self) -> None:
        tray, found = self.tray(), clearing.unused_uploads
        number = self.upload(tray)["id"]
        file = Photo.objects.get(pk=number).file
        flows.take_out(tray, [number])
        asked = 0

        def unused(studio: Studio) -> QuerySet[Photo]:
            nonlocal asked
            asked += 1
            if asked == 2:  # listed already, and not yet deleted
                TrayPhoto.objects.create(tray=tray, photo_id=number, position=1)
            return found(studio)

        with mock.patch.object(clearing, "unused_uploads", unused):
            self.assertEqual(clearing.clear_uploads(self.studio), 0)
        self.assertGreaterEqual(asked, 2)
        self.assertTrue(file.exists())
        self.assertTrue(Photo.objects.filter(pk=number).exists())

    def test_copies_go_and_come_back_when_wanted(self) -> None:
        self.copy(SMALL)
        tray = self.tray(self.recipe())
        self.work()
        photo = Photo.objects.get()
        self.assertEqual(self.clear("copies")["freed"], photo.copied)
        self.assertFalse(copy_path(photo.digest, WORKING_EDGES[0]).exists())
        self.assertEqual(self.get("storage")["copies"], 0)
        version = tray.recipes.get().current_id
        self.assertEqual(self.client.get(f"/api/pictures/cells/{photo.pk}/{version}").status_code, 200)
        self.assertEqual(self.get("storage")["copies"], photo.copied)

    def test_beyond_the_quota_nothing_is_taken_and_the_way_out_is_said(self) -> None:
        self.copy(SMALL)
        tray = self.tray(self.recipe())
        self.work()
        files = self.made(tray)
        call_command("set_quota", self.studio.name, "0.00001", verbosity=0)
        self.assertIn("Clear what you no longer need", self.upload(tray, status=507)["detail"])
        detail = self.send("post", f"trays/{tray.pk}/runs", {"again": True}, status=507)["detail"]
        self.assertRegex(
            detail, r"A run of Autumn: expected at most 0\.0 kB, .* of the studio's 10\.0 kB, found about \d"
        )
        self.assertEqual((Photo.objects.count(), Run.objects.count(), files[0].exists()), (1, 1, True))
        call_command("set_quota", self.studio.name, "1", verbosity=0)
        self.upload(tray)
        self.send("post", f"trays/{tray.pk}/runs", {"again": True})
        with self.assertRaisesRegex(CommandError, "no such studio. Known: Quillmarsh"):
            call_command("set_quota", "Elsewhere", "1")

    def test_one_studio_clears_its_own_alone(self) -> None:
        self.copy(SMALL)
        tray = self.tray(self.recipe())
        self.work()
        self.made(tray)
        self.age(9)
        other = Studio.objects.create(name="Elsewhere")
        self.user.member.studio = other
        self.user.member.save()
        for what in ("runs", "uploads", "copies"):
            self.assertEqual(self.clear(what, days=0, files=True)["freed"], 0)
        self.assertEqual(sum(value for name, value in self.get("storage").items() if name != "quota"), 0)
        self.assertEqual(Run.objects.count(), 1)
