"""Small pictures for screens: true to the plan, from the smallest copy that will do; the interesting part."""

from __future__ import annotations

import io
import unittest
from typing import Any

import cv2
import numpy as np
from PIL import Image

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
            self.assertEqual([len(each) for each in looked.interest], [STEPS, STEPS])
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


class Interest(unittest.TestCase):
    def test_what_stands_out_is_found_on_either_side(self) -> None:
        for left in (30, 230):
            pixels = np.full((200, 300, 3), 120, np.uint8)
            pixels[80:120, left : left + 40] = (220, 60, 20)
            across, down = interest_of(pixels)
            start = best_start(across, 0.4) * 300
            self.assertLessEqual(start, left)
            self.assertGreaterEqual(start + 120, left + 40)
            middle = best_start(down, 0.5) * 200
            self.assertLess(abs(middle + 50 - 100), 25)

    def test_nothing_to_find_gives_the_middle_and_grey_is_seen_too(self) -> None:
        across, down = interest_of(np.full((90, 120), 90, np.uint8))
        self.assertAlmostEqual(best_start(across, 0.5), 0.25, delta=0.02)
        self.assertAlmostEqual(best_start(down, 0.2), 0.4, delta=0.02)
        grey = np.full((100, 300), 200, np.uint8)
        grey[40:60, 250:280] = 20
        self.assertGreater(best_start(interest_of(grey)[0], 0.34), 0.4)

    def test_the_demo_keeps_its_subjects(self) -> None:
        """In a square of the tower the clock, in one of the two on white the whole object."""
        path = PHOTOS / "autumn-rehang" / "2031-10-16_06_clock-tower-dusk.jpg"
        seen = read_interest(read_facts(path), path.read_bytes())
        (plan,) = plan_renditions(seen, recipe(frame={"way": "crop", "shape": "1:1", "anchor": "interest"}), 1, None)
        _, top, _, height = plan.layout.rect
        self.assertTrue(top < 0.5 * seen.height < top + height)


if __name__ == "__main__":
    unittest.main()
