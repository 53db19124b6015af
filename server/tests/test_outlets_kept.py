"""Outlets over the API: sheets by version, recipes that are for them, files held against them, rehearsals."""

from __future__ import annotations

import io
import json
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from server.outlets import flows
from server.photos.models import Photo
from server.recipes.models import Recipe
from server.studios.models import Studio
from server.tests.cases import StudioCase
from tray_core.outlets import read_outlet_file
from tray_core.tests.samples import DEMO, jpeg, scene


class Outlets(StudioCase):
    def setUp(self) -> None:
        super().setUp()
        self.sheet = read_outlet_file(DEMO / "outlets" / "1-gridwick.json").to_json()
        self.outlet = self.send("post", "outlets", {"content": self.sheet})
        self.at = f"outlets/{self.outlet['id']}"

    def changed(self, **rules: Any) -> dict[str, Any]:
        """The sheet with other rules for its first use."""
        first, *others = self.sheet["uses"]
        return {**self.sheet, "uses": [{**first, "rules": {**first["rules"], **rules}}, *others]}

    def test_sheets_are_kept_by_version(self) -> None:
        first = self.send("put", self.at, {"content": self.changed(kilobytes=4000), "version": 1})
        self.assertEqual((first["version"], first["content"]["uses"][0]["rules"]["kilobytes"]), (2, 4000))
        late = self.send("put", self.at, {"content": self.changed(kilobytes=300), "version": 1}, 409)
        self.assertIn("found version 2", late["detail"])
        # The same once more is no conflict: a press twice, or two pages that agree.
        self.assertEqual(
            self.send("put", self.at, {"content": self.changed(kilobytes=4000), "version": 1})["version"], 2
        )
        # Undone and done again, as often as one likes, while nobody else changed it.
        now, then = self.changed(kilobytes=4000), self.sheet
        for content, was in ((then, now), (now, then), (then, now), (now, then)):
            self.send("put", self.at, {"content": content, "was": was})
        self.send("put", self.at, {"content": self.changed(kilobytes=9), "was": then}, 409)
        self.send("put", self.at, {"content": self.changed(kilobytes=9)}, 409)
        wrong = self.send("put", self.at, {"content": self.changed(least=[9000, 9000]), "version": 6}, 422)
        self.assertEqual(wrong["fields"][0]["field"], "uses.0.rules.least")
        self.assertEqual(self.send("post", "outlets", {"content": self.sheet})["name"], "Gridwick 2")
        taken = self.send("put", self.at, {"content": {**self.sheet, "name": "Gridwick 2"}, "version": 6}, 422)
        self.assertEqual(taken["fields"][0]["field"], "name")
        file = self.client.get(f"/api/{self.at}/file")
        self.assertEqual(json.loads(file.content)["uses"][0]["rules"]["kilobytes"], 4000)
        self.assertIn('filename="Gridwick.json"', file["Content-Disposition"])

    def test_others_see_none_of_it(self) -> None:
        other = flows.create(Studio.objects.create(name="Elsewhere"), self.sheet)
        for method, path in (("get", ""), ("put", ""), ("delete", ""), ("get", "/file"), ("post", "/recipes")):
            body = {"content": self.sheet, "version": 1, "use": "Post"} if method != "get" else None
            self.send(method, f"outlets/{other.pk}{path}", body, 404)
        self.assertEqual([each["name"] for each in self.get("outlets")], ["Gridwick"])

    def test_recipes_for_it_are_marked_when_it_changes(self) -> None:
        recipe = self.recipe("Square")
        told = self.send("put", f"{self.at}/recipes/{recipe.pk}", {"use": "Post", "version": 1})
        proposed = self.send("post", f"{self.at}/recipes", {"use": "Avatar"})
        self.assertEqual(proposed["content"]["size"]["width"], 320)
        self.assertEqual([(each["title"], each["changed"]) for each in told["recipes"]], [("Square", False)])
        self.send("put", self.at, {"content": self.changed(least=[600, 600]), "version": 1})
        told = {each["title"]: each for each in self.get(self.at)["recipes"]}
        self.assertEqual([told[each]["changed"] for each in ("Square", "Gridwick avatar")], [True, False])
        self.send("put", f"{self.at}/recipes/{recipe.pk}", {"use": "Post", "version": 1}, 409)
        self.send("put", f"{self.at}/recipes/{recipe.pk}", {"use": "Post", "version": 2})
        self.assertFalse(any(each["changed"] for each in self.get(self.at)["recipes"]))
        # They follow its name, notice a use that goes, and outlive the sheet.
        renamed = {**self.changed(least=[600, 600]), "name": "Gridwick Pro", "uses": self.sheet["uses"][1:]}
        told = {
            each["title"]: each["gone"]
            for each in self.send("put", self.at, {"content": renamed, "version": 2})["recipes"]
        }
        self.assertEqual(told, {"Square": True, "Gridwick avatar": False})
        self.client.delete(f"/api/{self.at}")
        current = Recipe.objects.select_related("current").get(pk=recipe.pk).current
        assert current is not None
        self.assertEqual(current.content["outlet"]["outlet"], "Gridwick Pro")
        self.assertEqual(current.content["outlet"]["rules"]["least"], [600, 600])

    def test_the_board_warns_where_a_rule_breaks(self) -> None:
        recipe = self.recipe("Small")
        self.send("put", f"{self.at}/recipes/{recipe.pk}", {"use": "Post", "version": 1})
        (self.folder / "a.jpg").write_bytes(jpeg(scene(600, 400)))
        tray = self.tray(recipe)
        self.work()
        (row,) = self.rows(tray.pk)
        labels = [each["label"] for each in row["cells"][0]["warnings"] if each["code"] == "outlet"]
        self.assertEqual(labels, ["too small", "cut by Gridwick", "looks soft"])

    def check(self, name: str, data: bytes, use: str = "Post", status: int = 200) -> Any:
        file = SimpleUploadedFile(name, data)
        answer = self.client.post(f"/api/{self.at}/check?use={use}", {"file": file})
        self.assertEqual(answer.status_code, status, answer.content[:300])
        return answer.json()

    def test_files_from_anywhere_are_held_against_it(self) -> None:
        told = self.check("hall.jpg", jpeg(scene(300, 300)))
        kinds = {each["label"]: each["kind"] for each in told["breaches"]}
        self.assertEqual(kinds, {"too small": "refuses", "looks soft": "spoils", "saved anew": "changes"})
        self.assertEqual((told["format"], told["width"], told["unread"]), ("jpeg", 300, ""))
        picture = io.BytesIO()
        Image.new("RGB", (1080, 1080)).save(picture, "TIFF")
        self.assertEqual(self.check("a.tif", picture.getvalue())["breaches"][0]["label"], "no TIFF")
        for data in (b"words", jpeg(scene(300, 300))[:120]):
            self.assertIn("Expected", self.check("notes.txt", data)["unread"])
        self.assertEqual(self.check("cut.jpg", jpeg(scene(300, 300))[:-900])["breaches"][0]["label"], "ends early")
        self.assertIn("no use named Story", self.check("a.jpg", b"x", "Story", 404)["detail"])

    def test_a_rehearsal_scores_what_people_will_see(self) -> None:
        (self.folder / "a.jpg").write_bytes(jpeg(scene(1400, 1000, seed=3)))
        recipe = self.recipe("Square", size={"by": "width", "pixels": 400}, frame={"way": "crop", "shape": "1:1"})
        tray = self.tray(recipe)
        self.work()
        body = {"tray": tray.pk, "photo": Photo.objects.get().pk, "recipe": recipe.pk, "use": "Post"}
        about = self.send("post", f"{self.at}/rehearsal", body)
        self.assertEqual((about["width"], about["seen_width"], about["seen_height"]), (400, 1000, 1000))
        scores = []
        for quality in (30, 95):
            variant = {"scale": 2, "quality": quality}
            made = self.send("post", f"{self.at}/rehearsal/variant", {**body, "variant": variant})
            served = self.client.post(
                f"/api/{self.at}/rehearsal/picture", {**body, "variant": variant}, "application/json"
            )
            with Image.open(io.BytesIO(served.content)) as image:
                self.assertEqual((image.size, len(served.content)), ((800, 800), made["shown"]))
            self.assertEqual((made["width"], made["what"]), (800, f"800 wide, JPEG {quality}"))
            scores.append(made["score"])
        self.assertGreater(scores[1], scores[0] + 3)
        used = self.send("post", f"{self.at}/rehearsal/recipe", {**body, "variant": {"scale": 2, "quality": 95}})
        self.assertEqual((used["content"]["size"]["pixels"], used["content"]["file"]["quality"]), (800, 95))
        wrong = self.send("post", f"{self.at}/rehearsal/variant", {**body, "variant": {"quality": 200}}, 422)
        self.assertIn("quality", wrong["detail"])
        self.send("post", f"{self.at}/rehearsal/variant", {**body, "variant": {"format": "webp"}}, 422)
