"""Cut-outs: objects alone on their new ground, framed, with paths."""

from __future__ import annotations

import contextlib
import io
import json
import math
import os
import tempfile
import unittest
from collections.abc import Mapping
from pathlib import Path
from typing import Any
from unittest import mock

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from bench.accuracy.objects import drawn, iou, ring
from tray_core.command.main import main
from tray_core.fingerprint import fingerprint
from tray_core.line.working import decoded_for, work
from tray_core.outline import Node, Outline, area_of, contours_of, traced
from tray_core.photo.facts import PhotoFacts, read_facts
from tray_core.pixels.coverage import coverage
from tray_core.pixels.decode import decode
from tray_core.plan import Framing, plan_renditions
from tray_core.plan.naming import Names
from tray_core.recipe import Recipe, RecipeProblems, check_recipe, describe
from tray_core.tests.test_outlines import circle
from tray_core.words.blocks import blocks_of
from tray_core.words.xmp import read_packets

PROJECT = Path(__file__).parents[2]


def recipe(cutout: Mapping[str, object], **stations: object) -> Recipe:
    content = {
        "format": "upper-tray/recipe",
        "version": 1,
        "title": "Object",
        "cutout": cutout,
        "file": {"format": "png"},
        "name": {"pattern": "{stem}"},
        "place": {},
        **stations,
    }
    return check_recipe({key: value for key, value in content.items() if value is not None})


def quiet(arguments: list[str]) -> int:
    """What the command line answers, without what it says."""
    with contextlib.redirect_stdout(io.StringIO()), contextlib.redirect_stderr(io.StringIO()):
        return main(arguments)


class Cutting(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        pixels, self.truth = drawn([(ring(450, 350, 210), (150, 40, 30)), (ring(450, 350, 60), None)], (900, 700))
        self.photo = self.folder / "disc.png"
        Image.fromarray(pixels).save(self.photo)
        paths = (circle(450, 350, 210, (900, 700), 300), circle(450, 350, 60, (900, 700), 300))
        self.outline = Outline(paths=paths)
        (self.folder / "outlines.json").write_text(json.dumps({"disc.png": self.outline.to_json()}))

    def facts(self) -> PhotoFacts:
        return PhotoFacts(
            path="disc.png", format="PNG", width=900, height=700, outline=traced(self.outline, (900, 700))
        )

    def made(self, content: Recipe, name: str = "disc.png") -> bytes:
        (self.folder / "recipe.json").write_text(json.dumps(content.to_json()))
        out = self.folder / "out"
        arguments = ["--recipe", str(self.folder / "recipe.json"), "--out", str(out), str(self.photo)]
        code = quiet(["render", *arguments, "--taken", "replace", "--outlines", str(self.folder / "outlines.json")])
        self.assertEqual(code, 0)
        return (out / name).read_bytes()

    def pixels(self, data: bytes) -> NDArray[Any]:
        path = self.folder / "made"
        path.write_bytes(data)
        facts = read_facts(path, data=data)
        return decode(facts, data, (facts.width, facts.height)).pixels

    def test_the_ground_becomes_clear_and_its_color_leaves_the_rim(self) -> None:
        made = self.pixels(self.made(recipe({"ground": "clear"}, size={"by": "width", "pixels": 600})))
        self.assertEqual(made.shape, (467, 600, 4))
        expected = coverage(traced(self.outline, (900, 700)).contours((600, 467)), (600, 467))  # type: ignore[union-attr]
        self.assertLess(float(np.abs(made[..., 3] / 255 - expected).max()), 0.01)
        rim = (made[..., 3] > 20) & (made[..., 3] < 235)
        self.assertGreater(int(rim.sum()), 500)
        self.assertLess(int(np.abs(made[rim][:, :3].astype(int) - (150, 40, 30)).max()), 12)

    def test_the_ground_becomes_any_color_in_any_format(self) -> None:
        for station in (
            {"format": "jpeg", "quality": 100, "chroma": "444"},
            {"format": "tiff"},
            {"format": "avif", "quality": 100},
        ):
            with self.subTest(format=station["format"]):
                name = "disc." + {"jpeg": "jpg", "tiff": "tif", "avif": "avif"}[str(station["format"])]
                data = self.made(recipe({"ground": "#203040"}, file=station, sharpen={"strength": 100}), name)
                made = self.pixels(data)[..., :3].astype(int)
                for place in ((5, 5), (350, 450), (690, 890)):
                    self.assertLess(int(np.abs(made[place] - (0x20, 0x30, 0x40)).max()), 4, place)
                self.assertLess(int(np.abs(made[350, 600] - (150, 40, 30)).max()), 8)
                # No light rim of the old ground anywhere.
                self.assertLess(int(made[..., 1].max()), 0x30 + 25)

    def test_shadows_fall_beside_the_object_only(self) -> None:
        cutout = {"ground": "#ffffff", "shadow": {"strength": 50, "blur": 2, "down": 5}}
        plain = self.pixels(self.made(recipe({"ground": "#ffffff"})))
        shaded = self.pixels(self.made(recipe(cutout)))
        inside, below = (350, 600), (350 + 216, 450)
        self.assertEqual(plain[inside].tolist(), shaded[inside].tolist())
        self.assertLess(int(shaded[below].max()), 200)
        self.assertGreater(int(shaded[20, 450].min()), 250)
        clear = self.pixels(self.made(recipe({**cutout, "ground": "clear"})))
        self.assertGreater(int(clear[below][3]), 60)
        self.assertEqual(clear[below][:3].tolist(), [0, 0, 0])

    def test_objects_fill_the_frame_but_for_the_margin(self) -> None:
        for shape, margin in (("1:1", 8.0), ("3:1", 10.0), ("9:16", 0.0), (None, 12.0)):
            with self.subTest(shape=shape):
                frame = {"way": "crop", "shape": shape} if shape else None
                content = recipe(
                    {"ground": "#ffffff", "fit": "box", "margin": margin},
                    frame=frame,
                    size={"by": "long-edge", "pixels": 600},
                )
                plan = plan_renditions(self.facts(), content, 1, Names())[0]
                box = plan.layout.rendition_points(np.array([[240.0, 140.0], [660.0, 560.0]]))
                beside = margin / 100 * min(plan.width, plan.height)
                edges = np.array([*box[0], plan.width - box[1][0], plan.height - box[1][1]])
                self.assertAlmostEqual(float(edges.min()), beside, delta=1.0)
                self.assertAlmostEqual(float(edges[0] - edges[2]), 0, delta=1.0)
                self.assertAlmostEqual(float(edges[1] - edges[3]), 0, delta=1.0)

    def test_objects_of_one_shop_have_one_area(self) -> None:
        content = recipe(
            {"ground": "#ffffff", "fit": "area"},
            frame={"way": "pad", "shape": "1:1"},
            size={"by": "width", "pixels": 500, "enlarge": "always"},
        )
        areas = []
        for outline in (
            Outline(paths=(circle(300, 300, 100, (900, 700), 200),)),
            Outline(
                paths=(tuple(Node(at=(x / 900, y / 700)) for x, y in ((200, 200), (420, 200), (420, 330), (200, 330))),)
            ),
        ):
            facts = PhotoFacts(path="a.png", format="PNG", width=900, height=700, outline=traced(outline, (900, 700)))
            layout = plan_renditions(facts, content, 1, Names())[0].layout
            points = layout.rendition_points(contours_of(outline, (900, 700))[0])
            areas.append(area_of(points) / 500**2)
        self.assertAlmostEqual(areas[0], areas[1], delta=0.002)
        self.assertAlmostEqual(areas[0], 0.45 * 0.84**2, delta=0.002)

    def test_a_framing_of_a_person_goes_before_the_object(self) -> None:
        content = recipe({"ground": "#ffffff", "fit": "box"}, frame={"way": "crop", "shape": "1:1"})
        framing = Framing(name="mine", x=0.1, y=0.1, width=7 / 18, height=0.5)
        self.assertEqual(
            plan_renditions(self.facts(), content, 1, Names(), framings=[framing])[0].layout.framing, "mine"
        )

    def test_what_has_no_certain_outline_asks(self) -> None:
        content = recipe({"ground": "#ffffff"})
        for outline in (None, traced(self.outline.model_copy(update={"sure": False}), (900, 700))):
            facts = PhotoFacts(path="a.png", format="PNG", width=900, height=700, outline=outline)
            plan = plan_renditions(facts, content, 1, Names())[0]
            self.assertTrue(plan.needs_outline)
            self.assertIn("outline", [each.code for each in plan.warnings])
        sure = plan_renditions(self.facts(), content, 1, Names())[0]
        self.assertFalse(sure.needs_outline)
        moved = self.outline.model_copy(update={"grow": 1.0})
        other = PhotoFacts(path="a.png", format="PNG", width=900, height=700, outline=traced(moved, (900, 700)))
        self.assertNotEqual(fingerprint("x", sure), fingerprint("x", plan_renditions(other, content, 1, Names())[0]))

    def test_paths_go_into_files_and_beside_them(self) -> None:
        station = {"format": "jpeg"}
        content = recipe(
            {"ground": "keep", "path": "Disc", "svg": True}, file=station, size={"by": "width", "pixels": 450}
        )
        data = self.made(content, "disc.jpg")
        said = read_packets(blocks_of(data, "JPEG").xmp)["svg:path"]
        fields = {field.tag.rpartition("}")[2]: field.text or "" for field in said.iter()}
        self.assertEqual(fields["id"], "Disc")
        self.assertTrue(fields["d"].startswith("M330.00 175.00"))
        drawing = (self.folder / "out" / "disc.jpg.svg").read_bytes()
        self.assertIn(fields["d"].encode(), drawing)
        shown = self.pixels(drawing)
        truth = coverage(traced(self.outline, (900, 700)).contours((450, 350)), (450, 350))  # type: ignore[union-attr]
        seen = cv2.resize(shown[..., 3], (450, 350), interpolation=cv2.INTER_AREA) / 255
        self.assertGreater(iou(seen, truth), 0.995)

    def test_a_path_goes_into_tiffs_of_inks_that_say_nothing_else(self) -> None:
        with mock.patch.dict(os.environ, {"UPPER_TRAY_PROFILES": str(PROJECT / "demo" / "profiles")}):
            color = {"profile": "icc", "icc": "chemical-proof-CMYK.icc"}
            cutout = {"ground": "#e0d0b0", "shadow": {}, "path": "Disc"}
            content = recipe(
                cutout, file={"format": "tiff"}, color=color, size={"by": "width", "pixels": 450, "ppi": 300}
            )
            data = self.made(content, "disc.tif")
        said = read_packets(blocks_of(data, "TIFF").xmp)["svg:path"]
        self.assertIn("Disc", [field.text for field in said.iter()])
        with Image.open(io.BytesIO(data)) as image:
            self.assertEqual((image.mode, image.size), ("CMYK", (450, 350)))
            self.assertEqual(image.info["dpi"], (300, 300))

    def test_a_transparent_photo_gets_the_new_ground_behind_it(self) -> None:
        pixels = np.zeros((700, 900, 4), np.uint8)
        pixels[250:450, 300:600] = (150, 40, 30, 255)
        Image.fromarray(pixels).save(self.photo)
        made = self.pixels(
            self.made(recipe({"ground": "#203040"}, file={"format": "jpeg", "quality": 100}), "disc.jpg")
        )
        self.assertLess(int(np.abs(made[200, 450].astype(int) - (0x20, 0x30, 0x40)).max()), 4)
        self.assertLess(int(np.abs(made[300, 590].astype(int) - (150, 40, 30)).max()), 8)

    def test_a_page_is_clipped_by_the_path(self) -> None:
        content = recipe(
            {"ground": "keep", "path": "Disc"},
            file={"format": "pdf", "quality": 100},
            size={"by": "width", "pixels": 450, "ppi": 72},
        )
        page = self.pixels(self.made(content, "disc.pdf")).astype(int)
        scale = page.shape[1] / 450
        for x, y, inside in ((20, 20, False), (225, 175, False), (300, 175, True), (225, 90, True)):
            near = page[round(y * scale), round(x * scale)]
            self.assertEqual(bool(near[1] < 100), inside, (x, y, near))
            if not inside:
                self.assertEqual(near[:3].tolist(), [255, 255, 255])

    def test_paths_that_are_too_long_say_so(self) -> None:
        many = Outline(
            paths=(
                tuple(Node(at=(0.5 + 0.4 * math.cos(t), 0.5 + 0.4 * math.sin(t))) for t in np.linspace(0, 6.28, 3990)),
            )
        )
        (self.folder / "outlines.json").write_text(json.dumps({"disc.png": many.to_json()}))
        (self.folder / "recipe.json").write_text(
            json.dumps(recipe({"ground": "keep", "path": "P"}, file={"format": "jpeg"}).to_json())
        )
        code = quiet(
            [
                "render",
                "--recipe",
                str(self.folder / "recipe.json"),
                "--out",
                str(self.folder / "out"),
                str(self.photo),
                "--outlines",
                str(self.folder / "outlines.json"),
            ]
        )
        self.assertEqual(code, 1)

    def test_turned_and_framed_the_path_follows_the_pixels(self) -> None:
        content = recipe(
            {"ground": "#ffffff"}, frame={"way": "crop", "shape": "4:5"}, size={"by": "width", "pixels": 320}
        )
        framing = Framing(name="turned", x=0.2, y=0.05, width=0.7, height=0.72, angle=11, turn=90)
        plan = plan_renditions(self.facts(), content, 1, Names(), framings=[framing])[0]
        data = self.photo.read_bytes()
        facts = read_facts(self.photo)
        picture = work(decoded_for(facts, data, content, plan.layout), content, plan.layout, outline=plan.outline)
        self.assertEqual(picture.size, (plan.width, plan.height))
        placed = [plan.layout.rendition_points(each) for each in self.facts().outline.contours((900, 700))]  # type: ignore[union-attr]
        expected = coverage(placed, (plan.width, plan.height))
        self.assertGreater(iou(picture.pixels[..., 1] < 150, expected), 0.99)


class Recipes(unittest.TestCase):
    def test_sentences(self) -> None:
        def told(**cutout: object) -> str:
            return "".join(phrase.text for phrase in describe(recipe(cutout)))

        self.assertTrue(told(ground="clear").startswith("Each photo is cut out, and keeps its shape"))
        self.assertIn("is cut out and laid on white with a soft shadow, and", told(ground="#ffffff", shadow={}))
        self.assertIn(
            "its object as large as fits with a margin of 8 %, and is framed around its object",
            told(ground="clear", fit="box"),
        )
        self.assertIn("its outline beside it as SVG", told(ground="keep", svg=True))

    def test_what_does_not_fit_together_is_named(self) -> None:
        for cutout, stations, field in (
            ({"ground": "clear"}, {"file": {"format": "jpeg"}}, "cutout.ground"),
            ({"ground": "keep", "shadow": {}}, {}, "cutout.shadow"),
            ({"ground": "clear", "path": "P"}, {}, "cutout.path"),
            ({"ground": "clear", "fit": "area"}, {}, "cutout.fit"),
            ({"ground": "clear", "fit": "box"}, {"frame": {"way": "stretch", "shape": "1:1"}}, "cutout.fit"),
            ({"ground": "blue"}, {}, "cutout.ground"),
            ({"ground": "clear", "margin": 60}, {}, "cutout.margin"),
        ):
            with self.subTest(field=field, cutout=cutout), self.assertRaises(RecipeProblems) as raised:
                recipe(cutout, **stations)
            self.assertEqual(raised.exception.problems[0].subject, field)
        self.assertEqual(recipe({"ground": "clear", "margin": 8}).to_json()["cutout"], {"ground": "clear"})


if __name__ == "__main__":
    unittest.main()
