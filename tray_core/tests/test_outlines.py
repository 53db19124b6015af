"""Outlines: what they cover, smoothed and grown, found on plain grounds, and printed."""

from __future__ import annotations

import contextlib
import io
import json
import math
import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from bench.accuracy.objects import BOX, SCENES, drawn, iou, ring, star
from tray_core.command.main import main
from tray_core.errors import RecipeError
from tray_core.outline import NO_OUTLINE, Node, Outline, area_of, check_outline, contours_of, traced
from tray_core.pixels.coverage import coverage
from tray_core.tracing import find_outline, plain_ground

PROJECT = Path(__file__).parents[2]
SHOP = PROJECT / "demo" / "photos" / "shop-stock"


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


if __name__ == "__main__":
    unittest.main()
