"""Outlines of photos: found when they are read, kept by version, waited for, followed by what is cut out."""

from __future__ import annotations

from typing import Any
from unittest import mock

import numpy as np
from PIL import Image

from bench.accuracy.objects import drawn, ring
from server.photos import reading
from server.photos.models import Outline, Photo
from server.runs.models import Rendition, Run
from server.tests.cases import TrayCase
from tray_core.tests.samples import jpeg, scene

SQUARE = {"paths": [[{"at": [x, y]} for x, y in ((0.3, 0.3), (0.7, 0.3), (0.7, 0.7), (0.3, 0.7))]]}


class Outlines(TrayCase):
    def setUp(self) -> None:
        super().setUp()
        disc, _ = drawn([(ring(450, 350, 210), (150, 40, 30))], (900, 700))
        edge, _ = drawn([(ring(80, 350, 210), (150, 40, 30))], (900, 700))
        for name, pixels in (("disc", disc), ("edge", edge), ("scene", scene(900, 600))):
            (self.folder / f"{name}.jpg").write_bytes(jpeg(pixels, 95))
        self.tray_ = self.tray(
            self.recipe("Object", cutout={"ground": "clear"}, file={"format": "png"}, size=None, sharpen=None)
        )
        self.work()
        self.disc, self.edge, self.scene = Photo.objects.order_by("name")

    def keep(self, photo: Photo, outline: dict[str, Any], version: int | None = None, status: int = 200) -> Any:
        return self.send(
            "put", "outlines", {"edits": [{"photo": photo.pk, "outline": outline, "version": version}]}, status
        )

    def cells(self) -> list[str]:
        rows = self.send("post", "rows", {"photos": [self.disc.pk, self.edge.pk, self.scene.pk]})
        return [cell["state"] for row in rows for cell in row["cells"]]

    def test_what_is_found_is_cut_out_and_the_rest_waits(self) -> None:
        self.assertEqual(self.cells(), ["planned", "outline", "outline"])
        told = self.send("get", f"outline/{self.disc.pk}")
        self.assertEqual((told["version"], told["waiting"], told["next"], told["why"]), (0, 2, self.edge.pk, []))
        self.assertIn("reaches the picture's edge", self.send("get", f"outline/{self.edge.pk}")["why"][0])
        self.send("post", "runs", {})
        self.work()
        run = Run.objects.get()
        self.assertEqual(self.states(run), {"made": 1, "asking": 2})
        self.assertEqual(set(run.renditions.filter(state="asking").values_list("question", flat=True)), {"outline"})
        (row,) = self.made(run)
        alpha = np.asarray(Image.open(row.path))[..., 3] / 255
        self.assertAlmostEqual(float(alpha.sum()) / (np.pi * 210**2), 1, delta=0.01)
        questions = self.client.get("/api/questions").json()
        self.assertEqual(questions["counts"]["outline"], 2)
        # Looked at, drawn: the run goes on by itself.
        self.keep(self.edge, self.send("get", f"outline/{self.edge.pk}")["outline"] | {"sure": True}, 0)
        self.keep(self.scene, SQUARE, 0)
        self.assertEqual(self.cells(), ["done", "waiting", "waiting"])
        self.work()
        self.assertEqual(self.states(run), {"made": 3})
        square = np.asarray(Image.open(run.renditions.get(photo=self.scene).path))[..., 3] / 255
        self.assertAlmostEqual(float(square.mean()), 0.16, delta=0.001)

    def test_an_outline_of_another_version_is_not_written_over(self) -> None:
        self.keep(self.disc, SQUARE, 0)
        self.assertEqual(self.keep(self.disc, {}, 0, status=409)["title"], "Somebody else changed it")
        wrong = self.keep(self.disc, {"paths": [[{"at": [0.1, 9]}, {"at": [0, 0]}]]}, 1, status=422)
        self.assertEqual(wrong["fields"][0]["field"], "outline.paths.0.0.at.1")
        undone = self.keep(self.disc, {}, 1)["edits"][0]
        self.assertEqual((undone["outline"]["paths"], undone["version"]), (SQUARE["paths"], 2))
        self.assertEqual(self.cells()[0], "outline")
        self.keep(self.disc, undone["outline"], 2)
        self.assertEqual(self.cells()[0], "planned")
        self.assertEqual(self.disc.outlines.count(), 2)

    def test_another_outline_makes_what_was_made_out_of_date_and_runs_keep_theirs(self) -> None:
        self.send("post", "runs", {"areas": [{"photos": [self.disc.pk]}]})
        row = Rendition.objects.get(photo=self.disc)
        pinned = row.outline["digest"]
        self.keep(self.disc, SQUARE, 0)
        self.work()
        row.refresh_from_db()
        self.assertEqual((row.state, row.outline["digest"]), ("made", pinned))
        alpha = np.asarray(Image.open(row.path))[..., 3] / 255
        self.assertAlmostEqual(float(alpha.sum()) / (np.pi * 210**2), 1, delta=0.01)
        self.assertEqual(self.cells()[0], "outdated")

    def test_what_a_person_kept_outlives_a_change_of_the_photo_and_asks_again(self) -> None:
        self.keep(self.disc, SQUARE, 0)
        moved, _ = drawn([(ring(400, 300, 180), (40, 40, 130))], (900, 700))
        (self.folder / "disc.jpg").write_bytes(jpeg(moved, 95))
        self.disc.refresh_from_db()
        reading.read(self.disc)
        self.disc.refresh_from_db()
        self.assertFalse(self.disc.traced["sure"])
        self.assertEqual(self.send("get", f"outline/{self.disc.pk}")["why"], ["The photo was changed since."])
        found = self.send("post", f"outline/{self.disc.pk}/found", {})
        self.assertTrue(found["outline"]["paths"])
        self.assertEqual(found["why"], [])

    def test_pictures_cells_and_looks_follow_the_outline(self) -> None:
        picture = self.send("get", f"outline/{self.disc.pk}/picture")
        self.assertEqual(picture[:3], b"\xff\xd8\xff")
        recipe = self.tray_.recipes.get()
        rows = self.send("post", "rows", {"photos": [self.disc.pk]})
        cell = rows[0]["cells"][0]
        data = self.client.get(f"/api/pictures/cells/{self.disc.pk}/{cell['version']}?edge=300&k={cell['key']}")
        (self.folder / "cell.png").write_bytes(data.content)
        alpha = np.asarray(Image.open(self.folder / "cell.png"))[..., 3] / 255
        self.assertAlmostEqual(float(alpha.mean()), np.pi * 210**2 / (900 * 700), delta=0.005)
        closer = self.send("post", f"closer/{self.disc.pk}/{recipe.pk}", {})
        self.assertEqual((closer["width"], closer["height"]), (900, 700))

    def test_a_photo_deleted_while_it_is_read_leaves_nothing(self) -> None:
        photo = Photo.objects.get(pk=self.disc.pk)
        Photo.objects.filter(pk=photo.pk).update(asked=None)
        with mock.patch.object(reading, "_store"):
            reading.read(photo)
        self.assertEqual(Outline.objects.filter(photo=photo).count(), 1)
