"""Recipes over the API: versions, problems by field, drafts that say what they would do."""

from __future__ import annotations

from django.core.management import call_command

from server.api import api
from server.conf import PROJECT
from server.tests.cases import StudioCase
from tray_core.tests.samples import recipe as core_recipe


class Versions(StudioCase):
    def test_every_change_is_a_version(self) -> None:
        content = core_recipe("Banner").to_json()
        made = self.send("post", "recipes", {"content": content})
        self.assertEqual(
            (made["version"], made["size_line"], made["file_line"]), (1, "1600 long edge", "jpeg 84 · sRGB")
        )
        path = f"recipes/{made['id']}"
        self.assertEqual(self.send("put", path, {"content": content})["version"], 1)
        smaller = {**content, "title": "Strip", "size": {"by": "height", "pixels": 90, "enlarge": "never"}}
        changed = self.send("put", path, {"content": smaller})
        self.assertEqual((changed["version"], changed["title"]), (2, "Strip"))
        versions = self.get(f"{path}/versions")
        self.assertEqual([version["content"] for version in versions], [smaller, content])
        self.assertTrue(self.send("post", f"{path}/archived", {"archived": True})["archived"])

    def test_problems_by_field_change_nothing(self) -> None:
        recipe = self.recipe()
        bad = core_recipe().to_json() | {"sharpen": {"strength": 999}, "title": ""}
        problem = self.send("put", f"recipes/{recipe.pk}", {"content": bad}, status=422)
        self.assertEqual(problem["fields"][0]["field"], "sharpen.strength")
        self.assertEqual(problem["fields"][0]["found"], "999")
        untitled = self.send("post", "recipes", {"content": core_recipe("").to_json()}, status=422)
        self.assertEqual(untitled["fields"][0]["field"], "title")
        self.assertEqual(self.get(f"recipes/{recipe.pk}")["version"], 1)


class Drafts(StudioCase):
    def test_forecast_follows_at_once(self) -> None:
        self.copy("shop-stock/QM4_0123.jpg")
        recipe = self.recipe()
        tray = self.tray(recipe)
        self.work()
        photo = self.rows(tray.pk)[0]["photo"]["id"]
        content = core_recipe("Wide", size={"by": "width", "pixels": 958}).to_json()
        said = self.send("post", "drafts", {"content": content, "photos": [photo]})
        self.assertEqual((said["plans"][0]["width"], said["plans"][0]["height"]), (958, 1198))
        self.assertIn("958 px wide", "".join(phrase["text"] for phrase in said["sentence"]))
        self.send("put", f"recipes/{recipe.pk}", {"content": content})
        cell = self.rows(tray.pk)[0]["cells"][0]
        self.assertEqual((cell["width"], cell["height"]), (958, 1198))
        picture = self.client.get(f"/api/pictures/cells/{photo}/{cell['version']}?edge=100")
        self.assertEqual((picture.status_code, picture["Content-Type"]), (200, "image/jpeg"))


class Description(StudioCase):
    def test_openapi_document_is_the_api(self) -> None:
        """The front end's types are made from it: ./upper-tray manage export_openapi_schema renews it."""
        import io
        import json

        written = io.StringIO()
        call_command("export_openapi_schema", api="server.api.api", sorted=True, indent=1, stdout=written)
        self.assertEqual(json.loads(written.getvalue()), json.loads((PROJECT / "server" / "openapi.json").read_text()))
        self.assertEqual(api.title, "Upper Tray")
