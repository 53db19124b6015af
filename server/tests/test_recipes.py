"""Recipes over the API: versions, problems by field, drafts that say what they would do."""

from __future__ import annotations

import datetime as dt
import json
import threading

from django.core.management import call_command
from django.db import connection
from django.utils import timezone

from server.project.api import api
from server.project.conf import PROJECT
from server.recipes import flows
from server.recipes.models import Recipe, RecipeVersion
from server.tests.cases import StudioCase
from tray_core.tests.samples import recipe as core_recipe


class Versions(StudioCase):
    def test_every_change_is_a_version(self) -> None:
        content = core_recipe("Banner").to_json()
        made = self.send("post", "recipes", {"content": content})
        self.assertEqual(
            (made["version"], made["size_line"], made["file_line"]), (1, "1600 long edge", "JPEG 84 · sRGB")
        )
        path = f"recipes/{made['id']}"
        self.assertEqual(self.send("put", path, {"content": content, "version": 1})["version"], 1)
        smaller = {**content, "title": "Strip", "size": {"by": "height", "pixels": 90, "enlarge": "never"}}
        changed = self.send("put", path, {"content": smaller, "version": 1})
        self.assertEqual((changed["version"], changed["title"]), (2, "Strip"))
        # One sitting, one version in the list; an hour later it is another.
        self.assertEqual([version["content"] for version in self.get(f"{path}/versions")], [smaller])
        RecipeVersion.objects.filter(number=1).update(made=timezone.now() - dt.timedelta(hours=1))
        versions = self.get(f"{path}/versions")
        self.assertEqual([version["content"] for version in versions], [smaller, content])
        said = ["title", "size: 1600 px on the long edge, never enlarged → 90 px high, never enlarged"]
        self.assertEqual([version["changed"] for version in versions], [said, ["new"]])
        again = self.send("post", "recipes", {"content": smaller})
        self.assertEqual(again["title"], "Strip 2")
        file = self.client.get(f"/api/{path}/file")
        self.assertIn('filename="Strip.json"', file["Content-Disposition"])
        self.assertEqual(json.loads(file.content), smaller)
        self.assertTrue(self.send("post", f"{path}/archived", {"archived": True})["archived"])

    def test_problems_by_field_change_nothing(self) -> None:
        recipe = self.recipe()
        bad = core_recipe().to_json() | {"sharpen": {"strength": 999}, "title": ""}
        problem = self.change(recipe, bad, status=422)
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
        self.change(recipe, content)
        cell = self.rows(tray.pk)[0]["cells"][0]
        self.assertEqual((cell["width"], cell["height"]), (958, 1198))
        picture = self.client.get(f"/api/pictures/cells/{photo}/{cell['version']}?edge=100")
        self.assertEqual((picture.status_code, picture["Content-Type"]), (200, "image/jpeg"))


class Description(StudioCase):
    def test_a_change_that_began_from_an_older_version_is_refused(self) -> None:
        recipe = self.recipe()
        content = self.get(f"recipes/{recipe.pk}")["content"]
        self.change(recipe, content | {"note": "one tab"})
        body = {"content": content | {"note": "another tab"}, "version": 1}
        problem = self.send("put", f"recipes/{recipe.pk}", body, status=409)
        self.assertIn("found version 2", problem["detail"])
        kept = self.get(f"recipes/{recipe.pk}")
        self.assertEqual((kept["version"], kept["content"]["note"]), (2, "one tab"))
        # The same change once more, as after an answer that was lost, is no conflict.
        self.send("put", f"recipes/{recipe.pk}", {"content": content | {"note": "one tab"}, "version": 1})

    def test_changes_at_once_of_recipes_that_share_a_part(self) -> None:
        """Each changes the part, and by it the others: they waited for each other in a circle."""
        recipes = [self.recipe(f"Recipe {n}") for n in range(3)]
        contents = {}
        for recipe in recipes:
            content = self.get(f"recipes/{recipe.pk}")["content"]
            contents[recipe.pk] = self.change(recipe, content | {"parts": {"file": "Web"}})["content"]
        failed: list[BaseException] = []
        together = threading.Barrier(3)

        def change(recipe: Recipe, turn: int) -> None:
            together.wait()
            quality = 60 + turn * 3 + recipes.index(recipe)
            try:
                flows.change(recipe, None, contents[recipe.pk] | {"file": {"format": "jpeg", "quality": quality}})
            except BaseException as error:
                failed.append(error)
            finally:
                connection.close()

        for turn in range(5):
            threads = [threading.Thread(target=change, args=[recipe, turn]) for recipe in recipes]
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
        self.assertEqual(failed, [])
        said = {self.get(f"recipes/{recipe.pk}")["content"]["file"]["quality"] for recipe in recipes}
        self.assertEqual(len(said), 1)

    def test_openapi_document_is_the_api(self) -> None:
        """The front end's types are made from it: ./upper-tray manage export_openapi_schema renews it."""
        import io
        import json

        written = io.StringIO()
        call_command("export_openapi_schema", api="server.project.api.api", sorted=True, indent=1, stdout=written)
        self.assertEqual(json.loads(written.getvalue()), json.loads((PROJECT / "server" / "openapi.json").read_text()))
        self.assertEqual(api.title, "Upper Tray")
