"""Shared parts: versions, restored, deleted and put back, seen on three grounds."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
from PIL import Image

from server.recipes.models import Part, PartVersion, Recipe
from server.tests.cases import StudioCase

CREDIT: dict[str, Any] = {"marks": [{"text": "© {creator}", "size": 8}]}


class Parts(StudioCase):
    def setUp(self) -> None:
        super().setUp()
        self.one = self.recipe("Journal", finish=CREDIT)
        body = {"recipe": self.one.pk, "station": "finish", "name": "Credit"}
        self.part = self.send("post", "parts", body)

    def put(self, setting: dict[str, Any], version: int, status: int = 200) -> Any:
        return self.send("put", f"parts/{self.part['id']}", {"setting": setting, "version": version}, status)

    def says(self) -> Any:
        current = Recipe.objects.select_related("current").get(pk=self.one.pk).current
        assert current is not None
        return current.content

    def test_versions_are_kept_and_restored(self) -> None:
        self.assertEqual(self.part["version"], 1)
        darker = {"marks": [{"text": "© {creator}", "size": 8.0, "color": "#202020"}]}
        (changed,) = self.put(darker, 1)
        self.assertEqual((changed["version"], changed["used"][0]["title"]), (2, "Journal"))
        self.assertEqual(self.says()["finish"]["marks"][0]["color"], "#202020")
        self.assertEqual(Part.objects.get().setting, self.says()["finish"])
        answer = self.put(CREDIT, 1, 409)
        self.assertIn("found version 2", answer["detail"])
        self.put(darker, 1)  # what it says already is no change, whoever asks
        # Somebody else's change is another sitting.
        PartVersion.objects.filter(number=1).update(made_by=None)
        old = self.get(f"parts/{self.part['id']}/versions")
        self.assertEqual([each["number"] for each in old], [2, 1])
        (restored,) = self.put(old[1]["setting"], 2)
        self.assertEqual(restored["version"], 3)
        self.assertNotIn("color", str(self.says()["finish"]))

    def test_a_change_on_the_line_is_a_version_too(self) -> None:
        content = self.says() | {"finish": {"marks": [{"text": "Archive"}]}}
        self.change(self.one, content)
        part = Part.objects.get()
        self.assertEqual((part.newest, part.setting["marks"][0]["text"]), (2, "Archive"))

    def test_deleted_and_put_back(self) -> None:
        (before,) = self.get("parts")
        self.send("delete", f"parts/{self.part['id']}", status=204)
        self.assertNotIn("parts", self.says())
        body = {key: before[key] for key in ("station", "name", "setting")} | {"recipes": [self.one.pk]}
        (again,) = self.send("post", "parts/again", body)
        self.assertEqual(again["used"][0]["title"], "Journal")
        self.assertEqual(self.says()["parts"], {"finish": "Credit"})
        self.send("post", "parts/again", body, 409)
        self.send("post", "parts/again", body | {"name": "Other", "setting": {"marks": [{"size": 3}]}}, 422)
        # A recipe that says something else by now does not follow it.
        self.send("delete", f"parts/{again['id']}", status=204)
        self.change(self.one, self.says() | {"finish": {"marks": [{"text": "Changed"}]}})
        (again,) = self.send("post", "parts/again", body)
        self.assertEqual(again["used"], [])

    def test_seen_on_three_grounds_as_it_is_and_as_it_was(self) -> None:
        def lightness(ground: str, more: str = "") -> Any:
            answer = self.client.get(f"/api/parts/{self.part['id']}/on/{ground}{more}")
            self.assertEqual(answer.status_code, 200)
            return np.asarray(Image.open(io.BytesIO(answer.content)).convert("L")).astype(int)

        light, dark = lightness("light"), lightness("dark")
        self.assertLess(int(light[-80:, -300:].min()), 110)
        self.assertGreater(int(dark[-80:, -300:].max()), 150)
        self.assertGreater(float(lightness("busy").std()), 25)
        self.put({"borders": [{"width": "10 %", "color": "#000000"}]}, 1)
        self.assertLess(int(lightness("light")[:20].max()), 12)
        self.assertGreater(int(lightness("light", "?version=1")[:20].min()), 150)
        self.assertEqual(self.client.get(f"/api/parts/{self.part['id']}/on/purple").status_code, 422)
        self.assertEqual(self.client.get(f"/api/parts/{self.part['id']}/on/dark?version=9").status_code, 404)
