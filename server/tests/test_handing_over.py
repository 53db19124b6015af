"""What comes after making: an order that counters follow, another try, receipts by their differences, markup."""

from __future__ import annotations

import io
import zipfile
from typing import Any

from server.runs.models import Rendition, Run
from server.tests.cases import StudioCase
from server.tests.test_runs import whole
from tray_core.tests.samples import jpeg, scene


class Order(StudioCase):
    def test_counters_follow_the_order_and_it_can_be_undone(self) -> None:
        recipe = self.recipe("Numbered", name={"pattern": "{n:02}-{stem}"})
        tray = self.tray(recipe)
        photos = self.read_already(tray, [f"in/{letter}.jpg" for letter in "abcd"])

        def names() -> list[str]:
            return [row["cells"][0]["name"] for row in self.rows(tray.pk)]

        self.assertEqual(names(), ["01-a.jpg", "02-b.jpg", "03-c.jpg", "04-d.jpg"])
        a, b, c, d = photos
        before = self.send("put", f"trays/{tray.pk}/order", {"photos": [d, a, b, c]})
        self.assertEqual(names(), ["01-d.jpg", "02-a.jpg", "03-b.jpg", "04-c.jpg"])
        self.assertEqual(before, {"photos": photos})
        # Some of them among themselves: the others keep their places.
        self.send("put", f"trays/{tray.pk}/order", {"photos": [c, d]})
        self.assertEqual(names(), ["01-c.jpg", "02-a.jpg", "03-b.jpg", "04-d.jpg"])
        self.send("put", f"trays/{tray.pk}/order", before)
        self.assertEqual(names(), ["01-a.jpg", "02-b.jpg", "03-c.jpg", "04-d.jpg"])
        tray.places.filter(photo=b).delete()
        self.send("put", f"trays/{tray.pk}/order", before, status=409)

    def test_photos_that_share_a_place(self) -> None:
        tray = self.tray(self.recipe())
        photos = self.read_already(tray, [f"in/{n}.jpg" for n in range(4)])
        tray.places.update(position=7)
        self.send("put", f"trays/{tray.pk}/order", {"photos": photos[::-1]})
        self.assertEqual(self.get(f"trays/{tray.pk}/board")["photos"], photos[::-1])


class Again(StudioCase):
    def made_run(self) -> Run:
        for name in ("a.jpg", "b.jpg"):
            (self.folder / name).write_bytes(jpeg(scene(60, 40, seed=ord(name[0]))))
        recipes = [self.recipe("Wide", name={"pattern": "{stem}-w"}), self.recipe("Webp", file={"format": "webp"})]
        tray = self.tray(*recipes)
        self.work()
        run = Run.objects.get(pk=self.send("post", f"trays/{tray.pk}/runs", {})["id"])
        self.work()
        return run

    def test_what_failed_is_made_again_all_or_one(self) -> None:
        run = self.made_run()
        rows = list(run.renditions.order_by("pk"))
        run.renditions.filter(pk__in=[row.pk for row in rows[:3]]).update(
            state="failed", receipt=None, error="the disk"
        )
        run.tallies.all().delete()
        from server.runs import tallies

        tallies.count_anew(run)
        told = self.send("post", f"runs/{run.pk}/again", {"renditions": [rows[0].pk]})
        self.assertEqual((told["counts"]["open"], told["counts"]["failed"], told["finished"]), (1, 2, None))
        self.work()
        self.send("post", f"runs/{run.pk}/again", {})
        self.work()
        self.assertEqual(self.states(run), {"made": 4})
        run.refresh_from_db()
        self.assertIsNotNone(run.finished)
        self.assertEqual(self.get(f"runs/{run.pk}")["counts"]["made"], 4)
        self.send("post", f"runs/{run.pk}/again", {}, status=409)

    def test_receipts_by_difference_name_and_size(self) -> None:
        run = self.made_run()
        odd = run.renditions.order_by("pk")[1]
        Rendition.objects.filter(pk=odd.pk).update(
            receipt=(odd.receipt or {}) | {"differences": ["planned 8, the file has 9"]}, differs=True
        )
        detail = self.get(f"runs/{run.pk}")
        self.assertEqual(detail["differs"], 1)
        self.assertEqual(detail["originals"], sum(path.stat().st_size for path in self.folder.glob("*.jpg")))

        def shown(**how: str) -> list[Any]:
            query = "&".join(f"{key}={value}" for key, value in how.items())
            found: list[Any] = self.get(f"runs/{run.pk}/renditions?{query}")["renditions"]
            return found

        self.assertEqual([row["id"] for row in shown(state="differs")], [odd.pk])
        self.assertEqual({row["photo_name"] for row in shown(find="A.JP")}, {"a.jpg"})
        sizes = [row["receipt"]["bytes"] for row in shown(sort="bytes")]
        self.assertEqual(sizes, sorted(sizes, reverse=True))
        self.assertEqual(len(shown(sort="planned")), 4)

    def test_markup_of_a_run_and_a_page_in_its_zip(self) -> None:
        run = self.made_run()
        webp = run.renditions.filter(recipe__title="Webp").first()
        assert webp is not None
        answer = self.client.get(f"/api/runs/{run.pk}/markup?kind=html&sizes=50vw")
        self.assertIn("attachment", answer["Content-Disposition"])
        text = answer.content.decode()
        self.assertEqual((text.count("<picture>"), text.count("image/webp"), text.count("image/jpeg")), (2, 2, 2))
        only = self.client.get(f"/api/runs/{run.pk}/markup?kind=json&recipes={webp.recipe_id}").json()
        self.assertEqual([len(each["sources"]) for each in only], [1, 1])
        archive = zipfile.ZipFile(io.BytesIO(whole(self.client.get(f"/api/runs/{run.pk}/zip"))))
        page = archive.read("index.html").decode()
        for name in archive.namelist():
            if name.endswith((".jpg", ".webp")):
                self.assertIn(name, page)
