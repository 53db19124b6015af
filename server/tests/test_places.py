"""Renditions beside their originals, what is done afterwards, and runs that are held, put in order and cleared away."""

from __future__ import annotations

import io
import json
import zipfile
from pathlib import Path
from typing import Any

from django.core.management import call_command
from procrastinate.contrib.django.models import ProcrastinateJob
from pypdf import PdfReader

from server.photos.models import Photo
from server.runs import recovery
from server.runs.models import Rendition, Run
from server.studios.models import Root
from server.tests.cases import StudioCase
from server.tests.test_runs import whole
from server.trays.models import Tray
from tray_core.tests.samples import jpeg, scene

BESIDE: dict[str, Any] = {"to": "beside", "subfolder": "web", "taken": "replace"}


class Made(StudioCase):
    def photos(self, *names: str) -> None:
        for seed, name in enumerate(names):
            path = self.folder / name
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(jpeg(scene(60, 40, seed=seed + 1)))

    def start(self, tray: Tray, **more: Any) -> Run:
        return Run.objects.get(pk=self.send("post", f"trays/{tray.pk}/runs", more)["id"])

    def run_all(self, tray: Tray, **more: Any) -> Run:
        run = self.start(tray, **more)
        self.work()
        run.refresh_from_db()
        return run


class Beside(Made):
    def setUp(self) -> None:
        super().setUp()
        call_command("add_root", "Quillmarsh", "Photographs", str(self.folder), "--writable", stdout=io.StringIO())

    def test_files_lie_beside_and_are_no_photos(self) -> None:
        self.photos("a/hall.jpg", "b/hall.jpg")
        tray = self.tray(self.recipe("Web", place=BESIDE | {"sidecars": ["json"]}))
        self.work()
        run = self.run_all(tray)
        self.assertEqual(self.states(run), {"made": 2})
        made = sorted(str(path.relative_to(self.folder)) for path in self.folder.rglob("web/*"))
        self.assertEqual(made, [f"{folder}/web/hall.jpg{end}" for folder in "ab" for end in ("", ".json")])
        # Neither a look at the folder nor gathering it anew takes them for photos; one that lies there already is one.
        (self.folder / "a" / "web" / "own.jpg").write_bytes(jpeg(scene(50, 40, seed=9)))
        self.send("post", f"trays/{tray.pk}/look-again", {})
        self.assertEqual(
            sorted(Photo.objects.filter(places__tray=tray).values_list("path", flat=True)),
            ["a/hall.jpg", "a/web/own.jpg", "b/hall.jpg"],
        )
        with zipfile.ZipFile(io.BytesIO(whole(self.client.get(f"/api/runs/{run.pk}/zip")))) as archive:
            self.assertLessEqual({"a/web/hall.jpg", "b/web/hall.jpg"}, set(archive.namelist()))
        shown = self.get(f"runs/{run.pk}/renditions")["renditions"][0]
        self.assertEqual(
            (shown["place"], shown["path"]), ("web beside the original", str(self.folder / "a/web/hall.jpg"))
        )
        # Made again, ours is replaced.
        self.work()
        again = self.run_all(tray, again=True)
        self.assertEqual(self.states(again), {"made": 3})
        self.assertEqual(len(list(self.folder.rglob("web/hall*.jpg"))), 2)

    def test_what_is_not_ours_is_never_replaced(self) -> None:
        self.photos("hall.jpg", "dial.jpg", "web/hall.jpg")
        (self.folder / "web" / "dial.jpg").symlink_to(self.folder / "hall.jpg")
        before = {path: path.read_bytes() for path in self.folder.rglob("*.jpg")}
        tray = self.tray(self.recipe("Web", place=BESIDE))
        self.work()
        recipe = tray.recipes.get().pk
        only = [(Photo.objects.get(path=name).pk, recipe) for name in ("hall.jpg", "dial.jpg")]
        run = self.run_all(tray, cells=only)
        self.assertEqual(self.states(run), {"failed": 2})
        self.assertEqual({path: path.read_bytes() for path in before}, before)
        for row in run.renditions.all():
            self.assertIn("original", row.error)
            self.assertNotIn(str(self.folder), row.error)

    def test_a_folder_that_may_only_be_read_and_a_link_out_are_refused(self) -> None:
        self.photos("hall.jpg")
        recipe = self.recipe("Web", place=BESIDE)
        tray = self.tray(recipe)
        self.work()
        elsewhere = self.output / "elsewhere"
        elsewhere.mkdir()
        (self.folder / "web").symlink_to(elsewhere)
        run = self.run_all(tray)
        self.assertIn("a link out of it", run.renditions.get().error)
        (self.folder / "web").unlink()
        Root.objects.update(writable=False)
        (cell,) = self.rows(tray.pk)[0]["cells"]
        self.assertIn("cannot lie beside", json.dumps(cell))
        run = self.run_all(tray)
        self.assertIn("may only be read", run.renditions.get().error)
        self.assertEqual(list(elsewhere.iterdir()), [])


class Afterwards(Made):
    def test_zip_pages_and_folder_once_all_is_made(self) -> None:
        self.photos("hall.jpg", "dial.jpg")
        sheets = {"do": "sheets", "columns": 1, "rows": 1, "caption": "both"}
        steps = [{"do": "zip"}, {"do": "markup", "sizes": "50vw"}, sheets, {"do": "path"}]
        one = self.recipe("One", place={"to": "output", "subfolder": "web", "taken": "keep", "afterwards": steps})
        two = self.recipe("Two", place={"to": "download"})
        tray = self.tray(one, two)
        self.work()
        run = self.start(tray)
        told = self.get(f"runs/{run.pk}")["afterwards"]
        self.assertEqual([step["do"] for step in told], ["zip", "markup", "sheets", "path"])
        self.assertEqual([step["paths"] for step in told], [[], [], [], []])
        self.work()
        told = {step["do"]: step for step in self.get(f"runs/{run.pk}")["afterwards"]}
        self.assertEqual([step["error"] for step in told.values()], ["", "", "", ""])
        self.assertEqual(told["sheets"]["paths"], [str(self.output / "web" / "contact-sheet.pdf")])
        self.assertEqual(len(PdfReader(told["sheets"]["paths"][0]).pages), 2)
        (zipped,) = told["zip"]["paths"]
        with zipfile.ZipFile(zipped) as archive:
            self.assertLessEqual({"web/hall.jpg", "web/dial.jpg", "manifest.json"}, set(archive.namelist()))
            self.assertFalse(any(name.startswith("Two") for name in archive.namelist()))
            self.assertIsNone(archive.testzip())
        (page,) = told["markup"]["paths"]
        self.assertIn('sizes="50vw"', Path(page).read_text())
        self.assertEqual(told["path"]["paths"], [str(self.output / "web")])
        self.assertEqual([path.name for path in self.output.iterdir() if path.name.startswith(".")], [])

    def test_one_that_fails_leaves_the_others(self) -> None:
        self.photos("hall.jpg")
        steps = [{"do": "markup"}, {"do": "path"}]
        tray = self.tray(
            self.recipe("One", place={"to": "output", "subfolder": "web", "taken": "keep", "afterwards": steps})
        )
        self.work()
        (self.output / "web").mkdir(parents=True)
        (self.output / "web" / "index.html").mkdir()
        (self.output / "web" / "index-2.html").symlink_to(self.output / "nowhere")
        run = self.run_all(tray)
        told = {step["do"]: step for step in run.afterwards}
        self.assertEqual(told["path"]["paths"], [str(self.output / "web")])
        self.assertEqual([Path(path).name for path in told["markup"]["paths"]], ["index-3.html"])


class Order(Made):
    def jobs(self, run: Run) -> list[int]:
        found = ProcrastinateJob.objects.filter(status="todo", task_name="runs.make_photo")
        return [job.priority for job in found if job.args["run_id"] == run.pk]

    def test_a_held_run_rests_until_it_goes_on(self) -> None:
        self.photos("a.jpg", "b.jpg")
        tray = self.tray(self.recipe())
        self.work()
        run = self.start(tray)
        self.assertTrue(self.send("post", f"runs/{run.pk}/hold")["held"])
        self.assertEqual(self.jobs(run), [])
        self.assertEqual(recovery.orphans(), [])
        self.work()
        self.assertEqual(self.states(run), {"waiting": 2})
        # A job that was handed out already, and a question that is answered meanwhile, do nothing.
        from server.runs.making import make

        make(run.pk, Photo.objects.get(name="a.jpg").pk)
        self.assertEqual(self.states(run), {"waiting": 2})
        self.assertIsNone(self.get(f"runs/{run.pk}")["seconds_left"])
        self.send("post", f"runs/{run.pk}/go-on")
        self.send("post", f"runs/{run.pk}/go-on")
        self.work()
        self.assertEqual(self.states(run), {"made": 2})
        self.send("post", f"runs/{run.pk}/hold", status=409)

    def test_a_held_run_can_be_stopped(self) -> None:
        self.photos("a.jpg")
        run = self.start(self.read_tray())
        self.send("post", f"runs/{run.pk}/hold")
        self.send("post", f"runs/{run.pk}/stop")
        run.refresh_from_db()
        self.assertEqual((self.states(run), run.held, run.finished is None), ({"stopped": 1}, False, False))

    def read_tray(self, name: str = "Autumn") -> Tray:
        tray = self.tray(self.recipe(name), name=name)
        self.work()
        return tray

    def test_runs_are_made_in_the_order_that_somebody_gives(self) -> None:
        self.photos("a.jpg", "b.jpg")
        trays = [self.read_tray(name) for name in ("One", "Two", "Three")]
        one, two, three = (self.start(tray) for tray in trays)
        self.send("put", "run-order", {"runs": [three.pk, one.pk, two.pk]}, status=204)
        priorities = [max(self.jobs(run)) for run in (three, one, two)]
        self.assertEqual(sorted(priorities, reverse=True), priorities)
        self.assertGreater(min(self.jobs(three)), max(self.jobs(one)))
        self.send("post", f"runs/{three.pk}/hold")
        self.send("post", f"runs/{three.pk}/go-on")
        self.assertGreater(min(self.jobs(three)), max(self.jobs(one)))
        self.work()
        ended = list(Rendition.objects.order_by("finished").values_list("run", flat=True))
        self.assertEqual(ended, [three.pk] * 2 + [one.pk] * 2 + [two.pk] * 2)

    def test_the_list_shows_pictures_finds_photos_and_clears_away(self) -> None:
        self.photos("hall.jpg", "dial.jpg")
        recipe = self.recipe("Journal", place={"to": "output", "subfolder": "j", "taken": "new-name"})
        tray = self.tray(recipe)
        self.work()
        kept, gone = self.run_all(tray), self.run_all(tray, again=True)
        told = self.get("run-cards")
        self.assertEqual((told["total"], [card["id"] for card in told["runs"]]), (2, [gone.pk, kept.pk]))
        card = told["runs"][0]
        self.assertEqual((card["recipes"], len(card["pictures"])), (["Journal"], 2))
        self.assertGreater(card["bytes"], 0)
        self.assertEqual(self.get("run-cards?find=dial")["total"], 2)
        self.assertEqual(self.get("run-cards?find=bench")["total"], 0)
        files = sorted(path.name for path in (self.output / "j").iterdir())
        self.assertEqual(files, ["dial-2.jpg", "dial.jpg", "hall-2.jpg", "hall.jpg"])
        self.send("post", "storage/clear", {"what": "run", "run": gone.pk, "files": True})
        self.send("post", "storage/clear", {"what": "run", "run": kept.pk})
        self.assertEqual(self.get("run-cards")["total"], 0)
        self.assertEqual(sorted(path.name for path in (self.output / "j").iterdir()), ["dial.jpg", "hall.jpg"])
        going = self.start(tray)
        self.send("post", "storage/clear", {"what": "run", "run": going.pk}, status=409)

    def test_again_for_what_is_new(self) -> None:
        self.photos("hall.jpg")
        one, two = self.recipe("One"), self.recipe("Two")
        tray = self.tray(one, two)
        self.work()
        first = self.run_all(tray, cells=[(Photo.objects.get().pk, one.pk)])
        self.assertEqual(self.get(f"runs/{first.pk}")["fresh"], 0)
        self.send("post", f"trays/{tray.pk}/runs/{first.pk}/for-new", status=409)
        self.photos("hall.jpg", "dial.jpg")
        self.send("post", f"trays/{tray.pk}/look-again", {})
        self.work()
        self.assertEqual(self.get(f"runs/{first.pk}")["fresh"], 1)
        second = Run.objects.get(pk=self.send("post", f"trays/{tray.pk}/runs/{first.pk}/for-new")["id"])
        self.work()
        self.assertEqual([(row.photo.name, row.recipe.title) for row in self.made(second)], [("dial.jpg", "One")])
        listed = self.client.get(f"/api/runs/{second.pk}/manifest?kind=json").json()
        self.assertEqual([line["file"] for line in listed["files"]], ["One/dial.jpg"])
        # What was there, and was not chosen, is not new.
        third = self.run_all(tray, cells=[(Photo.objects.get(name="dial.jpg").pk, two.pk)])
        self.assertEqual(self.get(f"runs/{third.pk}")["fresh"], 0)
        table = self.client.get(f"/api/runs/{second.pk}/manifest").content.decode("utf-8-sig")
        self.assertEqual(table.splitlines()[1].split(",")[:3], ["One/dial.jpg", "dial.jpg", "One"])


class Receipts(Made):
    def test_zip_of_what_is_chosen_and_the_original_beside_it(self) -> None:
        self.photos("hall.jpg", "dial.jpg")
        wide = self.recipe("Wide", size={"by": "width", "pixels": 40, "enlarge": "never"})
        tray = self.tray(wide)
        self.work()
        run = self.run_all(tray)
        hall = run.renditions.get(photo__name="hall.jpg")

        def names(query: str) -> set[str]:
            with zipfile.ZipFile(io.BytesIO(whole(self.client.get(f"/api/runs/{run.pk}/zip?{query}")))) as archive:
                return {name for name in archive.namelist() if name.endswith(".jpg")}

        self.assertEqual(names(f"renditions={hall.pk}"), {"Wide/hall.jpg"})
        self.assertEqual(len(names(f"renditions=1-{hall.pk},{hall.pk + 1}-999999")), len(names("")))
        self.assertEqual(names("find=dial"), {"Wide/dial.jpg"})
        self.assertEqual(len(names("")), 2)
        answer = self.client.get(f"/api/renditions/{hall.pk}/original?x=20&y=13.5&width=30&height=20")
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "image/png"))
        from PIL import Image

        with Image.open(io.BytesIO(answer.content)) as image, Image.open(self.folder / "hall.jpg") as original:
            self.assertEqual(image.size, (30, 20))
            own = original.crop((15, 10, 45, 30)).convert("RGB")
            self.assertLess(
                max(abs(a - b) for a, b in zip(own.tobytes(), image.convert("RGB").tobytes(), strict=True)), 6
            )

    def test_sets_are_kept_and_give_their_media_and_sizes(self) -> None:
        self.photos("hall.jpg")
        wide, small = self.recipe("Wide"), self.recipe("Small", size={"by": "width", "pixels": 20, "enlarge": "never"})
        tray = self.tray(wide, small, self.recipe("Other"))
        self.work()
        run = self.run_all(tray)
        body = {
            "name": "Lead",
            "sizes": "90vw",
            "members": [{"recipe": wide.pk}, {"recipe": small.pk, "media": "(max-width: 600px)"}],
        }
        kept = self.send("put", "sets", body)
        self.assertEqual(self.send("put", "sets", body)["id"], kept["id"])
        text = self.client.get(f"/api/runs/{run.pk}/markup?set={kept['id']}").content.decode()
        self.assertIn(
            '<source media="(max-width: 600px)" type="image/jpeg" srcset="Small/hall.jpg 20w" sizes="90vw">', text
        )
        self.assertNotIn("Other", text)
        self.send("put", "sets", {"name": "x", "members": [{"recipe": 999_999}]}, status=422)
        self.assertEqual(len(self.get("sets")), 1)
        self.send("delete", f"sets/{kept['id']}", status=204)
        self.assertEqual(self.get("sets"), [])
