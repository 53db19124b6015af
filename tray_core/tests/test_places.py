"""Files beside originals, sidecars, and what is done once all is made."""

from __future__ import annotations

import contextlib
import io
import json
import os
import zipfile
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from tray_core import check_recipe
from tray_core.command.main import main
from tray_core.line import make_renditions
from tray_core.photo import PhotoFacts, read_bytes, read_facts
from tray_core.plan import Framing
from tray_core.plan.planning import plan_all, plan_renditions
from tray_core.recipe import RecipeProblems, describe
from tray_core.recipe.model import Recipe
from tray_core.tests.exiftool import read
from tray_core.tests.samples import FolderCase, facts, jpeg, recipe, scene
from tray_core.words import with_words

BESIDE = {"to": "beside", "subfolder": "web", "taken": "replace"}


class Places(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.original = self.write("hall.jpg", jpeg(scene(90, 60)))

    def render(self, *recipes: Recipe, status: int = 0, more: tuple[str, ...] = ()) -> Any:
        arguments = []
        for number, each in enumerate(recipes):
            arguments += ["--recipe", str(self.write(f"r{number}.json", json.dumps(each.to_json()).encode()))]
        out, told = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(told):
            code = main(["render", *arguments, "--out", str(self.folder / "out"), *more, str(self.folder)])
        self.assertEqual(code, status, told.getvalue())
        return [json.loads(line) for line in out.getvalue().splitlines()], told.getvalue()

    def test_beside_the_original_and_never_over_it(self) -> None:
        before = self.original.read_bytes()
        lines, _ = self.render(recipe("Web", place=BESIDE))
        made = self.folder / "web" / "hall.jpg"
        self.assertEqual([line["path"] for line in lines], [str(made)])
        # What lies there is no photo the next time, and is replaced as the recipe says.
        lines, _ = self.render(recipe("Web", place=BESIDE, size={"by": "width", "pixels": 30}))
        self.assertEqual([(line["path"], line["width"]) for line in lines], [(str(made), 30)])
        self.assertEqual(self.original.read_bytes(), before)
        # By a link or a second name of it, it is still an original.
        made.unlink()
        os.link(self.original, made)
        lines, _ = self.render(recipe("Web", place=BESIDE), status=1)
        self.assertIn("original", lines[0]["error"])
        self.assertEqual(self.original.read_bytes(), before)

    def test_names_differ_within_a_folder_only(self) -> None:
        one = recipe("One", place=BESIDE)
        photos = [facts(path=f"{folder}/hall.jpg") for folder in ("a", "b")]
        self.assertEqual([row[0].path for row in plan_all(photos, [one])], ["web/hall.jpg", "web/hall.jpg"])
        two = recipe("Two", place=BESIDE)
        rows = list(plan_all(photos[:1], [one, two]))
        self.assertEqual([plan.name for plan in rows[0]], ["hall.jpg", "hall-2.jpg"])
        ((plan,),) = plan_all([replace(photos[0], beside=False)], [one])
        self.assertIn("not-beside", {warning.code for warning in plan.warnings})

    def test_sidecars_say_all_but_what_is_left_out(self) -> None:
        words = b"photo,title,keywords,place,people\nhall.jpg,The hall,brass;Wrenholt;Ada Quill,Wrenholt,Ada Quill\n"
        table = self.write("words.csv", words)
        metadata = {"keep": "rights", "leave_out": ["place", "people"], "set": {"rights": "© Quillmarsh Museum"}}
        with_sidecars = recipe(
            "Words",
            file={"format": "jpeg", "quality": 80, "metadata": metadata},
            place={"to": "output", "taken": "new-name", "sidecars": ["json", "xmp"]},
        )
        for name in ("hall.jpg", "hall-2.jpg"):
            lines, _ = self.render(with_sidecars, more=("--words", str(table)))
            made = Path(lines[0]["path"])
            self.assertEqual(made.name, name)
            said = json.loads(Path(f"{made}.json").read_text())
            self.assertEqual((said["title"], said["keywords"]), ("The hall", ["brass"]))
            self.assertEqual(said["rights"], "© Quillmarsh Museum")
            self.assertEqual((said["file"], said["photo"], said["width"]), (name, "hall.jpg", lines[0]["width"]))
            self.assertEqual(said["bytes"], made.stat().st_size)
            self.assertTrue({"place", "people"}.isdisjoint(said))
            for sidecar in (f"{made}.json", f"{made}.xmp"):
                self.assertNotIn("Ada", Path(sidecar).read_text())
                self.assertNotIn("Wrenholt", Path(sidecar).read_text())
            (tags,) = read(Path(f"{made}.xmp"))
            self.assertEqual((tags["XMP-dc:Title"], tags["XMP-dc:Rights"]), ("The hall", "© Quillmarsh Museum"))

    def test_a_try_that_was_cut_short_leaves_one_sidecar(self) -> None:
        made_by = recipe("Again", place={"to": "output", "taken": "keep", "sidecars": ["json"]})
        data = read_bytes(self.original)
        known: PhotoFacts = with_words(read_facts(self.original, data=data), data)
        (plans,) = plan_all([known], [made_by])
        out = self.folder / "out"
        out.mkdir()
        (out / "hall.jpg.json").write_text("of the try before")
        outcomes = list(make_renditions(self.original, plans, [out]))
        self.assertEqual([outcome.status for outcome in outcomes], ["made"])
        self.assertEqual(sorted(path.name for path in out.iterdir()), ["hall.jpg", "hall.jpg.json"])

    def test_zip_page_and_path_once_all_is_made(self) -> None:
        self.write("more/dial.jpg", jpeg(scene(80, 60, seed=2)))
        steps = [{"do": "zip"}, {"do": "markup", "sizes": "50vw"}, {"do": "path"}]
        place = {"to": "output", "subfolder": "web", "taken": "new-name", "afterwards": steps}
        lines, told = self.render(recipe("Web", place=place))
        self.assertEqual(len(lines), 2)
        out = self.folder / "out"
        with zipfile.ZipFile(out / "renditions.zip") as archive:
            self.assertEqual(sorted(archive.namelist()), ["web/dial.jpg", "web/hall.jpg"])
            self.assertIsNone(archive.testzip())
        page = (out / "web" / "index.html").read_text()
        self.assertIn('srcset="hall.jpg 90w" sizes="50vw"', page)
        self.assertEqual(len(json.loads((out / "web" / "pictures.json").read_text())), 2)
        self.assertIn(f"folder: {out / 'web'}", told)
        # Ours is written anew; somebody else's stays, and so does an older zip.
        self.render(recipe("Web", place=place | {"taken": "replace"}))
        self.assertFalse((out / "web" / "index-2.html").exists())
        (out / "web" / "index.html").write_text("mine")
        self.render(recipe("Web", place=place | {"taken": "replace"}))
        self.assertEqual((out / "web" / "index.html").read_text(), "mine")
        self.assertTrue((out / "web" / "index-2.html").exists())
        self.assertTrue((out / "renditions-3.zip").exists())

    def test_what_does_not_go_together_is_refused_by_its_field(self) -> None:
        for place, field in (
            ({"to": "beside", "taken": "keep"}, "place.subfolder"),
            ({"to": "beside", "subfolder": " / ", "taken": "keep"}, "place.subfolder"),
            ({"to": "beside", "subfolder": "a/../..", "taken": "keep"}, "place.subfolder"),
            ({"to": "download", "afterwards": [{"do": "markup"}]}, "place.afterwards"),
            ({"to": "output", "sidecars": ["xmp", "xmp"]}, "place.sidecars"),
            ({"to": "output", "sidecars": ["doc"]}, "place.sidecars"),
            ({"to": "output", "afterwards": [{"do": "launch"}]}, "place.afterwards"),
        ):
            with self.subTest(place=place), self.assertRaises(RecipeProblems) as raised:
                check_recipe(recipe().to_json() | {"place": place})
            told = [problem.subject for problem in raised.exception.problems]
            self.assertTrue(any(each.startswith(field) for each in told), told)

    def test_older_files_read_as_before_and_are_written_as_short(self) -> None:
        self.assertEqual(set(recipe("Web", place={"to": "output"}).to_json()["place"]), {"to", "subfolder", "taken"})
        place = BESIDE | {"sidecars": ["xmp"], "afterwards": [{"do": "zip"}, {"do": "markup", "sizes": "50vw"}]}
        kept = recipe("Web", place=place)
        self.assertEqual(check_recipe(json.loads(json.dumps(kept.to_json()))), kept)
        said = "".join(phrase.text for phrase in describe(kept))
        self.assertIn("in web beside the original; a file of the same name is replaced", said)
        self.assertIn("its words go into .xmp beside it; afterwards all go into a zip and a page is written", said)


class Points(FolderCase):
    def test_a_point_of_a_rendition_is_found_in_the_photo(self) -> None:
        """Against the pixels that the line makes: a white spot on black, framed, straightened and turned."""
        pixels = np.zeros((200, 300, 3), np.uint8)
        pixels[60:66, 190:196] = 255
        photo = self.write("spot.png", _png(pixels))
        data = read_bytes(photo)
        known = read_facts(photo, data=data)
        for turn in (0, 90, 180, 270):
            for angle in (0.0, 7.5, -4.0):
                with self.subTest(turn=turn, angle=angle):
                    self._check(photo, known, turn, angle)

    def _check(self, photo: Path, known: PhotoFacts, turn: Any, angle: float) -> None:
        framing = Framing(name="f", x=0.3, y=0.1, width=0.6, height=0.7, angle=angle, turn=turn)
        frame = {"way": "crop", "shape": "1:1", "anchor": "middle"}
        stations = {"size": {"by": "width", "pixels": 90}, "file": {"format": "png"}, "sharpen": None, "color": None}
        made_by = recipe("Spot", frame=frame, **stations)
        (plan,) = plan_renditions(known, made_by, 1, None, framings=[framing])
        plan = replace(plan, name="spot.png")
        (outcome,) = make_renditions(photo, [plan], [self.folder / f"{turn}{angle}"])
        assert outcome.path is not None, outcome.error
        with Image.open(outcome.path) as image:
            made = np.asarray(image.convert("L")).astype(float)
        weights = made * (made > 40)
        rows, columns = np.mgrid[: made.shape[0], : made.shape[1]] + 0.5
        middle = [float((each * weights).sum() / weights.sum()) for each in (columns, rows)]
        x, y = plan.layout.photo_point(*middle)
        self.assertAlmostEqual(x, 193, delta=0.6)
        self.assertAlmostEqual(y, 63, delta=0.6)


def _png(pixels: Any) -> bytes:
    buffer = io.BytesIO()
    Image.fromarray(pixels).save(buffer, "PNG")
    return buffer.getvalue()
