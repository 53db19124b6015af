"""Trays: from folders and uploads, read in the background, with reasons for what cannot be read."""

from __future__ import annotations

import errno
import shutil
from concurrent.futures import ThreadPoolExecutor
from typing import Any
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection

from server.board.api import BoardOut, CellOut, PhotoOut
from server.http.problems import Problem
from server.photos.models import Photo
from server.project.conf import conf
from server.studios.confine import below
from server.tests.cases import StudioCase
from server.trays import flows, gathering
from server.trays.models import Tray
from tray_core.tests.samples import PHOTOS


class Places(StudioCase):
    def send_one(self, tray: int, name: str, place: int | None) -> None:
        data = (PHOTOS / "shop-stock/QM4_0117.jpg").read_bytes()
        body: dict[str, Any] = {"file": SimpleUploadedFile(name, data), "path": f"shoot/{name}"}
        if place is not None:
            body["place"] = str(place)
        answer = self.client.post(f"/api/trays/{tray}/uploads", body)
        assert answer.status_code == 200, answer.content
        connection.close()

    def test_parallel_uploads_have_places_of_their_own_in_the_order_of_their_names(self) -> None:
        tray = flows.create_tray(self.studio, "Uploads")
        names = [f"{n:02}.jpg" for n in range(12)]
        start = self.send("post", f"trays/{tray.pk}/promised", {"count": len(names)})["start"]
        # The last one first, several at once, and others without a promised place between them.
        with ThreadPoolExecutor(4) as pool:
            for n in reversed(range(12)):
                pool.submit(self.send_one, tray.pk, names[n], start + n)
                if n % 4 == 0:
                    pool.submit(self.send_one, tray.pk, f"later-{n}.jpg", None)
        found = list(tray.places.order_by("position").values_list("photo__name", "position"))
        self.assertEqual([name for name, _ in found][:12], names)
        self.assertEqual(len({place for _, place in found}), 15)


class FromFolders(StudioCase):
    def test_facts_of_every_kind_and_reasons_for_the_rest(self) -> None:
        shutil.copytree(PHOTOS / "mixed", self.folder / "mixed")
        shutil.copytree(PHOTOS / "broken", self.folder / "broken")
        self.recipe()
        answer = self.send("post", "trays", {"name": "All", "folders": [{"root": self.root.pk, "path": ""}]})
        self.assertEqual(answer["photos"], 16)
        self.assertEqual({row["photo"]["state"] for row in self.rows(answer["id"])}, {"waiting"})
        self.work()
        whole = self.get(f"trays/{answer['id']}/board")
        self.assertEqual(BoardOut.model_validate(whole).model_dump(mode="json").keys(), whole.keys())
        rows = {row["photo"]["name"]: row for row in self.rows(answer["id"])}
        self.assertEqual(set(rows["bench-no-profile.jpg"]["photo"]), set(PhotoOut.model_fields))
        self.assertEqual(set(rows["bench-no-profile.jpg"]["cells"][0]), set(CellOut.model_fields))
        wide = rows["enamel-colours_Rec2020_16bit.tif"]["photo"]
        self.assertEqual((wide["width"], wide["height"], wide["depth"], wide["format"]), (1500, 1000, 16, "TIFF"))
        cut_out = rows["singing-bird_cutout.png"]["photo"]
        self.assertEqual((cut_out["alpha"], cut_out["profile"], cut_out["bytes"]), (True, "sRGB", 1044432))
        self.assertIsNone(rows["bench-no-profile.jpg"]["photo"]["profile"])
        self.assertIn("no color profile", rows["bench-no-profile.jpg"]["cells"][0]["warnings"][0]["text"])
        for name, reason in (
            ("QM4_0132_empty.jpg", "an empty file"),
            ("packing-list_renamed.jpg", "plain text"),
            ("QM4_0131_card-pulled-early.jpg", "end too early"),
        ):
            self.assertEqual((rows[name]["photo"]["state"], rows[name]["cells"]), ("unreadable", []))
            self.assertIn(reason, rows[name]["photo"]["reason"])
        pages = {
            name: rows[name]["photo"]["format"] for name in ("loan-sheet.pdf", "quillmarsh-logo.svg", "clock-label.ora")
        }
        self.assertEqual(list(pages.values()), ["PDF", "SVG", "OpenRaster"])
        for row in rows.values():
            if row["photo"]["state"] == "ready":
                picture = self.client.get(f"/api/pictures/photos/{row['photo']['id']}?d={row['photo']['digest']}")
                self.assertEqual(picture.status_code, 200)
                self.assertIn("immutable", picture["Cache-Control"])

    def test_a_photo_is_one_photo_in_all_trays(self) -> None:
        self.copy("shop-stock/QM4_0117.jpg")
        self.recipe()
        one, two = self.tray(name="One"), self.tray(name="Two")
        self.assertEqual(Photo.objects.count(), 1)
        self.assertEqual(gathering.add_folder(one, self.root, ""), 0)
        self.assertEqual([tray.places.count() for tray in (one, two)], [1, 1])

    def test_folders_can_be_looked_through(self) -> None:
        self.copy("shop-stock/QM4_0117.jpg", folder="a/b")
        self.copy("shop-stock/QM4_0118.jpg", folder="a")
        listing = self.get(f"roots/{self.root.pk}/folders?path=a")
        self.assertEqual(listing["photos"], 2, "with those below it")
        self.assertEqual(listing["folders"], [{"name": "b", "path": "a/b", "photos": 1, "folders": 0}])

    def test_a_tray_made_while_they_are_listed(self) -> None:
        self.copy("autumn-rehang/2031-10-17_08_dial-detail.jpg")
        self.tray(name="First")
        late: list[Tray] = []

        def slow(execute: Any, sql: str, *rest: Any) -> Any:
            answer = execute(sql, *rest)
            if not late and "COUNT" in sql:
                late.append(Tray(studio=self.studio, name="Late"))
                late[0].save()
            return answer

        with connection.execute_wrapper(slow):
            listed = {tray["name"]: (tray["photos"], tray["folders"]) for tray in self.get("trays")}
        self.assertEqual(listed, {"First": (1, 1), "Late": (0, 0)})

    def test_a_folder_that_vanished_leaves_no_tray_behind(self) -> None:
        body = {"name": "Gone", "folders": [{"root": self.root.pk, "path": "gone"}]}
        problem = self.send("post", "trays", body, status=404)
        self.assertIn("Photographs/gone: nothing there", problem["detail"])
        self.assertEqual(self.get("trays"), [])

    def test_a_photo_that_vanished_while_waiting(self) -> None:
        (path,) = self.copy("shop-stock/QM4_0117.jpg")
        tray = self.tray(self.recipe())
        path.unlink()
        self.work()
        photo = self.rows(tray.pk)[0]["photo"]
        self.assertEqual(photo["state"], "gone")
        self.assertIn("no such file", photo["reason"])


class Confined(StudioCase):
    def test_paths_out_of_the_root(self) -> None:
        (self.folder / "in").mkdir()
        (self.folder / "way-out").symlink_to("/etc")
        self.assertEqual(below(self.root, "in"), self.folder / "in")
        for path in ("..", "in/../..", "/etc", "way-out", "way-out/apt", "gone", "a\0b"):
            with self.subTest(path), self.assertRaises(Problem) as caught:
                below(self.root, path)
            self.assertEqual(caught.exception.status, 404)
        self.assertEqual(self.get(f"roots/{self.root.pk}/folders?path=../..", status=404)["title"], "Not there")

    def test_links_to_files_elsewhere_are_not_taken(self) -> None:
        (self.folder / "mine.jpg").symlink_to(PHOTOS / "shop-stock" / "QM4_0117.jpg")
        self.assertEqual(self.tray(self.recipe()).places.count(), 0)

    def test_a_file_that_became_a_link_is_not_read(self) -> None:
        (path,) = self.copy("shop-stock/QM4_0117.jpg")
        self.tray(self.recipe())
        path.unlink()
        path.symlink_to(PHOTOS / "shop-stock" / "QM4_0118.jpg")
        self.work()
        self.assertIn("a link that leads out of it", Photo.objects.get().reason)


class Uploaded(StudioCase):
    def upload(self, tray: int, name: str, data: bytes, status: int = 200, **more: str) -> dict[str, object]:
        body = {"file": SimpleUploadedFile(name, data), **more}
        answer = self.client.post(f"/api/trays/{tray}/uploads", body)
        self.assertEqual(answer.status_code, status, answer.content[:300])
        found: dict[str, object] = answer.json()
        return found

    def test_uploads_are_read_like_the_others(self) -> None:
        recipe = self.recipe()
        tray = self.send("post", "trays", {"name": "Dropped"})["id"]
        data = (PHOTOS / "shop-stock" / "QM4_0123.jpg").read_bytes()
        first = self.upload(tray, "QM4_0123.jpg", data, path="shoot/QM4_0123.jpg")
        self.upload(tray, "../../evil\n.jpg", b"text", path="../../x/evil.jpg")
        self.work()
        rows = self.rows(tray)
        self.assertEqual(rows[0]["photo"]["id"], first["id"])
        self.assertEqual((rows[0]["photo"]["folder"], rows[0]["photo"]["height"]), ("shoot", 2396))
        self.assertEqual(rows[0]["cells"][0]["recipe"], recipe.pk)
        self.assertEqual(rows[1]["photo"]["state"], "unreadable")
        for photo in Photo.objects.all():
            self.assertIn(conf.media.resolve(), photo.file.resolve().parents)

    def test_a_full_disk_is_told_and_leaves_nothing(self) -> None:
        tray = self.send("post", "trays", {"name": "Dropped"})["id"]
        full = OSError(errno.ENOSPC, "No space left on device")
        with mock.patch("django.core.files.uploadedfile.InMemoryUploadedFile.chunks", side_effect=full):
            problem = self.upload(tray, "a.jpg", b"x", status=507)
        self.assertIn("a.jpg: expected room for it", str(problem["detail"]))
        self.assertEqual((Photo.objects.count(), list(conf.media.rglob("a.jpg"))), (0, []))

    def test_same_name_twice_is_two_photos(self) -> None:
        tray = self.send("post", "trays", {"name": "Dropped"})["id"]
        data = (PHOTOS / "mixed" / "tiny-for-enlarging_640.jpg").read_bytes()
        self.upload(tray, "a.jpg", data)
        self.upload(tray, "a.jpg", data)
        self.assertEqual(self.get("trays")[0]["photos"], 2)


class Cells(StudioCase):
    def test_including_and_lighting(self) -> None:
        self.copy("shop-stock/QM4_0117.jpg", "shop-stock/QM4_0118.jpg")
        one, two = self.recipe("One"), self.recipe("Two")
        tray = self.tray(one, two)
        self.work()
        photos = [row["photo"]["id"] for row in self.rows(tray.pk)]
        cells = [[photos[0], one.pk], [photos[1], two.pk], [photos[1], 9999], [9999, one.pk]]
        self.send("post", f"trays/{tray.pk}/include", {"cells": cells, "included": False})
        states = [[cell["state"] for cell in row["cells"]] for row in self.rows(tray.pk)]
        self.assertEqual(states, [["excluded", "planned"], ["planned", "excluded"]])
        self.send("post", f"trays/{tray.pk}/include", {"cells": cells, "included": True})
        self.send("put", f"trays/{tray.pk}/recipes", {"recipes": [two.pk]}, status=204)
        board = self.get(f"trays/{tray.pk}/board")
        self.assertEqual([recipe["title"] for recipe in board["recipes"]], ["Two"])
        self.assertEqual([cell["state"] for row in self.rows(tray.pk) for cell in row["cells"]], ["planned"] * 2)
