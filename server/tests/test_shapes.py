"""Shapes on the server: framings kept and undone, runs that wait for a crop, trays looked at again, sums."""

from __future__ import annotations

import os
import shutil
from pathlib import Path
from typing import Any

from django.core.management import call_command

from server.framings.models import Framing
from server.photos.models import Photo
from server.runs.models import Rendition, Run
from server.tests.cases import StudioCase
from server.trays.models import Tray
from server.trays.watching import look_again, look_at_fresh_trays
from tray_core.tests.samples import PHOTOS

SMALL = "mixed/tiny-for-enlarging_640.jpg"
SQUARE = {"way": "crop", "shape": "1:1", "anchor": "ask"}
LEFT = {"name": "left", "x": 0, "y": 0, "width": 427 / 640, "height": 1}


class Framings(StudioCase):
    def setUp(self) -> None:
        super().setUp()
        self.copy(SMALL)
        self.square = self.recipe("Square", frame=SQUARE, size=None)
        self.tray_ = self.tray(self.square)
        self.work()
        self.photo = Photo.objects.get()
        self.path = f"trays/{self.tray_.pk}"

    def bench(self) -> Any:
        return self.get(f"{self.path}/bench/{self.photo.pk}/{self.square.pk}")

    def test_a_proposal_and_what_is_kept_of_it(self) -> None:
        bench = self.bench()
        self.assertEqual((bench["asks"], bench["proposed"], bench["ratio"]), (True, True, 1.0))
        self.assertEqual(bench["numbers"]["panel"], {"width": 427, "height": 427})
        cell = self.rows(self.tray_.pk)[0]["cells"][0]
        self.assertEqual((cell["state"], cell["warnings"][0]["code"]), ("eye", "eye"))
        before = self.send("put", f"{self.path}/framings", {"photos": {self.photo.pk: [LEFT]}})
        self.assertEqual(before, {"photos": {str(self.photo.pk): []}})
        bench = self.bench()
        self.assertEqual((bench["asks"], bench["framings"][0]["used"]), (False, True))
        self.assertEqual(bench["framings"][0]["shape"], "square")
        cell = self.rows(self.tray_.pk)[0]["cells"][0]
        self.assertEqual((cell["state"], cell["framing"]), ("planned", "left"))
        self.send("put", f"{self.path}/framings", before)
        self.assertEqual(Framing.objects.count(), 0)

    def test_numbers_of_one_that_is_only_drawn(self) -> None:
        draft = LEFT | {"x": 0.5, "width": 427 / 640 / 2, "height": 0.5}
        numbers = self.send("post", f"{self.path}/bench/{self.photo.pk}/{self.square.pk}", draft)
        self.assertEqual(numbers["panel"], {"width": 214, "height": 214})
        self.assertEqual(Framing.objects.count(), 0)
        path = f"{self.path}/bench/{self.photo.pk}/{self.square.pk}"
        wrong = self.send("post", path, LEFT | {"width": 0}, status=422)
        self.assertIn("expected a width", wrong["detail"])
        picture = self.client.get(
            f"/api/pictures/drafts/{self.photo.pk}",
            {"recipe": _json(self.square.current.content), "framing": _json(LEFT), "of": self.square.pk, "edge": 100},
        )
        self.assertEqual((picture.status_code, picture["Content-Type"]), (200, "image/jpeg"))

    def test_by_anchor_and_carried_over_to_others(self) -> None:
        self.copy("shop-stock/QM4_0117.jpg")
        shutil.copy(PHOTOS / SMALL, self.folder / "another.jpg")
        look_again(self.tray_)
        self.work()
        others = list(Photo.objects.exclude(pk=self.photo.pk).order_by("name"))
        cells = [[photo.pk, self.square.pk] for photo in Photo.objects.all()]
        self.send("post", f"{self.path}/anchor", {"cells": cells, "anchor": "nowhere"}, status=422)
        before = self.send("post", f"{self.path}/anchor", {"cells": cells, "anchor": "right"})
        self.assertEqual(set(map(len, before["photos"].values())), {0})
        framing = self.photo.framings.get()
        self.assertAlmostEqual(framing.x + framing.width, 1)
        self.assertEqual(framing.name, "right")
        carried = {"source": self.photo.pk, "framing": LEFT, "photos": [photo.pk for photo in others]}
        before = self.send("post", f"{self.path}/carry", carried)
        self.assertEqual([each["name"] for each in before["photos"][str(others[0].pk)]], ["right"])
        for photo in others:
            first = photo.framings.first()
            assert first is not None
            self.assertEqual(first.name, "left")
            self.assertAlmostEqual(first.core().ratio((photo.width, photo.height)), 1, places=2)
        self.send("put", f"{self.path}/framings", before)
        self.assertEqual(set(Framing.objects.values_list("name", flat=True)), {"right"})


class Asking(StudioCase):
    def test_a_run_makes_the_others_and_takes_in_what_is_answered(self) -> None:
        for name in ("a.jpg", "b.jpg"):
            shutil.copy(PHOTOS / SMALL, self.folder / name)
        square, plain = self.recipe("Square", frame=SQUARE, size=None), self.recipe("Plain")
        tray = self.tray(square, plain)
        self.work()
        sums = self.get(f"trays/{tray.pk}/overview")
        self.assertEqual((sums["renditions"], sums["to_make"], sums["eye"]), (4, 2, 2))
        self.send("post", f"trays/{tray.pk}/runs", {"cells": [[Photo.objects.first().pk, square.pk]]}, status=409)
        number = self.send("post", f"trays/{tray.pk}/runs", {})["id"]
        self.work()
        run = Run.objects.get(pk=number)
        self.assertEqual((self.states(run), run.finished), ({"made": 2, "asking": 2}, None))
        # Starting again takes nothing twice: what waits for a crop waits already.
        self.send("post", f"trays/{tray.pk}/runs", {}, status=409)
        one, two = Photo.objects.order_by("name")
        cells = [[photo.pk, recipe.pk] for photo in (one, two) for recipe in (square, plain)]
        asking = self.send("post", f"trays/{tray.pk}/asking", {"cells": cells})
        self.assertEqual(asking, [{"photo": photo.pk, "recipe": square.pk} for photo in (one, two)])
        self.send("put", f"trays/{tray.pk}/framings", {"photos": {one.pk: [LEFT]}})
        self.assertEqual(self.states(run), {"made": 2, "asking": 1, "waiting": 1})
        asking = self.send("post", f"trays/{tray.pk}/asking", {"cells": cells})
        self.assertEqual(asking, [{"photo": two.pk, "recipe": square.pk}])
        self.work()
        row = run.renditions.get(photo=one, recipe=square)
        self.assertEqual((row.state, row.layout["rect"][0], row.receipt["width"]), ("made", 0, 427))
        states = {cell["recipe"]: cell["state"] for cell in self.rows(tray.pk)[0]["cells"]}
        self.assertEqual(states, {square.pk: "done", plain.pk: "done"})
        self.send("post", f"runs/{number}/stop")
        run.refresh_from_db()
        self.assertEqual((self.states(run)["stopped"], run.finished is not None), (1, True))
        self.assertEqual(Rendition.objects.get(photo=two, recipe=square).state, "stopped")

    def test_a_name_that_tells_a_size_tells_the_size_that_is_made(self) -> None:
        self.copy(SMALL)
        square = self.recipe("Square", frame=SQUARE, size=None, name={"pattern": "{recipe}-{width}"})
        tray = self.tray(square, self.recipe("Plain"))
        self.work()
        number = self.send("post", f"trays/{tray.pk}/runs", {})["id"]
        self.work()
        photo = Photo.objects.get()
        height = 0.6 * photo.width / photo.height
        small = {"name": "close", "x": 0.1, "y": 0.1, "width": 0.6, "height": height}
        self.send("put", f"trays/{tray.pk}/framings", {"photos": {photo.pk: [LEFT | small]}})
        self.work()
        row = Run.objects.get(pk=number).renditions.get(recipe=square)
        self.assertLess(row.width, 400)
        self.assertEqual((row.name, row.receipt["width"]), (f"Square-{row.width}.jpg", row.width))
        self.assertEqual(Path(row.path).name, row.name)

    def test_panels_are_made_from_one_picture_and_found_again(self) -> None:
        self.copy(SMALL)
        frame = {"way": "crop", "shape": "1:1", "panels": {"columns": 3, "rows": 1}}
        tray = self.tray(self.recipe("Panels", frame=frame, size={"by": "width", "pixels": 50}))
        self.work()
        self.send("post", f"trays/{tray.pk}/runs", {})
        self.work()
        (cell,) = self.rows(tray.pk)[0]["cells"]
        self.assertEqual((cell["state"], cell["parts"], len(cell["renditions"])), ("done", 3, 3))
        run = Run.objects.get()
        self.assertEqual(sorted(row.name[-6:] for row in self.made(run)), ["-1.jpg", "-2.jpg", "-3.jpg"])
        self.assertEqual(self.send("post", f"trays/{tray.pk}/runs", {}, status=409)["title"], "Nothing to make")


class LookingAgain(StudioCase):
    def test_new_changed_gone_and_back_again(self) -> None:
        self.copy(SMALL, "shop-stock/QM4_0117.jpg", "broken/packing-list_renamed.jpg", folder="in")
        tray = self.tray(self.recipe())
        self.work()
        self.assertEqual(
            self.send("post", f"trays/{tray.pk}/look-again"), {"new": 0, "changed": 0, "gone": 0, "odd": []}
        )
        gone = self.folder / "in" / Path(SMALL).name
        aside = self.folder.parent / "aside.jpg"
        shutil.move(gone, aside)
        shutil.copy(PHOTOS / "shop-stock" / "QM4_0118.jpg", self.folder / "in" / "QM4_0117.jpg")
        self.copy("shop-stock/QM4_0121.jpg", folder="in/deeper")
        self.assertEqual(
            self.send("post", f"trays/{tray.pk}/look-again"), {"new": 1, "changed": 1, "gone": 1, "odd": []}
        )
        self.work()
        states = dict(Photo.objects.values_list("name", "state"))
        self.assertEqual(states.pop(gone.name), "gone")
        self.assertEqual(states.pop("packing-list_renamed.jpg"), "unreadable", "read once, and not again and again")
        self.assertEqual(set(states.values()), {"ready"})
        self.assertEqual(self.get(f"trays/{tray.pk}/board?state=gone")["photos"], [Photo.objects.get(state="gone").pk])
        shutil.move(aside, gone)
        look_at_fresh_trays()  # as the system worker does, for trays that are open somewhere
        self.work()
        self.assertEqual(Photo.objects.get(name=gone.name).state, "ready")

    def test_photos_are_taken_out_and_put_back(self) -> None:
        self.copy(SMALL, "shop-stock/QM4_0117.jpg")
        tray = self.tray(self.recipe())
        order = self.get(f"trays/{tray.pk}/board")["photos"]
        taken = self.send("post", f"trays/{tray.pk}/take-out", {"photos": order[:1]})
        self.assertEqual(self.get(f"trays/{tray.pk}/board")["photos"], order[1:])
        self.send("post", f"trays/{tray.pk}/put-back", taken, status=204)
        self.assertEqual(self.get(f"trays/{tray.pk}/board")["photos"], order)
        self.send("put", f"trays/{tray.pk}", {"archived": True})
        self.assertEqual(self.get("trays"), [])
        self.send("put", f"trays/{tray.pk}", {"archived": False, "name": "Winter"})
        self.assertEqual(self.get("trays")[0]["name"], "Winter")


class Boards(StudioCase):
    def test_order_filters_windows_and_names(self) -> None:
        for number, name in enumerate((SMALL, "shop-stock/QM4_0117.jpg", "mixed/hall_web.webp")):
            self.copy(name, folder=f"f{number}")
        place = {"to": "output", "subfolder": "x", "taken": "new-name"}
        one = self.recipe("One", name={"pattern": "same"}, place=place)
        two = self.recipe("Two")
        tray = self.tray(two, one)
        self.work()
        board = self.get(f"trays/{tray.pk}/board")
        self.assertEqual([recipe["title"] for recipe in board["recipes"]], ["Two", "One"])
        self.assertEqual([tuple(group.values()) for group in board["groups"]], [(f"f{n}", n, 1) for n in range(3)])
        self.assertEqual(board["formats"], ["JPEG", "WebP"])
        names = {photo.pk: photo.name for photo in Photo.objects.all()}

        def shown(query: str) -> list[str]:
            return [names[photo][:4] for photo in self.get(f"trays/{tray.pk}/board?{query}")["photos"]]

        self.assertEqual(shown("sort=name"), ["QM4_", "hall", "tiny"])
        self.assertEqual(shown("sort=weight")[-1], "tiny")
        self.assertEqual(shown("sort=shape"), ["tiny", "QM4_", "hall"])
        self.assertEqual(shown("shape=portrait"), ["hall"])
        self.assertEqual(shown("format=JPEG&name=TINY"), ["tiny"])
        self.assertEqual(shown("state=done"), [])
        window = self.send("post", f"trays/{tray.pk}/rows", {"photos": board["photos"][2:]})
        self.assertEqual(window[0]["cells"][1]["name"], "same-3.jpg")
        self.assertIn("same-name", [warning["code"] for warning in window[0]["cells"][1]["warnings"]])
        names_of = f"trays/{tray.pk}/names/{board['photos'][1]}/{one.pk}"
        self.assertEqual(self.get(names_of), [{"name": "same-2.jpg", "folder": "x"}])
        self.assertEqual(self.get(f"trays/{tray.pk}/overview")["same_names"], 2)

    def test_what_was_lit_last_is_lit_again_in_its_order(self) -> None:
        one, two, _ = self.recipe("One"), self.recipe("Two"), self.recipe("Three")
        self.tray(two, one, name="First")
        second = self.send("post", "trays", {"name": "Second"})["id"]
        titles = [recipe["title"] for recipe in self.get(f"trays/{second}/board")["recipes"]]
        self.assertEqual(titles, ["Two", "One"])

    def test_recipes_are_ordered_start_from_starters_and_tell_their_versions(self) -> None:
        one, two = self.recipe("One"), self.recipe("Two")
        self.assertEqual([r["id"] for r in self.send("put", "recipes/order", {"recipes": [two.pk]})], [two.pk, one.pk])
        starters = self.get("recipes/starters")
        self.assertEqual(len(starters), 10)
        panels = next(each for each in starters if each["title"] == "Story in six panels")
        self.assertEqual(panels["drawing"], {"way": "crop", "by": "width", "ratio": 6.0, "columns": 6, "rows": 1})
        made = self.send("post", "recipes", {"content": panels["content"] | {"shelf": "Feeds"}})
        self.assertEqual((made["shelf"], made["note"]), ("Feeds", panels["note"]))
        self.send(
            "put", f"recipes/{made['id']}", {"content": made["content"] | {"note": ""}, "version": made["version"]}
        )
        versions = self.get(f"recipes/{made['id']}/versions")
        self.assertEqual([version["number"] for version in versions], [2])
        self.assertIn("six squares", versions[0]["sentence"])

    def test_cell_pictures_come_together(self) -> None:
        self.copy(SMALL)
        recipe = self.recipe()
        self.tray(recipe)
        self.work()
        cell = {"photo": Photo.objects.get().pk, "version": recipe.current_id}
        body = {"cells": [cell, {**cell, "photo": 9999}, cell], "edge": 120}
        answer = self.client.post("/api/pictures/cells", body, content_type="application/json")
        found = []
        at = 0
        while at < len(answer.content):
            length = int.from_bytes(answer.content[at : at + 4], "big")
            found.append(answer.content[at + 4 : at + 4 + length])
            at += 4 + length
        self.assertEqual([bool(each) for each in found], [True, False, True])
        self.assertEqual(found[0][:3], b"\xff\xd8\xff")
        self.assertEqual(found[0], found[2])

    def test_a_large_tray_is_made_of_what_is_there(self) -> None:
        self.copy(SMALL)
        self.tray(self.recipe())
        self.work()
        with open(os.devnull, "w") as nowhere:
            call_command("make_large_tray", photos=1200, name="Big", stdout=nowhere)
        tray = Tray.objects.get(name="Big")
        board = self.get(f"trays/{tray.pk}/board")
        self.assertEqual((board["total"], len(board["photos"]), len(board["rows"])), (1200, 1200, 8))
        self.assertEqual(board["rows"][0]["cells"][0]["name"], "", "nobody planned all of it yet")
        self.assertEqual(self.get(f"trays/{tray.pk}/overview")["renditions"], 1200)
        window = self.send("post", f"trays/{tray.pk}/rows", {"photos": board["photos"][-1:]})
        self.assertIn("01199", window[0]["cells"][0]["name"])


def _json(values: Any) -> str:
    import json

    return json.dumps(values)
