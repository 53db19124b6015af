"""Recipes given away and taken into another studio: whole or not at all, with what differs seen first."""

from __future__ import annotations

import io
import json
import shutil
import zipfile
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from fontTools.ttLib import TTFont

from server.project.conf import conf
from server.recipes import marks, profiles
from server.recipes.models import Recipe
from server.studios.models import Member, Studio
from server.tests.cases import StudioCase
from tray_core.marks import fonts
from tray_core.recipe.shelf import read_shelf, write_shelf
from tray_core.tests.samples import DEMO
from tray_core.tests.samples import recipe as core_recipe

SVG = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 8 8"><rect width="8" height="8" fill="{}"/></svg>'


class Giving(StudioCase):
    def upload(self, path: str, data: bytes, status: int = 200, **more: str) -> Any:
        body = {"file": SimpleUploadedFile("shelf.zip", data), **more}
        answer = self.client.post(f"/api/shelves/{path}", body)
        self.assertEqual(answer.status_code, status, answer.content[:300])
        return answer.json()

    def elsewhere(self) -> Studio:
        """The same person in another studio from now on."""
        other = Studio.objects.create(name="Elsewhere")
        Member.objects.filter(user=self.user).update(studio=other)
        return other

    def given(self, query: str = "") -> bytes:
        answer = self.client.get(f"/api/shelves/given{query}")
        self.assertEqual(answer.status_code, 200, answer.content[:300])
        return bytes(answer.content)

    def test_a_shelf_goes_into_another_studio_with_parts_and_profiles(self) -> None:
        profile = next((DEMO / "profiles").glob("*CMYK*.icc"))
        path = profiles.path_of(self.studio, "press.icc")
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(profile.read_bytes())
        self.addCleanup(path.unlink)
        self.recipe("Press", shelf="Print", color={"profile": "icc", "icc": "press.icc"}, parts={"sharpen": "Crisp"})
        self.recipe("Proof", shelf="Print", name={"pattern": "{title or stem}", "spaces": "-"})
        self.recipe("Feed")
        data = self.given("?shelf=Print")
        self.assertEqual(self.given("?shelf=Print"), data)
        self.assertEqual([recipe.title for recipe in read_shelf(data).recipes], ["Press", "Proof"])
        mine = {recipe.title: recipe.current.content for recipe in Recipe.objects.all() if recipe.current}

        other = self.elsewhere()
        seen = self.upload("look-into", data)
        self.assertEqual([each["state"] for each in seen["recipes"]], ["new", "new"])
        self.assertEqual((seen["profiles"], other.recipes.count()), (["press.icc"], 0))
        self.assertEqual(self.upload("take-in", data)["taken"], ["Press", "Proof"])
        there = {recipe.title: recipe.current.content for recipe in other.recipes.all() if recipe.current}
        self.assertEqual(there, {title: mine[title] for title in ("Press", "Proof")})
        self.assertEqual(list(other.parts.values_list("name", flat=True)), ["Crisp"])
        copy = profiles.path_of(other, "press.icc")
        self.addCleanup(copy.unlink)
        self.assertEqual(copy.read_bytes(), profile.read_bytes())
        self.assertEqual([each["state"] for each in self.upload("look-into", data)["recipes"]], ["same", "same"])
        self.assertEqual(self.upload("take-in", data)["taken"], [])

    def test_marks_are_added_used_given_away_and_taken(self) -> None:
        self.addCleanup(shutil.rmtree, conf.marks, ignore_errors=True)
        one, other_one = (SVG.format(color).encode() for color in ("#ff0000", "#00ff00"))

        def add(name: str, data: bytes, status: int = 200) -> Any:
            answer = self.client.post("/api/marks", {"file": SimpleUploadedFile(name, data)})
            self.assertEqual(answer.status_code, status, answer.content[:300])
            return answer.json()

        self.assertEqual(add("mark.svg", one)["name"], "mark.svg")
        self.assertEqual(add("mark.svg", one)["name"], "mark.svg")  # the same once more
        self.assertEqual(add("mark.svg", other_one)["name"], "mark 2.svg")
        packed = (fonts.SHIPPED / "IBMPlexSerif-Regular.woff2").read_bytes()
        add("ours.woff2", packed, 422)
        font, plain = TTFont(io.BytesIO(packed)), io.BytesIO()
        font.flavor = None
        font.save(plain)
        self.assertEqual(add("ours.ttf", plain.getvalue())["kind"], "font")
        self.assertIn("none that can be read", add("broken.ttf", b"no font", 422)["detail"])
        add("page.html", b"<html>", 422)
        self.assertEqual(len(self.client.get("/api/marks").json()), 3)
        self.assertEqual(self.client.get("/api/marks/mark.svg/picture").content[:4], b"\x89PNG")
        self.assertEqual(self.client.get("/api/marks/nothing.svg/picture").status_code, 404)
        finish = {"marks": [{"picture": "mark.svg"}, {"text": "© {creator}", "font": "ours.ttf"}]}
        recipe = self.recipe("Feed", finish=finish)
        self.assertEqual(self.client.delete("/api/marks/mark.svg").status_code, 409)
        self.assertEqual(self.client.delete("/api/marks/mark 2.svg").status_code, 204)
        wrong = {"content": recipe.current.content | {"finish": {"marks": [{"picture": "gone.svg"}]}}, "photos": []}
        answer = self.client.post("/api/drafts", wrong, content_type="application/json")
        self.assertEqual([each["field"] for each in answer.json()["fields"]], ["finish.marks.0.picture"])

        data = self.given()
        other = self.elsewhere()
        self.assertEqual(self.client.get("/api/marks").json(), [])
        marks.put(other, "mark.svg", other_one)  # the name is taken by another picture
        self.assertEqual(self.upload("take-in", data)["taken"], ["Feed"])
        taken = other.recipes.get().current.content["finish"]["marks"]
        self.assertEqual([taken[0]["picture"], taken[1]["font"]], ["mark 2.svg", "ours.ttf"])
        self.assertEqual(marks.path_of(other, "mark 2.svg").read_bytes(), one)
        self.assertEqual(self.client.delete("/api/marks/ours.ttf").status_code, 409)

    def test_what_differs_is_taken_as_it_was_chosen(self) -> None:
        self.recipe("One", size={"by": "long-edge", "pixels": 900})
        theirs = write_shelf([core_recipe("One", size={"by": "long-edge", "pixels": 1200}), core_recipe("Two")], {})
        seen = self.upload("look-into", theirs)["recipes"]
        self.assertEqual([each["state"] for each in seen], ["differs", "new"])
        self.assertIn("1200", " ".join(seen[0]["changed"]))
        self.assertEqual(self.upload("take-in", theirs)["taken"], ["Two"])  # mine is kept where nothing was chosen
        self.assertEqual(self.upload("take-in", theirs, choices=json.dumps({"One": "both"}))["taken"], ["One"])
        self.assertEqual(set(self.studio.recipes.values_list("title", flat=True)), {"One", "One 2", "Two"})
        self.upload("take-in", theirs, choices=json.dumps({"One": "theirs"}))
        one = self.studio.recipes.get(title="One")
        assert one.current is not None
        self.assertEqual((one.current.content["size"]["pixels"], one.current.number), (1200, 2))
        self.upload("take-in", theirs, choices='{"One": "nobody"}', status=422)

    def test_a_single_recipe_file_too(self) -> None:
        data = json.dumps(core_recipe("Alone").to_json()).encode()
        self.assertEqual(self.upload("take-in", data)["taken"], ["Alone"])

    def test_nothing_of_a_file_that_is_wrong_anywhere(self) -> None:
        good = write_shelf([core_recipe("One"), core_recipe("Two")], {})
        archive = zipfile.ZipFile(io.BytesIO(good))
        made = io.BytesIO()
        with zipfile.ZipFile(made, "w") as wrong:
            for name in archive.namelist():
                text = archive.read(name).decode()
                wrong.writestr(name, text.replace('"pixels": 1600', '"pixels": "many"') if "Two" in name else text)
        told = self.upload("take-in", made.getvalue(), status=422)
        self.assertEqual([each["field"] for each in told["fields"]], ["shelf.zip: recipes/02-Two.json: size.pixels"])
        self.assertEqual(self.studio.recipes.count(), 0)
        for data, said in (
            (b"PK\x03\x04 no zip at all", "a zip that cannot be read"),
            (b"\xff\xfe", "other bytes"),
            (self.packed({"other.json": "{}"}), "expected a file of that name"),
            (self.packed({"shelf.json": '{"format": "upper-tray/shelf", "version": 9}'}), "version"),
            (
                self.packed(
                    {"shelf.json": json.dumps({"format": "upper-tray/shelf", "version": 1, "profiles": ["../x"]})}
                ),
                "plain names",
            ),
            (self.packed({"shelf.json": " " * 41_000_000}), "at most 500 files and 40 MB"),
        ):
            with self.subTest(said):
                self.assertIn(said, self.upload("look-into", data, status=422)["detail"])

    def packed(self, files: dict[str, str]) -> bytes:
        made = io.BytesIO()
        with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as archive:
            for name, text in files.items():
                archive.writestr(name, text)
        return made.getvalue()
