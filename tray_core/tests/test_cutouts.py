"""Cut-outs: outlines found, objects alone on their new ground, framed, with paths."""

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

from bench.accuracy.objects import BOX, SCENES, drawn, iou, ring, star
from tray_core.command.main import main
from tray_core.errors import RecipeError
from tray_core.fingerprint import fingerprint
from tray_core.line.working import decoded_for, work
from tray_core.outline import NO_OUTLINE, Node, Outline, area_of, check_outline, contours_of, traced
from tray_core.photo.facts import PhotoFacts, read_facts
from tray_core.pixels.coverage import coverage
from tray_core.pixels.decode import decode
from tray_core.plan import Framing, plan_renditions
from tray_core.plan.naming import Names
from tray_core.recipe import Recipe, RecipeProblems, check_recipe, describe
from tray_core.tracing import find_outline, plain_ground
from tray_core.words.blocks import blocks_of
from tray_core.words.xmp import read_packets

PROJECT = Path(__file__).parents[2]
SHOP = PROJECT / "demo" / "photos" / "shop-stock"


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


def circle(x: float, y: float, radius: float, size: tuple[int, int], count: int = 64) -> tuple[Node, ...]:
    """A polygon near a circle, in shares."""
    turns = [2 * math.pi * i / count for i in range(count)]
    return tuple(Node(at=((x + radius * math.cos(t)) / size[0], (y + radius * math.sin(t)) / size[1])) for t in turns)


def found_cover(pixels: NDArray[Any]) -> NDArray[Any]:
    size = pixels.shape[1], pixels.shape[0]
    there = traced(find_outline(pixels).outline, size)
    assert there is not None
    return coverage(there.contours(size), size)


class Coverage(unittest.TestCase):
    def test_squares_between_pixels_cover_exactly_their_shares(self) -> None:
        square = np.array([[1.25, 1.5], [3.75, 1.5], [3.75, 3.25], [1.25, 3.25]])
        found = coverage([square], (5, 5))
        across, down = np.array([0, 0.75, 1, 0.75, 0]), np.array([0, 0.5, 1, 0.25, 0])
        np.testing.assert_allclose(found, np.outer(down, across), atol=1e-6)

    def test_any_polygon_covers_its_area_less_its_holes(self) -> None:
        numbers = np.random.default_rng(3)
        for _ in range(200):
            middle, radius = numbers.uniform(20, 44, 2), numbers.uniform(6, 18)
            turns = np.sort(numbers.uniform(0, 2 * np.pi, numbers.integers(3, 40)))
            outer = middle + radius * np.stack([np.cos(turns), np.sin(turns)], axis=1)
            hole = (outer.mean(axis=0) + 0.3 * (outer - outer.mean(axis=0)))[::-1]
            found = coverage([outer, hole], (64, 64))
            self.assertAlmostEqual(float(found.sum(dtype=np.float64)), 0.91 * area_of(outer), places=2)

    def test_what_lies_beyond_the_picture_is_cut_off(self) -> None:
        found = coverage([np.array([[-30.0, -20.0], [90.0, -20.0], [90.0, 9.5], [-30.0, 9.5]])], (16, 16))
        np.testing.assert_allclose(found[:9], 1)
        np.testing.assert_allclose(found[9], 0.5)
        np.testing.assert_allclose(found[10:], 0)


class Outlines(unittest.TestCase):
    def test_growing_moves_the_edge_out_and_shrinks_holes(self) -> None:
        size = (400, 300)
        paths = (circle(200, 150, 90, size, 200), circle(200, 150, 40, size, 200))
        for grow in (-5.0, 0.0, 4.0):
            with self.subTest(grow=grow):
                outer, hole = contours_of(Outline(paths=paths, grow=grow), size)
                self.assertAlmostEqual(area_of(outer) / (math.pi * (90 + grow) ** 2), 1, delta=0.002)
                self.assertAlmostEqual(-area_of(hole) / (math.pi * (40 - grow) ** 2), 1, delta=0.005)

    def test_smoothing_takes_small_teeth_and_keeps_the_body(self) -> None:
        size = (400, 400)
        teeth = tuple(Node(at=(x / 400, y / 400)) for x, y in star(200, 200, 122, 118, 120))
        smooth = contours_of(Outline(paths=(teeth,), smooth=6.0), size)[0]
        radii = np.hypot(*(smooth - 200).T)
        self.assertLess(float(np.ptp(radii)), 0.2)
        self.assertAlmostEqual(float(radii.mean()), 120, delta=0.5)

    def test_plain_values_come_back_the_same_and_wrong_ones_are_named(self) -> None:
        outline = Outline(
            paths=((Node(at=(0.1, 0.2), behind=(0.3, 0.1)), Node(at=(0.8, 0.2), corner=True), Node(at=(0.5, 0.9))),),
            grow=1.5,
        )
        self.assertEqual(check_outline(json.loads(json.dumps(outline.to_json()))), outline)
        self.assertEqual(check_outline({}), NO_OUTLINE)
        for wrong, field in (
            ([], "outline"),
            ({"paths": [[{"at": [0, 0]}]]}, "outline.paths.0"),
            ({"paths": [[{"at": [0, 5]}, {"at": [0, 0]}]]}, "outline.paths.0.0.at.1"),
            ({"edges": []}, "outline.edges"),
            ({"paths": [[{"at": [0.5, 0.5]}] * 4001]}, "outline.paths"),
            ({"paths": [], "grow": math.nan}, "outline.grow"),
        ):
            with self.subTest(field=field), self.assertRaises(RecipeError) as raised:
                check_outline(wrong)
            self.assertEqual(raised.exception.subject, field)


class Finding(unittest.TestCase):
    def test_the_bird_of_the_shop_is_found_to_the_pixel(self) -> None:
        """Against the same object rendered without its ground."""
        truth = np.asarray(Image.open(PROJECT / "demo/photos/mixed/singing-bird_cutout.png"))[..., 3] / 255
        pixels = np.asarray(Image.open(SHOP / "QM4_0118.jpg"))
        found = find_outline(pixels)
        self.assertTrue(found.outline.sure, found.why)
        self.assertGreater(iou(found_cover(pixels), truth), 0.99)

    def test_drawn_objects_are_found_with_their_holes(self) -> None:
        for name, least in (
            ("disc", 0.99),
            ("wheel", 0.99),
            ("rod and disc", 0.98),
            ("cream box", 0.99),
            ("grey box", 0.99),
        ):
            with self.subTest(scene=name):
                pixels, truth = drawn(SCENES[name], (900, 700))
                self.assertGreater(iou(found_cover(pixels), truth), least)

    def test_edges_lie_within_a_pixel(self) -> None:
        pixels, truth = drawn([(ring(450, 350, 210), (150, 40, 30))], (900, 700))
        found = find_outline(pixels).outline
        off = np.hypot(*(np.concatenate(contours_of(found, (900, 700))) - (450, 350)).T) - 210
        self.assertLess(float(np.abs(off).max()), 1.0)
        self.assertLess(float(np.abs(off).mean()), 0.3)
        self.assertLess(abs(float(found_cover(pixels).sum() / truth.sum()) - 1), 0.004)

    def test_what_is_doubtful_is_said(self) -> None:
        at_the_edge, _ = drawn([(ring(60, 350, 210), (150, 40, 30))], (900, 700))
        self.assertIn("The object reaches the picture's edge.", find_outline(at_the_edge).why)
        noise = np.random.default_rng(1).integers(0, 256, (300, 400, 3)).astype(np.uint8)
        self.assertFalse(plain_ground(noise))
        self.assertEqual(find_outline(noise).outline, NO_OUTLINE)
        empty = np.full((300, 400, 3), 250, np.uint8)
        self.assertEqual(find_outline(empty).why, ("Nothing lies on the ground.",))
        # An object that leaves a border of its own color, and nothing else.
        filled, _ = drawn([([(0.0, 0.0), (900.0, 0.0), (900.0, 700.0), (0.0, 700.0)], (90, 140, 60))], (900, 700))
        self.assertTrue(find_outline(filled).why)
        faint, _ = drawn([(BOX, (240, 238, 234))], (900, 700))
        self.assertFalse(find_outline(faint).outline.sure and not find_outline(faint).outline.empty)


def quiet(arguments: list[str]) -> int:
    """What the command line answers, without what it says."""
    with contextlib.redirect_stdout(io.StringIO()), contextlib.redirect_stderr(io.StringIO()):
        return main(arguments)


class AnyPicture(unittest.TestCase):
    def test_no_picture_is_too_small_too_flat_or_too_wild(self) -> None:
        for shape in ((1, 1), (1, 50), (3, 3), (40, 9), (2, 300)):
            for level in (0, 128, 255):
                find_outline(np.full((*shape, 3), level, np.uint8))
        numbers = np.random.default_rng(2)
        for number in range(60):
            height, width = numbers.integers(1, 300, 2)
            pixels = np.full((height, width, 3), numbers.integers(0, 256), np.uint8)
            if number % 3 == 1:
                pixels[numbers.random((height, width)) < 0.02] = numbers.integers(0, 256, 3)
            elif number % 3 == 2:
                pixels[:, width // 2 :] = numbers.integers(0, 256, 3)
            outline = find_outline(pixels).outline
            self.assertEqual(check_outline(outline.to_json()).paths, outline.paths)


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


class CommandLine(unittest.TestCase):
    def test_outlines_are_printed_as_they_are_taken(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            for photo, x in (("disc", 450), ("edge", 60)):
                pixels, _ = drawn([(ring(x, 350, 210), (150, 40, 30))], (900, 700))
                Image.fromarray(pixels).save(folder / f"{photo}.png")
            (folder / "text.jpg").write_bytes(b"no picture")
            said, told = io.StringIO(), io.StringIO()
            with contextlib.redirect_stdout(said), contextlib.redirect_stderr(told):
                code = main(["outlines", str(folder)])
            self.assertEqual(code, 1)
            self.assertIn("text.jpg", told.getvalue())
            self.assertIn("edge.png: The object reaches the picture's edge.", told.getvalue())
            found = json.loads(said.getvalue())
            self.assertEqual(set(found), {"disc.png", "edge.png"})
            self.assertEqual([check_outline(found[each]).sure for each in ("disc.png", "edge.png")], [True, False])


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
