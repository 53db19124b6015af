"""Small pictures for screens: true to the plan, from the smallest copy that will do; the interesting part."""

from __future__ import annotations

import io
import unittest
from typing import Any

import cv2
import numpy as np
from PIL import Image

from bench.accuracy.crops import chosen, seen, share_kept
from bench.accuracy.marked import DEMO, OTHERS, SHAPES, kept
from tray_core.line import look_at, preview, read_interest
from tray_core.line.interest import STEPS, interest_of
from tray_core.line.preview import WORKING_EDGES, copy_wanted, seen_at
from tray_core.photo import read_facts
from tray_core.plan import Framing, Plan, plan_renditions
from tray_core.plan.interest import best_start
from tray_core.tests.samples import PHOTOS, facts, recipe

PHOTO = PHOTOS / "autumn-rehang" / "2031-10-14_02_lark-and-drum-clock.jpg"
CUT_OUT = PHOTOS / "mixed" / "singing-bird_cutout.png"


def opened(data: bytes) -> Image.Image:
    with Image.open(io.BytesIO(data)) as image:
        image.load()
    return image


class Copies(unittest.TestCase):
    def test_two_copies_upright_in_srgb(self) -> None:
        for path, kind in ((PHOTO, "JPEG"), (CUT_OUT, "PNG")):
            data = path.read_bytes()
            looked = look_at(read_facts(path), data)
            self.assertEqual([max(opened(copy).size) for copy in looked.copies], list(WORKING_EDGES))
            self.assertEqual({opened(copy).format for copy in looked.copies}, {kind})
            self.assertEqual([len(looked.interest.across), len(looked.interest.down)], [STEPS, STEPS])
            self.assertEqual(read_interest(read_facts(path), data).interest, looked.interest)

    def test_the_smallest_copy_that_need_not_be_enlarged(self) -> None:
        def wanted(edge: int, *framings: Framing, **stations: Any) -> int:
            plan = plan_renditions(facts(6000, 4000), recipe(**stations), 1, None, framings=framings)[-1]
            return copy_wanted(plan.layout, edge)

        square = {"way": "crop", "shape": "1:1"}
        tight = Framing(name="tight", x=0.5, y=0.5, width=0.1, height=0.15)
        self.assertEqual(wanted(280), 320)
        self.assertEqual(wanted(400), 960)
        self.assertEqual(wanted(200, frame=square), 320)
        self.assertEqual(wanted(280, frame=square), 960)
        self.assertEqual(wanted(120, tight, frame=square), 960)
        self.assertEqual(wanted(120, size={"by": "width", "pixels": 90}), 320)


class Previews(unittest.TestCase):
    data = PHOTO.read_bytes()
    copies = dict(zip(WORKING_EDGES, look_at(read_facts(PHOTO), data).copies, strict=True))

    def plan(self, *framings: Framing, **stations: Any) -> Plan:
        return plan_renditions(read_facts(PHOTO), recipe(**stations), 1, None, framings=framings)[-1]

    def test_every_shape_is_shown_in_its_shape(self) -> None:
        for stations in (
            {"frame": {"way": "crop", "shape": "3:1"}},
            {"frame": {"way": "pad", "shape": "9:16", "fill": "blur"}},
            {"frame": {"way": "crop", "shape": "1:1", "panels": {"columns": 6, "rows": 1}}},
            {"frame": {"way": "stretch", "shape": "2:3"}},
            {"size": {"by": "widths", "widths": [100, 400, 900]}},
            {"size": {"by": "width", "pixels": 90, "light": "linear"}},
        ):
            plan = self.plan(**stations)
            for edge in (280, 960):
                made = opened(preview(self.copies[copy_wanted(plan.layout, edge)], plan, edge))
                width, height = plan.layout.canvas
                self.assertEqual(max(made.size), min(edge, max(width, height)), stations)
                self.assertAlmostEqual(made.width / made.height, width / height, delta=0.02 * width / height + 0.03)

    def test_a_framing_is_seen_as_it_will_be_made(self) -> None:
        """The preview of a turned and straightened framing is the rendition, small."""
        framing = Framing(name="dial", x=0.2, y=0.15, width=0.4, height=0.6, angle=8, turn=90)
        stations: dict[str, Any] = {"frame": {"way": "crop", "shape": "240x240"}, "size": None, "sharpen": None}
        plan = self.plan(framing, **stations)
        small = np.asarray(opened(preview(self.copies[960], plan, 240)), np.float32)
        with Image.open(PHOTO) as image:
            whole = np.asarray(image)
        height, width = whole.shape[:2]
        center = (0.4 * width, 0.45 * height)
        matrix = cv2.getRotationMatrix2D(center, 8, 1.0)  # counterclockwise, so that the rectangle stands upright
        upright = cv2.warpAffine(whole, matrix, (width, height), flags=cv2.INTER_AREA)
        x, y = (round(center[0] + side * 0.2 * width) for side in (-1, 1)), (0.15 * height, 0.75 * height)
        left, right = x
        part = upright[round(y[0]) : round(y[1]), left:right]
        wanted = np.rot90(cv2.resize(part, (240, 240), interpolation=cv2.INTER_AREA), -1).astype(np.float32)
        blurred = [cv2.GaussianBlur(np.ascontiguousarray(each), (0, 0), 2) for each in (small, wanted)]
        self.assertLess(float(np.abs(blurred[0] - blurred[1]).mean()), 2.5)

    def test_a_layout_seen_small_keeps_what_it_shows(self) -> None:
        beyond = Framing(name="air", x=-0.2, y=0.1, width=0.8, height=1.2)
        layout = self.plan(beyond, frame={"way": "crop", "shape": "1:1"}).layout
        small = seen_at(layout, (960, 640), 200)
        self.assertEqual(max(small.canvas), 200)
        for axis in (0, 1):
            shares = [each.inner[axis + 2] / each.canvas[axis] for each in (layout, small)]
            self.assertAlmostEqual(shares[0], shares[1], delta=0.01)


class Seen(unittest.TestCase):
    def test_what_stands_out_is_found_on_either_side(self) -> None:
        for left in (30, 230):
            pixels = np.full((200, 300, 3), 120, np.uint8)
            pixels[80:120, left : left + 40] = (220, 60, 20)
            found = interest_of(pixels)
            start = best_start(found, 0, 0.4).at * 300
            self.assertLessEqual(start, left)
            self.assertGreaterEqual(start + 120, left + 40)
            middle = best_start(found, 1, 0.5).at * 200
            self.assertLess(abs(middle + 50 - 100), 25)
            (thing,) = found.subjects
            self.assertEqual(thing.kind, "thing")
            self.assertLess(abs((thing.box[0] + thing.box[2]) * 150 - left - 20), 8)

    def test_nothing_to_find_gives_the_middle_and_grey_is_seen_too(self) -> None:
        found = interest_of(np.full((90, 120), 90, np.uint8))
        self.assertEqual(found.subjects, ())
        self.assertAlmostEqual(best_start(found, 0, 0.5).at, 0.25, delta=0.02)
        self.assertAlmostEqual(best_start(found, 1, 0.2).at, 0.4, delta=0.02)
        grey = np.full((100, 300), 200, np.uint8)
        grey[40:60, 250:280] = 20
        self.assertGreater(best_start(interest_of(grey), 0, 0.34).at, 0.4)

    def test_walls_skies_and_paper_do_not_outweigh_a_thing(self) -> None:
        """A small thing with detail against a wall in two tones, a bright sheet, and a sky that grows lighter."""
        random = np.random.default_rng(1)
        for ground in ("wall", "sky"):
            y, x = np.mgrid[0:200, 0:400]
            shade = np.where(x < 150, 90, 160) if ground == "wall" else 60 + y * 0.8
            pixels = np.repeat(shade[..., None], 3, 2).astype(np.uint8)
            pixels[120:170, 40:160] = 235
            pixels[60:120, 300:350] = random.integers(0, 2, (60, 50, 1)) * (200, 120, 40)
            found = interest_of(np.ascontiguousarray(pixels))
            start = best_start(found, 0, 0.3).at * 400
            self.assertTrue(start <= 300 and start + 120 >= 350, (ground, start))

    def test_marked_photographs_keep_what_people_want_to_see(self) -> None:
        for shape, ratio in SHAPES.items():
            marks = {**DEMO, **OTHERS}
            found = {name: share_kept(name, box, ratio) for name, box in marks.items()}
            self.assertGreaterEqual(float(np.mean([kept for kept, _, _ in found.values()])), 0.9, shape)
            self.assertGreaterEqual(float(np.mean([found[name][0] for name in OTHERS])), 0.97, shape)

    def test_heads_are_never_cut_where_the_shape_can_hold_them(self) -> None:
        for name in ("astronaut.png", "camera.png"):
            found, size = seen(name)
            heads = [each.box for each in found.subjects if each.kind == "head"]
            self.assertEqual(len(heads), 1, name)
            self.assertGreater(kept(heads[0], OTHERS[name]), 0.75)
            for ratio in (*SHAPES.values(), 2.0, 2.5):
                crop, start = chosen(name, ratio)
                if not start.cuts:
                    self.assertGreater(kept(heads[0], crop), 0.99, (name, ratio, size))
            self.assertTrue(chosen(name, 6)[1].cuts, "a strip is too low for a head, and asks")


if __name__ == "__main__":
    unittest.main()
