"""Tones of photos: kept by version, followed by all renditions, given to others, undone."""

from __future__ import annotations

import datetime as dt
import io
from typing import Any

import numpy as np
from PIL import Image

from server.photos import reading
from server.photos.models import Photo
from server.runs.models import Run
from server.tests.cases import TrayCase
from server.trays import flows
from tray_core.tests.samples import jpeg, raw_with_preview, scene


class Tones(TrayCase):
    def setUp(self) -> None:
        super().setUp()
        for number in range(3):
            (self.folder / f"{number}.jpg").write_bytes(jpeg(scene(600, 400, seed=number + 1)))
        self.tray_ = self.tray(self.recipe("Journal", file={"format": "png"}, sharpen=None))
        self.work()
        self.photos = list(Photo.objects.order_by("name"))

    def keep(self, photo: Photo, tone: dict[str, Any], version: int | None = None, status: int = 200) -> Any:
        return self.send("put", "tones", {"edits": [{"photo": photo.pk, "tone": tone, "version": version}]}, status)

    def cells(self) -> list[str]:
        rows = self.send("post", "rows", {"photos": [photo.pk for photo in self.photos]})
        return [cell["state"] for row in rows for cell in row["cells"]]

    def make(self) -> Run:
        self.send("post", "runs", {})
        self.work()
        return Run.objects.latest("id")

    def test_a_tone_is_followed_and_makes_its_renditions_out_of_date(self) -> None:
        before = {row.photo.name: np.asarray(Image.open(row.path).convert("RGB")) for row in self.made(self.make())}
        self.assertEqual(self.cells(), ["done", "done", "done"])
        self.keep(self.photos[1], {"exposure": 1, "contrast": 0}, 0)
        self.assertEqual(self.cells(), ["done", "outdated", "done"])
        found = self.send("get", f"tone/{self.photos[1].pk}")
        self.assertEqual((found["tone"], found["version"], found["photo"]["toned"]), ({"exposure": 1.0}, 1, True))
        (row,) = self.made(self.make())
        self.assertEqual((row.photo.name, row.tone), ("1.jpg", {"exposure": 1.0}))
        after = np.asarray(Image.open(row.path).convert("RGB"))
        self.assertGreater(float(after.mean()), float(before["1.jpg"].mean()) * 1.15)

    def test_whoever_edits_says_which_version(self) -> None:
        photo = self.photos[0]
        self.keep(photo, {"light": -20}, 0)
        self.assertIn("newer one", self.keep(photo, {"light": 10}, 0, 409)["detail"])
        self.assertEqual(self.keep(photo, {"haze": 10}, 1, 422)["fields"][0]["field"], "tone.haze")
        undo = self.keep(photo, {"light": 10}, 1)
        self.assertEqual(undo["edits"], [{"photo": photo.pk, "tone": {"light": -20}, "looks": [], "version": 2}])
        redo = self.send("put", "tones", undo)
        self.assertEqual(redo["edits"], [{"photo": photo.pk, "tone": {"light": 10}, "looks": [], "version": 3}])
        self.assertEqual(Photo.objects.get(pk=photo.pk).tone, {"light": -20})

    def test_a_look_is_for_the_recipes_that_it_names(self) -> None:
        other = self.recipe("Column", file={"format": "png"}, sharpen=None)
        flows.light(self.tray_, [self.tray_.recipes.get(title="Journal").pk, other.pk])
        photo = self.photos[0]
        look = {"title": "Grey", "recipes": [other.pk], "tone": {"saturation": -100, "muted": 0}}
        edit = {"photo": photo.pk, "tone": {"exposure": 0.5}, "looks": [look], "version": 0}
        undo = self.send("put", "tones", {"edits": [edit]})
        found = self.send("get", f"tone/{photo.pk}")
        self.assertEqual(found["looks"], [look | {"tone": {"saturation": -100}}])
        self.assertEqual([each["title"] for each in found["recipes"]], ["Column", "Journal"])
        made = {row.recipe.title: row for row in self.made(self.make()) if row.photo_id == photo.pk}
        self.assertEqual(made["Column"].tone, {"saturation": -100})
        self.assertEqual(made["Journal"].tone, {"exposure": 0.5})
        pixels = np.asarray(Image.open(made["Column"].path).convert("RGB")).astype(int)
        self.assertLess(int(np.ptp(pixels, axis=2).max()), 3)
        # An edit that says nothing of looks leaves them; giving a tone to others does not touch theirs.
        self.keep(photo, {}, 1)
        self.send("post", "tones/given", {"photos": [photo.pk], "values": {"light": 9}})
        self.assertEqual(len(Photo.objects.get(pk=photo.pk).looks), 1)
        undo["edits"][0]["version"] = 3
        self.send("put", "tones", undo)
        self.assertEqual((Photo.objects.get(pk=photo.pk).tone, Photo.objects.get(pk=photo.pk).looks), ({}, []))
        wrong = edit | {"looks": [look, look], "version": 4}
        answer = self.send("put", "tones", {"edits": [wrong]}, 422)
        self.assertEqual(answer["fields"][0]["field"], "looks.1.title")

    def test_raw_is_developed_for_its_tone(self) -> None:
        self.copy("bench-raw/QM4_0203.dng")
        self.send("post", "look-again", {})
        photo = Photo.objects.get(name="QM4_0203.dng")
        self.assertTrue(photo.early)
        self.assertEqual(self.client.get(f"/api/pictures/photos/{photo.pk}/first").status_code, 404)
        self.work()
        photo.refresh_from_db()
        self.assertFalse(photo.early)
        self.assertTrue(self.send("get", f"tone/{photo.pk}")["raw"])

        def seen(tone: dict[str, Any]) -> Any:
            data = self.send("post", f"tone/{photo.pk}/picture", {"tone": tone, "edge": 320})
            return np.asarray(Image.open(io.BytesIO(data)).convert("RGB")).astype(float).mean(axis=(0, 1))

        plain, lamp, mirrored = seen({}), seen({"balance": "lamp"}), seen({"mirror": True})
        self.assertGreater(lamp[2] / lamp[0], 1.5 * plain[2] / plain[0])
        np.testing.assert_allclose(plain, mirrored, atol=1.5)
        self.assertEqual(len(list(reading.copies_of_content(photo.digest))), 4)
        self.keep(photo, {"balance": "lamp", "recover": 40}, 0)
        (row,) = [each for each in self.made(self.make()) if each.photo_id == photo.pk]
        made = np.asarray(Image.open(row.path).convert("RGB")).astype(float).mean(axis=(0, 1))
        self.assertGreater(made[2] / made[0], 1.5 * plain[2] / plain[0])
        cell = self.client.get(f"/api/pictures/cells/{photo.pk}/{row.version_id}?edge=240")
        shown = np.asarray(Image.open(io.BytesIO(cell.content)).convert("RGB")).astype(float).mean(axis=(0, 1))
        np.testing.assert_allclose(shown, made, atol=4)

    def test_a_raw_photo_is_seen_before_it_is_read(self) -> None:
        (self.folder / "card.dng").write_bytes(raw_with_preview(6))
        self.send("post", "look-again", {})
        photo = Photo.objects.get(name="card.dng")
        (row,) = self.send("post", "rows", {"photos": [photo.pk]})
        self.assertEqual((row["photo"]["state"], row["photo"]["early"]), ("waiting", True))
        answer = self.client.get(f"/api/pictures/photos/{photo.pk}/first?edge=60")
        self.assertEqual(answer["Content-Type"], "image/jpeg")
        self.assertEqual(Image.open(io.BytesIO(answer.content)).size, (40, 60))
        self.work()
        (row,) = self.send("post", "rows", {"photos": [photo.pk]})
        self.assertEqual((row["photo"]["state"], row["photo"]["early"]), ("ready", False))
        self.assertEqual((row["photo"]["width"], row["photo"]["height"]), (256, 384))

    def test_given_to_all_of_the_same_minute(self) -> None:
        start = dt.datetime(2031, 10, 14, 9, 30, tzinfo=dt.UTC)
        for photo, seconds in zip(self.photos, (0, 40, 90), strict=True):
            Photo.objects.filter(pk=photo.pk).update(taken=start + dt.timedelta(seconds=seconds))
        self.assertEqual(self.send("get", f"tone/{self.photos[0].pk}")["near"], [self.photos[1].pk])
        self.keep(self.photos[1], {"saturation": 12, "exposure": 0.5})
        body = {"photos": [self.photos[1].pk, self.photos[2].pk], "values": {"exposure": 1.5, "contrast": 8}}
        undo = self.send("post", "tones/given", body)
        tones = {photo.name: photo.tone for photo in Photo.objects.all()}
        self.assertEqual(tones["1.jpg"], {"exposure": 1.5, "contrast": 8, "saturation": 12})
        self.assertEqual(tones["2.jpg"], {"exposure": 1.5, "contrast": 8})
        self.send("put", "tones", undo)
        self.assertEqual(Photo.objects.get(name="1.jpg").tone, {"saturation": 12, "exposure": 0.5})
        self.assertEqual(Photo.objects.get(name="2.jpg").tone, {})

    def test_looks_spots_and_proposals(self) -> None:
        cast = np.full((400, 600, 3), (150, 120, 90), np.uint8)
        cast[:200] = scene(600, 200) // 2
        (self.folder / "cast.jpg").write_bytes(jpeg(cast))
        self.send("post", "look-again", {})
        self.work()
        photo = Photo.objects.get(name="cast.jpg")
        spot = self.send("post", f"tone/{photo.pk}/grey", {"x": 0.5, "y": 0.8})
        data = self.send("post", f"tone/{photo.pk}/picture", {"tone": spot, "edge": 300})
        (self.folder / "look.jpg").write_bytes(data)
        with Image.open(self.folder / "look.jpg") as image:
            self.assertEqual(image.size, (300, 200))
            red, green, blue = image.convert("RGB").getpixel((150, 160))  # type: ignore[misc]
        self.assertLess(max(red, green, blue) - min(red, green, blue), 5)
        light = self.send("post", f"tone/{photo.pk}/light", {"tone": {"exposure": 4}})
        self.assertAlmostEqual(sum(light["luminance"]), 1, places=6)
        self.assertGreater(light["white"], 0.3)
        painted = self.send("post", f"tone/{photo.pk}/picture", {"tone": {"exposure": 4}, "edge": 300, "lost": True})
        (self.folder / "painted.jpg").write_bytes(painted)
        with Image.open(self.folder / "painted.jpg") as image:
            red = np.asarray(image.convert("RGB"))[110:190]
        self.assertGreater(float(((red[..., 0] > 180) & (red[..., 1] < 90)).mean()), 0.9)
        proposal = self.send("get", f"tone/{photo.pk}/proposal")
        self.assertTrue(set(proposal) <= {"exposure", "temperature", "tint", "white", "black"} and proposal)
        self.assertEqual(Photo.objects.get(pk=photo.pk).tone, {})
        self.send("post", f"tone/{photo.pk}/picture", {"tone": {"exposure": 77}}, 422)
