"""The command line, as another program calls it."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

from PIL import Image

from tray_core.tests.samples import PHOTOS, FolderCase, recipe
from tray_core.tests.test_recipe import EXAMPLE

KEYS = ["photo", "recipe", "status", "path", "width", "height", "bytes", "format", "profile", "error"]
ROOT = Path(__file__).parents[2]


class Command(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.recipe = self.write("journal.json", EXAMPLE.encode())

    def run_core(self, *arguments: object) -> tuple[int, list[dict[str, Any]], str]:
        command = [sys.executable, "-W", "error", "-m", "tray_core", *map(str, arguments)]
        done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, timeout=120, check=False)
        lines = [json.loads(line) for line in done.stdout.splitlines() if arguments[0] != "schema"]
        return done.returncode, lines, done.stderr

    def test_render_a_folder_twice_with_two_recipes(self) -> None:
        small = self.write(
            "small.json", json.dumps(recipe("Small", size={"by": "width", "pixels": 90}).to_json()).encode()
        )
        out = self.folder / "out"
        arguments = ("render", "--recipe", self.recipe, "--recipe", small, "--out", out, PHOTOS / "shop-stock")
        code, lines, told = self.run_core(*arguments)
        self.assertEqual((code, len(lines)), (0, 10))
        for line in lines:
            self.assertEqual(list(line), KEYS)
            with Image.open(line["path"]) as image:
                self.assertEqual(image.size, (line["width"], line["height"]))
            self.assertEqual(Path(line["path"]).stat().st_size, line["bytes"])
            self.assertEqual((line["status"], line["format"], line["profile"]), ("made", "jpeg", "sRGB"))
        self.assertIn("10 renditions", told)
        self.assertTrue((out / "Journal column" / "QM4_0117-001.jpg").exists())
        code, again, _ = self.run_core(*arguments, "--workers", 2)
        self.assertEqual(code, 0)
        self.assertEqual(len({line["path"] for line in lines + again}), 20)

    def test_what_asks_for_a_crop_is_not_made_by_itself(self) -> None:
        asks = recipe("Asks", frame={"way": "crop", "shape": "2:1", "anchor": "ask"}).to_json()
        asking = self.write("asks.json", json.dumps(asks).encode())
        photo = PHOTOS / "mixed" / "tiny-for-enlarging_640.jpg"
        out = self.folder / "out"
        code, lines, told = self.run_core("render", "--recipe", self.recipe, "--recipe", asking, "--out", out, photo)
        self.assertEqual(
            [(line["recipe"], line["status"]) for line in lines], [("Journal column", "made"), ("Asks", "asking")]
        )
        self.assertEqual((code, list(lines[1])), (1, KEYS))
        self.assertIn("Place it on the board", lines[1]["error"])
        self.assertIn("1 wait for an answer", told)

    def test_no_photos_are_told(self) -> None:
        self.write("out/dial.jpg", (PHOTOS / "mixed" / "tiny-for-enlarging_640.jpg").read_bytes())
        out = self.folder / "out"
        code, lines, told = self.run_core("render", "--recipe", self.recipe, "--out", out, out)
        self.assertEqual((code, lines), (2, []))
        self.assertIn("Expected photos below these paths, found none", told)

    def test_shapes_panels_and_widths_are_planned_as_they_are_made(self) -> None:
        """The interesting part, panels and a responsive set: the same paths and pixels from plan and render."""
        recipes: dict[str, dict[str, Any]] = {
            "square": {"frame": {"way": "crop", "shape": "1:1", "anchor": "interest"}},
            "panels": {"frame": {"way": "crop", "shape": "1:1", "panels": {"columns": 3, "rows": 1}}},
            "set": {"size": {"by": "widths", "widths": [320, 90, 9000]}},
            "story": {"frame": {"way": "pad", "shape": "90x160", "fill": "edge"}, "size": None},
        }
        arguments: list[object] = []
        for name, stations in recipes.items():
            usual = {"size": {"by": "width", "pixels": 120}, "place": {"subfolder": "{recipe}"}}
            made = recipe(name, **(usual | stations))
            arguments += ["--recipe", self.write(f"{name}.json", json.dumps(made.to_json()).encode())]
        photo = PHOTOS / "mixed" / "hall_web.webp"
        out = self.folder / "out"
        code, planned, _ = self.run_core("plan", *arguments, "--out", out, photo)
        self.assertEqual(code, 0)
        code, made_lines, _ = self.run_core("render", *arguments, "--out", out, photo)
        self.assertEqual(code, 0)
        told = ("recipe", "path", "width", "height")
        seen = [sorted(tuple(line[key] for key in told) for line in lines) for lines in (planned, made_lines)]
        self.assertEqual(seen[0], seen[1])
        sizes = {(line["recipe"], Path(line["path"]).stem): (line["width"], line["height"]) for line in made_lines}
        self.assertEqual(
            sizes,
            {
                ("square", "hall_web"): (120, 120),
                ("panels", "hall_web-1"): (120, 120),
                ("panels", "hall_web-2"): (120, 120),
                ("panels", "hall_web-3"): (120, 120),
                ("set", "hall_web-90w"): (90, 135),
                ("set", "hall_web-320w"): (320, 480),
                ("set", "hall_web-1000w"): (1000, 1500),
                ("story", "hall_web"): (90, 160),
            },
        )

    def test_bad_photos_fail_alone(self) -> None:
        tiny = PHOTOS / "mixed" / "tiny-for-enlarging_640.jpg"
        gone = self.folder / "gone"
        code, lines, _ = self.run_core(
            "render", "--recipe", self.recipe, "--out", self.folder / "out", PHOTOS / "broken", gone, tiny
        )
        self.assertEqual(code, 1)
        self.assertEqual([line["status"] for line in lines].count("failed"), 4)
        (made,) = (line for line in lines if line["status"] == "made")
        self.assertTrue(made["path"].endswith("tiny-for-enlarging_640-005.jpg"))
        for line in lines:
            self.assertEqual(list(line), KEYS)
            if line["status"] == "failed":
                self.assertIn(Path(line["photo"]).name, line["error"])

    def test_plan_says_what_render_makes(self) -> None:
        photos = (PHOTOS / "mixed", PHOTOS / "shop-stock")
        out = self.folder / "out"
        code, planned, _ = self.run_core("plan", "--recipe", self.recipe, "--out", out, *photos)
        self.assertEqual(code, 0)
        _, rendered, _ = self.run_core("render", "--workers", 2, "--recipe", self.recipe, "--out", out, *photos)
        self.assertEqual(list(planned[0]), [*KEYS, "warnings"])
        same = ("photo", "recipe", "path", "width", "height", "format", "profile")

        def told(lines: list[dict[str, Any]]) -> list[tuple[Any, ...]]:
            return sorted(tuple(line[key] for key in same) for line in lines if line["status"] in ("planned", "made"))

        self.assertEqual(told(planned), told(rendered))
        self.assertGreater(len(told(planned)), 12)

    def test_renditions_below_their_originals_are_not_taken_for_photos(self) -> None:
        photo = self.write("in/tiny.jpg", (PHOTOS / "mixed" / "tiny-for-enlarging_640.jpg").read_bytes())
        arguments = ("render", "--recipe", self.recipe, "--out", photo.parent / "made", photo.parent, photo)
        for _ in range(2):
            code, lines, _ = self.run_core(*arguments)
            self.assertEqual((code, len(lines)), (0, 1))

    def test_a_file_that_is_kept_is_named(self) -> None:
        keep = self.write("keep.json", json.dumps(recipe(place={"taken": "keep"}).to_json()).encode())
        arguments = ("render", "--recipe", keep, "--out", self.folder / "out", PHOTOS / "shop-stock" / "QM4_0118.jpg")
        (_, (made,), _), (code, (kept,), _) = self.run_core(*arguments), self.run_core(*arguments)
        self.assertEqual((code, kept["status"], kept["path"]), (0, "skipped", made["path"]))

    def test_originals_are_never_written(self) -> None:
        before = (PHOTOS / "mixed" / "tiny-for-enlarging_640.jpg").read_bytes()
        photo = self.write("in/tiny.jpg", before)
        over = self.write("over.json", json.dumps(recipe(place={"taken": "replace"}).to_json()).encode())
        code, (line,), _ = self.run_core("render", "--recipe", over, "--out", photo.parent, photo)
        self.assertEqual((code, line["status"]), (1, "failed"))
        self.assertIn("originals are never replaced", line["error"])
        self.assertEqual(photo.read_bytes(), before)

    def test_wrong_use(self) -> None:
        bad = self.write("bad.json", EXAMPLE.replace('"strength": 100', '"strength": 900').encode())
        out = self.folder / "out"
        for arguments, said in (
            (("render", "--recipe", bad, "--out", out, PHOTOS), "sharpen.strength"),
            (("render", "--recipe", self.folder / "none.json", "--out", out, PHOTOS), "none.json"),
            (("render", "--out", out, PHOTOS), "--recipe"),
            (("render", "--recipe", self.recipe, "--out", self.recipe / "x", PHOTOS), "folder that can be made"),
            (("render", "--recipe", self.recipe, "--out", out, "--workers", "0", PHOTOS), "--workers"),
            (("polish",), "polish"),
        ):
            with self.subTest(said):
                code, lines, told = self.run_core(*arguments)
                self.assertEqual((code, lines), (2, []))
                self.assertIn(said, told)
        self.assertFalse(out.exists())

    def test_inspect_and_schema(self) -> None:
        files = (
            "mixed/enamel-colours_Rec2020_16bit.tif",
            "shop-stock/QM4_0123.jpg",
            "broken/QM4_0131_card-pulled-early.jpg",
        )
        code, (wide, turned, cut), _ = self.run_core("inspect", *(PHOTOS / name for name in files))
        self.assertEqual(code, 1)
        self.assertEqual(
            list(wide),
            ["path", "format", "width", "height", "orientation", "depth", "profile", "mode", "alpha", "bytes", "error"],
        )
        self.assertEqual((wide["format"], wide["width"], wide["depth"], wide["mode"]), ("tiff", 1500, 16, "RGB"))
        self.assertEqual((turned["width"], turned["height"], turned["orientation"]), (1916, 2396, 6))
        self.assertIn("end too early", cut["error"])
        self.assertEqual(self.run_core("schema")[0], 0)
