"""The bench's close looks, parts, profiles and the sharpness of single photos, over the API."""

from __future__ import annotations

import io
import os
import shutil
from pathlib import Path
from unittest import mock

import numpy as np
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from PIL import Image

from server.looks import exact
from server.photos.models import Photo
from server.project.conf import conf
from server.recipes.models import Recipe, RecipeVersion
from server.runs.models import Rendition, Run
from server.studios.models import Member, Studio
from server.tests.cases import StudioCase
from server.trays.models import Tray
from tray_core.photo.profile_files import FOLDERS
from tray_core.tests.samples import DEMO

DIAL = "autumn-rehang/2031-10-17_08_dial-detail.jpg"
P3 = "mixed/enamel-colours_P3.jpg"
INKS = DEMO / "profiles" / "chemical-proof-CMYK.icc"


class CloseCase(StudioCase):
    def ready(self, *names: str, **stations: object) -> tuple[Tray, Photo, Recipe]:
        self.copy(*(names or (DIAL,)))
        recipe = self.recipe(**stations)
        tray = self.tray(recipe)
        self.work()
        return tray, Photo.objects.get(name=(names or (DIAL,))[0].split("/")[1]), recipe

    def at(self, tray: Tray, photo: Photo, recipe: Recipe) -> str:
        return f"trays/{tray.pk}/closer/{photo.pk}/{recipe.pk}"

    def picture(self, path: str, body: dict[str, object]) -> np.ndarray:  # type: ignore[type-arg]
        answer = self.client.post(f"/api/{path}", body, content_type="application/json")
        self.assertEqual(answer.status_code, 200, answer.content[:200])
        return np.asarray(Image.open(io.BytesIO(answer.content)).convert("RGB")).astype(int)

    def run_of(self, tray: Tray) -> list[Rendition]:
        answer = self.send("post", f"trays/{tray.pk}/runs", {})
        self.work()
        return self.made(Run.objects.get(pk=answer["id"]))


class Windows(CloseCase):
    def test_what_is_judged_is_what_is_made(self) -> None:
        """The window after sharpening holds the pixels of the written file."""
        size = {"by": "width", "pixels": 700}
        tray, photo, recipe = self.ready(size=size, file={"format": "png"})
        at = self.at(tray, photo, recipe)
        facts = self.send("post", at, {})
        self.assertEqual((facts["width"], facts["own"], facts["strength"]), (700, None, 100))
        window = {"x": 120, "y": 80, "width": 300, "height": 200}
        after = self.picture(f"{at}/window", {**window, "view": "after"})
        before = self.picture(f"{at}/window", {**window, "view": "before"})
        self.assertEqual(after.shape, (200, 300, 3))
        (rendition,) = self.run_of(tray)
        file = np.asarray(Image.open(rendition.path)).astype(int)[80:280, 120:420]
        np.testing.assert_array_equal(after, file)
        self.assertGreater(np.abs(after - before).mean(), 0.5)
        change = self.picture(f"{at}/window", {**window, "view": "difference"})
        np.testing.assert_array_equal(change, np.clip(128 + 4 * (after - before), 0, 255))
        draft = recipe.current.content | {"sharpen": {"strength": 100, "guard": 12}}  # type: ignore[union-attr]
        mask = self.picture(f"{at}/window", {**window, "view": "mask", "content": draft})
        self.assertLess(mask.min(), 10)
        self.assertGreater(mask.max(), 240)

    def test_each_of_several_renditions(self) -> None:
        """A panel weighs as much as its file, the first one unless another is wanted."""
        frame = {"way": "crop", "shape": "2:1", "panels": {"columns": 2, "rows": 1}}
        size = {"by": "width", "pixels": 400}
        tray, photo, recipe = self.ready(size=size, frame=frame, file={"format": "jpeg", "quality": 70})
        at = self.at(tray, photo, recipe)
        facts = self.send("post", at, {})
        self.assertEqual((facts["part"], len(facts["parts"])), (1, 2))
        weights = [self.send("post", f"{at}/made", {"part": part})["bytes"] for part in (None, 1, 2, 99)]
        made = sorted(self.run_of(tray), key=lambda rendition: str(rendition.path))
        files = [Path(rendition.path).stat().st_size for rendition in made]
        self.assertEqual(weights, [files[0], files[0], files[1], files[1]])
        self.assertNotEqual(files[0], files[1])

    def test_older_requests_of_a_page_are_dropped(self) -> None:
        tray, photo, recipe = self.ready()
        at = self.at(tray, photo, recipe)
        self.send("post", at, {"page": "abc", "turn": 7})
        self.send("post", at, {"page": "abc", "turn": 6}, status=409)
        self.send("post", at, {"page": "other", "turn": 1})

    def test_of_a_photo_that_changed_or_is_not_in_the_tray(self) -> None:
        tray, photo, recipe = self.ready()
        self.send("post", f"trays/{tray.pk}/closer/{photo.pk + 99}/{recipe.pk}", {}, status=404)
        photo.file.write_bytes(b"no picture any more")
        exact._memory._values.clear()
        answer = self.send("post", self.at(tray, photo, recipe), {}, status=409)
        self.assertIn(photo.name, answer["detail"])

    def test_places_of_the_tray(self) -> None:
        tray, _, _ = self.ready(DIAL, "autumn-rehang/2031-10-16_06_clock-tower-dusk.jpg")
        places = self.get(f"trays/{tray.pk}/places")
        self.assertEqual({place["kind"] for place in places}, {"flat", "fine"})
        flattest = next(place for place in places if place["kind"] == "flat")
        self.assertIn("clock-tower-dusk", flattest["name"])


class Weights(CloseCase):
    def test_points_candidates_and_exact_bytes(self) -> None:
        tray, photo, recipe = self.ready(size={"by": "width", "pixels": 600}, file={"format": "jpeg", "quality": 80})
        at = self.at(tray, photo, recipe)
        for format in ("jpeg", "thorough", "webp", "avif"):
            points = self.send("post", f"{at}/points", {"format": format, "qualities": [40, 80, 92]})
            self.assertEqual([point["quality"] for point in points], [40, 80, 92])
            for key in ("bytes", "score"):
                self.assertEqual([p[key] for p in points], sorted(p[key] for p in points))
        jpeg = self.send("post", f"{at}/points", {"format": "jpeg", "qualities": [80]})
        made = self.send("post", f"{at}/made", {})
        self.assertEqual(made["bytes"], jpeg[0]["bytes"])
        candidate = {"format": "jpeg", "quality": 80, "x": 50, "y": 60, "width": 200, "height": 100}
        shown = self.picture(f"{at}/candidate", candidate)
        (rendition,) = self.run_of(tray)
        assert rendition.receipt is not None
        self.assertEqual(rendition.receipt["bytes"], made["bytes"])
        file = np.asarray(Image.open(rendition.path)).astype(int)[60:160, 50:250]
        self.assertLessEqual(np.abs(shown - file).max(), 3)  # two decoders
        self.send("post", f"{at}/points", {"format": "bmp", "qualities": [80]}, status=422)

    def test_recipes_whose_colors_a_candidate_cannot_hold(self) -> None:
        tray, photo, recipe = self.ready(size={"by": "width", "pixels": 300})
        at, own = self.at(tray, photo, recipe), recipe.current.content  # type: ignore[union-attr]
        deep = own | {"file": {"format": "png"}, "color": {"profile": "display-p3", "bits": 16}}
        inks = own | {"file": {"format": "tiff"}, "color": {"profile": "icc", "icc": "CMYK.icc"}}
        for content in (deep, inks):
            for format in ("jpeg", "webp", "avif"):
                (point,) = self.send("post", f"{at}/points", {"content": content, "format": format, "qualities": [70]})
                self.assertGreater(point["score"], 50)
        tight = own | {"file": {"format": "jpeg", "under_kb": 1}}
        answer = self.send("post", f"{at}/made", {"content": tight}, status=409)
        self.assertIn("expected at most 1 kB", answer["detail"])

    def test_a_limit_over_a_tray_and_one_that_cannot_be_met(self) -> None:
        names = (DIAL, "autumn-rehang/2031-10-14_01_repair-bench.jpg", "shop-stock/QM4_0117.jpg")
        tray, _, recipe = self.ready(*names, file={"format": "jpeg", "under_kb": 12})
        made = self.run_of(tray)
        self.assertEqual(len(made), 3)
        for rendition in made:
            assert rendition.receipt is not None
            self.assertLessEqual(rendition.receipt["bytes"], 12_000)
            self.assertIn("the best of", rendition.receipt["notes"][-1])
        content = recipe.current.content | {"file": {"format": "jpeg", "under_kb": 1}}  # type: ignore[union-attr]
        self.change(recipe, content)
        answer = self.send("post", f"trays/{tray.pk}/runs", {})
        self.work()
        errors = Run.objects.get(pk=answer["id"]).renditions.values_list("error", flat=True)
        for error in errors:
            self.assertRegex(error, r"expected at most 1 kB, found [\d.]+ kB at quality 20, [\d.]+ kB too many")


class Colors(CloseCase):
    def test_what_the_conversion_changes(self) -> None:
        tray, photo, recipe = self.ready(P3, "mixed/bench-no-profile.jpg", size={"by": "width", "pixels": 500})
        at = self.at(tray, photo, recipe)
        colors = self.send("post", f"{at}/colors", {})
        self.assertEqual((colors["source"], colors["target"], colors["converts"]), ("Display P3", "sRGB", True))
        self.assertGreater(colors["share"], 0.001)
        marked, after = (self.picture(f"{at}/color", {"view": view}) for view in ("marked", "after"))
        changed = (np.abs(marked - after).max(axis=2) > 0).mean()
        self.assertAlmostEqual(changed, colors["share"], delta=0.02)
        untagged = Photo.objects.get(name="bench-no-profile.jpg")
        colors = self.send("post", f"{self.at(tray, untagged, recipe)}/colors", {})
        self.assertEqual(colors["share"], 0)
        self.assertIn("has no color profile and is taken as sRGB", colors["warning"])

    def test_profiles_are_added_used_and_never_replaced(self) -> None:
        with mock.patch.dict(os.environ, {FOLDERS: str(conf.profiles)}):
            shutil.rmtree(conf.profiles, ignore_errors=True)
            data = INKS.read_bytes()

            def add(content: bytes, status: int = 200) -> dict[str, str]:
                file = SimpleUploadedFile("Press.icc", content)
                answer = self.client.post("/api/profiles", {"file": file})
                self.assertEqual(answer.status_code, status, answer.content[:200])
                found: dict[str, str] = answer.json()
                return found

            self.assertEqual(
                add(data), {"name": "Press.icc", "title": "Chemical proof", "space": "CMYK", "own": True, "used": []}
            )
            self.assertEqual(add(data)["name"], "Press.icc")
            wide = (DEMO / "profiles" / "Quillmarsh-P3-D65.icc").read_bytes()
            self.assertEqual(add(wide)["name"], "Press 2.icc")
            self.assertIn("no ICC profile", add(b"nonsense", 422)["detail"])
            press = {"profile": "icc", "icc": "Press.icc"}
            tray, _, _ = self.ready(P3, color=press, file={"format": "tiff"})
            (rendition,) = self.run_of(tray)
            with Image.open(rendition.path) as image:
                self.assertEqual((image.mode, image.info["icc_profile"]), ("CMYK", data))
            wrong = {"content": self.recipe("Second").current.content | {"color": {"profile": "icc", "icc": "No.icc"}}}
            answer = self.send("post", "recipes", wrong, status=422)
            self.assertEqual(answer["fields"][0]["field"], "color.icc")

            # Deleted only once no recipe names it; what ships with the product stays.
            said = self.client.delete("/api/profiles/Press.icc")
            self.assertEqual(said.status_code, 409)
            self.assertIn("used by Journal", said.json()["detail"])
            self.assertEqual(self.client.delete("/api/profiles/Press 2.icc").status_code, 204)
            for missing in ("Press 2.icc", "CMYK.icc", "..%2Fsecret"):
                self.assertEqual(self.client.delete(f"/api/profiles/{missing}").status_code, 404)

            # Another studio neither sees it nor reaches it by a path, and gets its own under the same name.
            other, mine = Client(), f"{self.studio.pk}/Press.icc"
            brin = get_user_model().objects.create_user("brin", password="brass-escapement")
            Member.objects.create(user=brin, studio=Studio.objects.create(name="Elsewhere"))
            other.force_login(brin)
            self.assertEqual([each["name"] for each in other.get("/api/profiles").json()], ["CMYK.icc"])
            for name in ("Press.icc", mine, f"../{mine}"):
                theirs = {"content": wrong["content"] | {"color": {"profile": "icc", "icc": name}}}
                answer = other.post("/api/recipes", theirs, content_type="application/json")
                self.assertEqual((name, answer.status_code), (name, 422))
            answer = other.post("/api/profiles", {"file": SimpleUploadedFile("Press.icc", wide)})
            self.assertEqual((answer.json()["name"], answer.json()["space"]), ("Press.icc", "RGB"))
            self.assertEqual([each["space"] for each in self.get("profiles") if each["name"] == "Press.icc"], ["CMYK"])
            versions = RecipeVersion.objects.filter(content__color__icc="Press.icc")
            self.assertEqual({version.core().color.icc for version in versions}, {mine})


class Own(CloseCase):
    def test_one_photo_has_its_own_sharpness(self) -> None:
        tray, photo, recipe = self.ready(DIAL, "shop-stock/QM4_0117.jpg", file={"format": "png"})
        first = {rendition.photo_id: rendition.fingerprint for rendition in self.run_of(tray)}
        path = f"trays/{tray.pk}/sharpness/{recipe.pk}"
        before = self.send("put", path, {"strengths": {photo.pk: 0}})
        self.assertEqual(before["strengths"], {str(photo.pk): None})
        states = {row["photo"]["id"]: row["cells"][0]["state"] for row in self.rows(tray.pk)}
        self.assertEqual(states.pop(photo.pk), "outdated")
        self.assertEqual(set(states.values()), {"done"})
        told = {row["photo"]["id"]: row["cells"][0]["strength"] for row in self.rows(tray.pk)}
        self.assertEqual((told.pop(photo.pk), set(told.values())), (0, {None}))
        (again,) = self.run_of(tray)
        self.assertEqual((again.photo_id, again.strength), (photo.pk, 0))
        self.assertNotEqual(again.fingerprint, first[photo.pk])
        at = self.at(tray, photo, recipe)
        unsharp = self.picture(f"{at}/window", {"view": "before", "width": 160, "height": 100})
        np.testing.assert_array_equal(np.asarray(Image.open(again.path)).astype(int)[:100, :160], unsharp)
        self.assertEqual(self.send("post", at, {})["own"], 0)
        self.send("put", path, {"strengths": {photo.pk: 201}}, status=422)
        self.send("put", path, before)
        states = {row["photo"]["id"]: row["cells"][0]["state"] for row in self.rows(tray.pk)}
        self.assertEqual(states[photo.pk], "outdated")
        self.assertIsNone(self.send("post", at, {})["own"])


class Parts(CloseCase):
    def content(self, recipe: Recipe) -> dict[str, object]:
        found: dict[str, object] = self.get(f"recipes/{recipe.pk}")["content"]
        return found

    def test_changed_once_followed_by_two_and_detached(self) -> None:
        one, other, third = (self.recipe(title) for title in ("One", "Other", "Third"))
        part = self.send("post", "parts", {"recipe": one.pk, "station": "sharpen", "name": "Crisp"})
        self.assertEqual([each["title"] for each in part["used"]], ["One"])
        self.assertEqual(self.content(one)["parts"], {"sharpen": "Crisp"})
        self.change(other, self.content(other) | {"parts": {"sharpen": "Crisp"}})
        self.change(one, self.content(one) | {"sharpen": {"strength": 140}})
        for recipe in (one, other):
            self.assertEqual(self.content(recipe)["sharpen"], {"strength": 140})
        self.assertEqual(self.content(third)["sharpen"], {"strength": 100})
        (listed,) = self.get("parts")
        self.assertEqual((listed["setting"], len(listed["used"])), ({"strength": 140}, 2))
        plain = self.content(other)
        del plain["parts"]
        self.change(other, plain | {"sharpen": {"strength": 20}})
        self.assertEqual(self.content(one)["sharpen"], {"strength": 140})
        self.send("put", f"parts/{listed['id']}", {"setting": {"strength": 60}})
        self.assertEqual(
            (self.content(one)["sharpen"], self.content(other)["sharpen"]), ({"strength": 60}, {"strength": 20})
        )
        self.assertEqual(self.client.delete(f"/api/parts/{listed['id']}").status_code, 204)
        self.assertNotIn("parts", self.content(one))
        self.assertEqual(self.content(one)["sharpen"], {"strength": 60})

    def test_a_wrong_setting_changes_nothing_whether_followed_or_not(self) -> None:
        one = self.recipe("One")
        part = self.send("post", "parts", {"recipe": one.pk, "station": "sharpen", "name": "Crisp"})
        for followed in (True, False):
            if not followed:
                self.change(one, self.content(one) | {"parts": {}})
            answer = self.send("put", f"parts/{part['id']}", {"setting": {"strength": 900}}, status=422)
            self.assertEqual(answer["fields"][0]["field"], "sharpen.strength")
            (listed,) = self.get("parts")
            self.assertEqual((listed["setting"], len(listed["used"])), ({"strength": 100}, int(followed)))

    def test_runs_keep_the_version_that_they_used(self) -> None:
        self.copy(DIAL)
        one, other = self.recipe("One"), self.recipe("Other")
        for recipe in (one, other):
            self.change(recipe, self.content(recipe) | {"parts": {"file": "Web"}})
        tray = self.tray(one, other)
        self.work()
        made = self.run_of(tray)
        self.change(one, self.content(one) | {"file": {"format": "webp", "quality": 70}})
        cells = [cell["state"] for row in self.rows(tray.pk) for cell in row["cells"]]
        self.assertEqual(cells, ["outdated", "outdated"])
        for rendition in made:
            rendition.refresh_from_db()
            self.assertEqual(rendition.version.core().file.format, "jpeg")
        again = self.run_of(tray)
        self.assertEqual({rendition.receipt["format"] for rendition in again if rendition.receipt}, {"WEBP"})

    def test_what_cannot_be_saved(self) -> None:
        recipe = self.recipe()
        body = {"recipe": recipe.pk, "station": "prep", "name": "Scans"}
        self.assertIn("prep", self.send("post", "parts", body, status=422)["detail"])
        self.send("post", "parts", body | {"station": "file", "name": "Web"})
        self.assertIn(
            "Web", self.send("post", "parts", body | {"station": "file", "name": "Web"}, status=422)["detail"]
        )
        self.send("post", "parts", body | {"station": "file", "name": " "}, status=422)
