"""Runs: planned is made, made once, kept with receipts, stopped, packed."""

from __future__ import annotations

import asyncio
import csv
import io
import json
import math
import os
import shutil
import time
import zipfile
from pathlib import Path
from typing import Any

from PIL import Image

from server.board import starting
from server.http.problems import Problem
from server.photos.models import Photo
from server.project.conf import conf
from server.recipes import flows as recipe_flows
from server.runs.models import Rendition
from server.tests.cases import StudioCase
from tray_core.tests.samples import PHOTOS

PNG = {"format": "png"}
DOWNLOAD = {"to": "download", "subfolder": "", "taken": "new-name"}


def whole(answer: Any) -> bytes:
    """All of an answer that comes in pieces."""

    async def gather() -> bytes:
        return b"".join([piece async for piece in answer.streaming_content])

    return asyncio.run(gather())


class Making(StudioCase):
    def test_a_whole_run_from_the_board_to_the_zip(self) -> None:
        self.copy(
            "shop-stock/QM4_0117.jpg", "mixed/enamel-colours_P3.jpg", "mixed/singing-bird_cutout.png", folder="in"
        )
        self.copy("broken/QM4_0132_empty.jpg", folder="in")
        tray = self.tray(self.recipe("Journal"), self.recipe("Proof", file=PNG, place=DOWNLOAD))
        self.work()
        board = self.rows(tray.pk)
        run = self.send("post", f"trays/{tray.pk}/runs", {})
        self.assertEqual((run["counts"]["total"], run["counts"]["open"], run["seconds_left"]), (6, 6, None))
        self.assertEqual(self.rows(tray.pk)[1]["cells"], [])  # the empty file
        self.work()
        done = self.get(f"runs/{run['id']}")
        self.assertEqual((done["counts"]["made"], done["counts"]["open"]), (6, 0))
        self.assertIsNotNone(done["finished"])
        self.assertEqual([recipe["made"] for recipe in done["recipes"]], [3, 3])
        self.assertEqual([photo["name"] for photo in done["left_out"]], ["QM4_0132_empty.jpg"])
        planned = {cell["name"]: cell for row in board for cell in row["cells"]}
        renditions = self.get(f"runs/{run['id']}/renditions")["renditions"]
        self.assertEqual({row["name"] for row in renditions}, set(planned))
        for row in renditions:
            receipt, plan = row["receipt"], planned[row["name"]]
            self.assertEqual((receipt["width"], receipt["height"]), (plan["width"], plan["height"]))
            self.assertEqual((receipt["profile"], receipt["differences"]), ("sRGB", []))
            answer = self.client.get(f"/api/renditions/{row['id']}/file?download=true")
            data = whole(answer)
            self.assertEqual(len(data), receipt["bytes"])
            self.assertIn("attachment", answer["Content-Disposition"])
            with Image.open(io.BytesIO(data)) as image:
                self.assertEqual(image.size, (plan["width"], plan["height"]))
        self.assertTrue((self.output / "Journal" / "QM4_0117.jpg").exists())
        self._check_zip(run["id"])
        states = [[cell["state"] for cell in row["cells"]] for row in self.rows(tray.pk)]
        self.assertEqual(states, [["done"] * 2, [], ["done"] * 2, ["done"] * 2])

    def _check_zip(self, run: int) -> None:
        answer = self.client.get(f"/api/runs/{run}/zip")
        data = whole(answer)
        self.assertEqual(len(data), int(answer["Content-Length"]))
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            self.assertIsNone(archive.testzip())
            about = json.loads(archive.read("manifest.json"))
            table = list(csv.DictReader(io.StringIO(archive.read("manifest.csv").decode("utf-8-sig"))))
            names = set(archive.namelist()) - {"manifest.csv", "manifest.json", "index.html"}
            self.assertEqual({line["file"] for line in about["files"]}, names)
            self.assertEqual({line["file"] for line in table}, names)
            self.assertIn("Proof/enamel-colours_P3.png", names)
            self.assertIn("Journal/enamel-colours_P3.jpg", names)
            for line in table:
                with Image.open(io.BytesIO(archive.read(line["file"]))) as image:
                    self.assertEqual(image.size, (int(line["width"]), int(line["height"])))

    def test_made_once_and_again_only_where_something_changed(self) -> None:
        self.copy("shop-stock/QM4_0117.jpg", "shop-stock/QM4_0118.jpg")
        recipe = self.recipe()
        tray = self.tray(recipe)
        self.work()
        first = starting.start_run(tray)
        self.work()
        with self.assertRaises(Problem) as caught:
            starting.start_run(tray)
        self.assertEqual((caught.exception.status, caught.exception.title), (409, "Nothing to make"))
        content = {**recipe.current.content, "file": {"format": "jpeg", "quality": 40}}  # type: ignore[union-attr]
        recipe_flows.change(recipe, self.user, content)
        self.assertEqual(self.rows(tray.pk)[0]["cells"][0]["state"], "outdated")
        second = starting.start_run(tray)
        self.work()
        self.assertEqual(self.states(second), {"made": 2})
        versions = [self.made(run)[0].version.number for run in (first, second)]
        self.assertEqual(versions, [1, 2])
        files = sorted(path.name for path in (self.output / "Journal").iterdir())
        self.assertEqual(files, ["QM4_0117-2.jpg", "QM4_0117.jpg", "QM4_0118-2.jpg", "QM4_0118.jpg"])

    def test_pressing_twice_makes_nothing_twice(self) -> None:
        self.copy("shop-stock/QM4_0117.jpg")
        tray = self.tray(self.recipe())
        self.work()
        self.send("post", f"trays/{tray.pk}/runs", {})
        self.send("post", f"trays/{tray.pk}/runs", {}, status=409)

    def test_only_what_was_chosen(self) -> None:
        self.copy("shop-stock/QM4_0117.jpg", "shop-stock/QM4_0118.jpg")
        recipe = self.recipe()
        tray = self.tray(recipe)
        self.work()
        photo = tray.places.first().photo_id  # type: ignore[union-attr]
        run = self.send("post", f"trays/{tray.pk}/runs", {"cells": [[photo, recipe.pk]]})
        self.assertEqual(run["counts"]["total"], 1)

    def test_taken_names(self) -> None:
        self.copy("shop-stock/QM4_0117.jpg")
        (self.output / "QM4_0117.jpg").write_bytes(b"somebody's")
        for taken, state in (("keep", "kept"), ("new-name", "made"), ("replace", "made")):
            recipe = self.recipe(taken, place={"to": "output", "subfolder": "", "taken": taken})
            tray = self.tray(recipe, name=taken)
            self.work()
            run = starting.start_run(tray)
            self.work()
            self.assertEqual(self.states(run), {state: 1}, taken)
            theirs = (self.output / "QM4_0117.jpg").read_bytes() == b"somebody's"
            self.assertEqual(theirs, taken != "replace")


class Failing(StudioCase):
    def test_bad_files_fail_alone_with_their_reason(self) -> None:
        good, gone, hurt, other = self.copy(
            "shop-stock/QM4_0117.jpg", "shop-stock/QM4_0118.jpg", "shop-stock/QM4_0121.jpg", "shop-stock/QM4_0123.jpg"
        )
        tray = self.tray(self.recipe())
        self.work()
        run = starting.start_run(tray)
        gone.unlink()
        hurt.write_bytes(hurt.read_bytes()[:90_000])
        other.write_bytes((PHOTOS / "autumn-rehang" / "2031-10-15_03_gallery-wall-panorama.jpg").read_bytes())
        self.work()
        found = {row.photo.name: row for row in run.renditions.select_related("photo")}
        self.assertEqual(found[good.name].state, "made")
        self.assertIn("no such file", found[gone.name].error)
        self.assertIn("end too early", found[hurt.name].error)
        self.assertIn("the photo that was planned for, 1916 × 2396", found[other.name].error)
        self.assertEqual(sorted(path.name for path in (self.output / "Journal").iterdir()), [good.name])
        for row in found.values():
            self.assertNotIn(str(self.folder), row.error)

    def test_originals_are_out_of_reach(self) -> None:
        """A link below the output root that leads to the originals is not followed."""
        (path,) = self.copy("shop-stock/QM4_0117.jpg")
        before = path.read_bytes()
        (self.output / "site").symlink_to(self.folder)
        tray = self.tray(self.recipe(place={"to": "output", "subfolder": "site", "taken": "replace"}))
        self.work()
        run = starting.start_run(tray)
        self.work()
        self.assertEqual(self.states(run), {"failed": 1})
        self.assertIn("a link out of it", run.renditions.get().error)
        self.assertEqual(path.read_bytes(), before)
        self.assertEqual(list(self.folder.iterdir()), [path])

    def test_output_folder_that_cannot_be_made(self) -> None:
        self.copy("shop-stock/QM4_0117.jpg")
        (self.output / "blocked").write_bytes(b"a file")
        tray = self.tray(self.recipe(place={"to": "output", "subfolder": "blocked/x", "taken": "keep"}))
        self.work()
        run = starting.start_run(tray)
        self.work()
        self.assertRegex(run.renditions.get().error, "blocked/x: expected a folder that can be made, found not a dir")

    def test_a_finished_file_that_was_deleted(self) -> None:
        self.copy("shop-stock/QM4_0117.jpg")
        tray = self.tray(self.recipe())
        self.work()
        run = starting.start_run(tray)
        self.work()
        (row,) = self.made(run)
        Path(row.path).unlink()
        self.assertIn("found nothing there", self.get(f"renditions/{row.pk}/file", status=410)["detail"])
        archive = whole(self.client.get(f"/api/runs/{run.pk}/zip"))
        self.assertEqual(
            zipfile.ZipFile(io.BytesIO(archive)).namelist(), ["manifest.csv", "MISSING.txt", "manifest.json"]
        )


class Lost(StudioCase):
    def test_states_follow_the_disk_and_what_is_missing_is_made(self) -> None:
        self.copy("shop-stock/QM4_0117.jpg", "shop-stock/QM4_0118.jpg", "shop-stock/QM4_0121.jpg")
        tray = self.tray(self.recipe(place={"to": "output", "subfolder": "", "taken": "replace"}))
        self.work()
        run = starting.start_run(tray)
        self.work()
        gone, changed, kept = self.made(run)
        Path(gone.path).unlink()
        Path(changed.path).write_bytes(b"x" * changed.receipt["bytes"])
        os.utime(changed.path, (time.time() + 60, time.time() + 60))
        copied = Path(kept.path).read_bytes()
        Path(kept.path).unlink()
        Path(kept.path).write_bytes(copied)  # as from a backup: another file, the same bytes
        cells = {row["photo"]["name"]: row["cells"][0] for row in self.rows(tray.pk)}
        said = {name: (cell["state"], [each["label"] for each in cell["warnings"]]) for name, cell in cells.items()}
        self.assertEqual(said[gone.photo.name], ("outdated", ["file gone"]))
        self.assertEqual(said[changed.photo.name], ("outdated", ["file changed"]))
        self.assertEqual(said[kept.photo.name], ("done", []))
        self.assertEqual(self.get(f"trays/{tray.pk}/overview")["to_make"], 2)
        self.get(f"renditions/{changed.pk}/file", status=410)
        listed = self.get(f"runs/{run.pk}/renditions")["renditions"]
        self.assertEqual(self.get(f"runs/{run.pk}")["lost"], 2)
        self.assertEqual({each["photo_name"]: each["lost"] for each in listed}[gone.photo.name], "gone")
        archive = zipfile.ZipFile(io.BytesIO(whole(self.client.get(f"/api/runs/{run.pk}/zip"))))
        self.assertEqual(archive.namelist()[0], kept.name)
        self.assertIn(f"{gone.name} is gone", archive.read("MISSING.txt").decode())
        again = starting.start_run(tray)
        self.work()
        self.assertEqual({row.photo_id for row in self.made(again)}, {gone.photo_id, changed.photo_id})
        self.assertEqual([row["cells"][0]["state"] for row in self.rows(tray.pk)], ["done"] * 3)

    def test_an_output_folder_that_is_gone_is_not_made_anew(self) -> None:
        """Its drive may be away: the renditions would lie below it, unseen, once it is back."""
        self.copy("shop-stock/QM4_0117.jpg")
        tray = self.tray(self.recipe())
        self.work()
        run = starting.start_run(tray)
        shutil.rmtree(conf.output_root)
        self.work()
        self.assertIn("Is its drive connected?", run.renditions.get().error)
        self.assertFalse(conf.output_root.exists())


class Stopping(StudioCase):
    def test_what_waits_is_not_made(self) -> None:
        self.copy("shop-stock/QM4_0117.jpg", "shop-stock/QM4_0118.jpg")
        tray = self.tray(self.recipe("One"), self.recipe("Two"))
        self.work()
        run = starting.start_run(tray)
        self.send("post", f"runs/{run.pk}/stop")
        self.work()
        run.refresh_from_db()
        self.assertEqual(self.states(run), {"stopped": 4})
        self.assertIsNotNone(run.finished)
        self.assertEqual(Rendition.objects.exclude(path="").count(), 0)
        states = [cell["state"] for row in self.rows(tray.pk) for cell in row["cells"]]
        self.assertEqual(states, ["planned"] * 4)


class Forecasts(StudioCase):
    def test_near_before_anything_is_made_and_nearer_after(self) -> None:
        self.copy("autumn-rehang/2031-10-14_01_repair-bench.jpg", "autumn-rehang/2031-10-16_06_clock-tower-dusk.jpg")
        self.copy("shop-stock/QM4_0117.jpg")
        recipe = self.recipe(
            "Feed", size={"by": "long-edge", "pixels": 1080}, file={"format": "webp"}, sharpen={"strength": 100}
        )
        tray = self.tray(recipe)
        self.work()

        def cells() -> dict[str, Any]:
            return {row["photo"]["name"]: row["cells"][0] for row in self.rows(tray.pk)}

        def off(about: dict[str, Any], name: str) -> float:
            return float(abs(math.log(about[name]["bytes"] / made[name]["bytes"])))

        before = cells()
        self.assertTrue(all(cell["about"] for cell in before.values()))
        number = {photo.name: photo.pk for photo in Photo.objects.all()}
        tower, others = (
            "2031-10-16_06_clock-tower-dusk.jpg",
            sorted(set(number) - {"2031-10-16_06_clock-tower-dusk.jpg"}),
        )
        self.send("post", f"trays/{tray.pk}/runs", {"cells": [[number[name], recipe.pk] for name in others]})
        self.work()
        learned = cells()
        self.assertEqual([learned[name]["about"] for name in (tower, *others)], [True, False, False])
        # As many times the forecast as the others were.
        times = sum(learned[name]["bytes"] for name in others) / sum(before[name]["bytes"] for name in others)
        self.assertAlmostEqual(learned[tower]["bytes"] / before[tower]["bytes"] / times, 1, delta=0.03)
        self.send("post", f"trays/{tray.pk}/runs", {})
        self.work()
        made = cells()
        self.assertLess(max(off(before, name) for name in number), math.log(1.35))
        sums = self.get(f"trays/{tray.pk}/overview")
        self.assertEqual(sums["about"], sum(cell["bytes"] for cell in made.values()))
