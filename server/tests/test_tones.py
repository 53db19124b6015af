"""Tones of photos: kept by version, followed by all renditions, given to others, undone."""

from __future__ import annotations

import datetime as dt
from typing import Any

import numpy as np
from PIL import Image

from server.photos.models import Photo
from server.runs.models import Run
from server.tests.cases import TrayCase
from tray_core.tests.samples import jpeg, scene


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
        self.assertEqual(undo["edits"], [{"photo": photo.pk, "tone": {"light": -20}, "version": 2}])
        redo = self.send("put", "tones", undo)
        self.assertEqual(redo["edits"], [{"photo": photo.pk, "tone": {"light": 10}, "version": 3}])
        self.assertEqual(Photo.objects.get(pk=photo.pk).tone, {"light": -20})

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
