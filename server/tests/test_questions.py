"""Questions of runs: names that are taken and words that are missing wait for a person, and the rest goes on."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from server.runs.models import Rendition, Run
from server.tests.cases import StudioCase
from server.trays.models import Tray
from tray_core.tests.samples import jpeg, scene

ASK: dict[str, Any] = {"to": "output", "subfolder": "out", "taken": "ask"}


class Asking(StudioCase):
    def photos(self, *names: str) -> None:
        for seed, name in enumerate(names):
            (self.folder / name).write_bytes(jpeg(scene(60, 40, seed=seed + 1)))

    def run_all(self, tray: Tray, **more: Any) -> Run:
        run = Run.objects.get(pk=self.send("post", f"trays/{tray.pk}/runs", more)["id"])
        self.work()
        return run

    def there(self, name: str, data: bytes = b"somebody else's") -> Path:
        path = self.output / "out" / name
        path.parent.mkdir(exist_ok=True, parents=True)
        path.write_bytes(data)
        return path

    def answer(self, said: str, status: int = 200, **which: Any) -> Any:
        return self.send("post", "questions/answers", {"answer": said, **which}, status=status)

    def test_a_taken_name_is_asked_about_and_each_answer_does_what_it_says(self) -> None:
        self.photos("a.jpg", "b.jpg", "c.jpg", "d.jpg")
        tray = self.tray(self.recipe("Asks", place=ASK))
        self.work()
        for name in ("a.jpg", "b.jpg", "c.jpg"):
            self.there(name)
        run = self.run_all(tray)
        self.assertEqual(self.states(run), {"made": 1, "asking": 3})
        self.assertEqual([row["cells"][0]["state"] for row in self.rows(tray.pk)], ["asking"] * 3 + ["done"])
        self.assertEqual(self.get(f"trays/{tray.pk}/overview")["to_make"], 0)
        self.send("post", f"trays/{tray.pk}/runs", {}, status=409)
        told = self.get("questions")
        self.assertEqual((told["counts"]["name"], told["total"], told["made"], told["runs"]), (3, 4, 1, 1))
        first = told["questions"][0]
        self.assertEqual((first["kind"], first["name"], first["there"]["bytes"]), ("name", "a.jpg", 15))
        self.assertFalse(first["there"]["ours"])
        served = self.client.get(f"/api/questions/{first['id']}/there")
        self.assertEqual((served.status_code, served["Content-Type"]), (200, "image/jpeg"))
        one, two, three = (each["id"] for each in told["questions"])
        for number, said in ((one, "new-name"), (two, "replace"), (three, "keep")):
            self.assertEqual(self.answer(said, questions=[number]), {"answered": 1})
        self.work()
        self.assertEqual(self.states(run), {"made": 3, "kept": 1})
        found = {path.name: path.read_bytes() == b"somebody else's" for path in (self.output / "out").iterdir()}
        self.assertEqual(found, {"a.jpg": True, "a-2.jpg": False, "b.jpg": False, "c.jpg": True, "d.jpg": False})
        run.refresh_from_db()
        self.assertIsNotNone(run.finished)
        self.answer("keep", questions=[one], status=409)

    def test_one_answer_for_a_recipe_or_for_all(self) -> None:
        self.photos("a.jpg", "b.jpg")
        one = self.recipe("One", place=ASK)
        two = self.recipe("Two", place=ASK, name={"pattern": "{stem}-two"})
        tray = self.tray(one, two)
        self.work()
        for name in ("a.jpg", "b.jpg", "a-two.jpg", "b-two.jpg"):
            self.there(name)
        run = self.run_all(tray)
        self.assertEqual(self.answer("replace", recipe=one.pk), {"answered": 2})
        self.assertEqual(self.answer("keep"), {"answered": 2})
        self.work()
        self.assertEqual(self.states(run), {"made": 2, "kept": 2})

    def test_a_missing_word_waits_for_its_typing_and_the_rest_goes_on(self) -> None:
        self.photos("a.jpg", "b.jpg", "c.jpg")
        recipe = self.recipe("Titled", name={"pattern": "{title}"}, place=ASK | {"taken": "new-name"})
        tray = self.tray(recipe, self.recipe("Plain"))
        self.work()
        rows = self.rows(tray.pk)
        self.assertEqual([row["cells"][0]["state"] for row in rows], ["word"] * 3)
        self.assertEqual(self.get(f"trays/{tray.pk}/overview")["to_make"], 3)
        photos = [row["photo"]["id"] for row in rows]
        self.send(
            "put", f"trays/{tray.pk}/words", {"edits": [{"photo": photos[0], "typed": {"title": "Lark"}, "version": 0}]}
        )
        run = self.run_all(tray)
        self.assertEqual(self.states(run), {"made": 4, "asking": 2})
        two, three = self.get("questions")["questions"]
        self.assertEqual((two["kind"], two["words"], two["photo"]), ("word", ["title"], photos[1]))
        edit = {"photo": photos[1], "typed": {"title": "Lark"}, "version": two["typed_version"]}
        self.send("put", f"trays/{tray.pk}/words", {"edits": [edit]})
        self.answer("own-name", questions=[three["id"]])
        self.work()
        self.assertEqual(self.states(run), {"made": 6})
        names = sorted(path.name for path in (self.output / "out").iterdir())
        self.assertEqual(names, ["Lark-2.jpg", "Lark.jpg", "c.jpg"])

    def test_only_words_missing_makes_nothing(self) -> None:
        self.photos("a.jpg")
        tray = self.tray(self.recipe("Titled", name={"pattern": "{title}"}))
        self.work()
        told = self.send("post", f"trays/{tray.pk}/runs", {}, status=409)
        self.assertEqual(told["title"], "These need a word first")

    def test_stopping_a_run_ends_its_questions(self) -> None:
        self.photos("a.jpg")
        tray = self.tray(self.recipe("Asks", place=ASK))
        self.work()
        self.there("a.jpg")
        run = self.run_all(tray)
        (question,) = self.get("questions")["questions"]
        self.send("post", f"runs/{run.pk}/stop")
        self.assertEqual(self.get("questions")["questions"], [])
        self.answer("replace", questions=[question["id"]], status=409)
        self.assertEqual(Rendition.objects.get().state, "stopped")
        self.assertEqual(self.rows(tray.pk)[0]["cells"][0]["state"], "planned")
