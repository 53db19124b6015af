"""What is chosen on a board: areas of what is shown, whatever a page has loaded; counts are what happens then."""

from __future__ import annotations

import random
from typing import Any

from server.framings.models import Framing
from server.photos.models import Photo
from server.tests.cases import StudioCase
from server.trays.models import Tray

ASKS = {"way": "crop", "shape": "16:9", "anchor": "ask"}


class Choosing(StudioCase):
    def tray_of(self, count: int, **more: Any) -> tuple[Tray, list[int], list[int]]:
        """A tray of photos of four shapes by three recipes, the last of which asks, and three photos that cannot be
        read.
        """
        recipes = [self.recipe("Plain"), self.recipe("Small"), self.recipe("Asks", frame=ASKS)]
        tray = self.tray(*recipes)
        photos = self.read_already(tray, [f"a/{n:03}.jpg" for n in range(count)])
        Photo.objects.filter(pk__in=photos[1:4]).update(state="unreadable", reason="cut short")
        return tray, photos, [recipe.pk for recipe in recipes]

    def count(self, tray: Tray, areas: list[Any] | None, **how: str) -> Any:
        return self.send("post", f"trays/{tray.pk}/chosen", {"areas": areas, "how": how})

    def test_the_number_is_what_a_run_makes(self) -> None:
        tray, photos, recipes = self.tray_of(24)
        everything = self.count(tray, [{}])
        self.assertEqual((everything["cells"], everything["photos"], everything["unread"]), (72, 24, 3))
        # 21 photos by two recipes, and by the third where its shape is there already.
        self.assertEqual((everything["to_make"], everything["eye"]), (42, 21))
        self.assertEqual(self.count(tray, None)["to_make"], 42)
        self.assertEqual(self.count(tray, [{"photos": [photos[1]]}])["to_make"], 0)
        self.assertEqual(self.count(tray, [{"recipes": [recipes[2]]}])["to_make"], 0)
        part = [{"first": photos[9], "last": photos[2], "recipes": recipes[:1]}, {"photos": photos[20:]}]
        said = self.count(tray, part)
        run = self.send("post", f"trays/{tray.pk}/runs", {"areas": part})
        self.assertEqual(run["counts"]["total"] - run["counts"]["asking"], said["to_make"])
        self.assertEqual(said["to_make"], 6 + 8)
        self.assertEqual((self.count(tray, part)["to_make"], self.count(tray, part)["open"]), (0, 14))
        self.send("post", f"trays/{tray.pk}/runs", {"areas": part}, status=409)

    def test_what_a_filter_hides_is_not_acted_on(self) -> None:
        tray, photos, _ = self.tray_of(24)
        portraits = {"shape": "portrait"}
        named = [{"photos": photos}]
        said = self.count(tray, named, **portraits)
        self.assertEqual((said["photos"], said["cells"], said["hidden"]), (5, 15, 57))
        done = self.send("post", f"trays/{tray.pk}/include", {"areas": named, "how": portraits})
        self.assertEqual((done["included"], done["renditions"]), (False, 15))
        self.assertEqual(tray.exclusions.count(), 15)
        self.assertEqual(self.count(tray, [{}])["excluded"], 15)
        # The same press takes them in again; all others stay as they were.
        changed = [{"photos": each, "recipes": [int(recipe)]} for recipe, each in done["changed"].items()]
        again = self.send("post", f"trays/{tray.pk}/include", {"areas": changed})
        self.assertEqual((again["included"], again["renditions"], tray.exclusions.count()), (True, 15, 0))
        part = self.send("post", f"trays/{tray.pk}/include", {"areas": changed[:1]})
        self.assertEqual(part["renditions"], 5)
        rest = self.send("post", f"trays/{tray.pk}/include", {"areas": changed})
        self.assertEqual((rest["included"], rest["renditions"]), (False, 10), "some were in: all go out")

    def test_areas_add_up_and_take_away(self) -> None:
        tray, photos, recipes = self.tray_of(30)
        chance = random.Random(7)
        for _ in range(60):
            areas, wanted = [], set()
            for _ in range(chance.randint(1, 5)):
                first, last = chance.choice(photos), chance.choice(photos)
                columns = chance.sample(recipes, chance.randint(1, 3))
                start, stop = sorted((photos.index(first), photos.index(last)))
                cells = {(photo, recipe) for photo in photos[start : stop + 1] for recipe in columns}
                out = chance.random() < 0.3
                areas.append({"first": first, "last": last, "recipes": columns, "out": out})
                wanted = wanted - cells if out else wanted | cells
            said = self.count(tray, areas, sort="folder")
            self.assertEqual((said["cells"], said["photos"]), (len(wanted), len({photo for photo, _ in wanted})))
            self.assertEqual(said["whole"], bool(wanted) and len(wanted) == 3 * said["photos"])
        gone = [{"first": photos[0], "last": 10**9}]
        self.assertEqual(self.count(tray, gone)["cells"], 0)

    def test_framing_says_how_many_it_framed(self) -> None:
        tray, photos, _ = self.tray_of(8)
        said = self.send("post", f"trays/{tray.pk}/anchor", {"areas": [{}], "anchor": "top"})
        self.assertEqual((said["framed"], said["uncropped"]), (5, 10))
        self.assertEqual(Framing.objects.count(), 5)
        framing = {"name": "left", "x": 0, "y": 0, "width": 0.5, "height": 1}
        body = {"source": photos[0], "framing": framing, "areas": [{"photos": photos[:6]}]}
        self.assertEqual(self.send("post", f"trays/{tray.pk}/carry", body)["framed"], 2)

    def test_size_is_two_orders(self) -> None:
        tray, photos, _ = self.tray_of(4)
        Photo.objects.update(state="ready")
        by = {order: self.get(f"trays/{tray.pk}/board?sort={order}")["photos"] for order in ("pixels", "weight")}
        self.assertEqual(by["weight"], photos[::-1])
        self.assertEqual(by["pixels"], [photos[0], photos[1], photos[3], photos[2]])
