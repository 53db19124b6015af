"""Layouts as arithmetic: crops lie inside, padding shows all, panels tile, framings outlive sizes."""

from __future__ import annotations

import unittest
from fractions import Fraction
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tray_core.photo.interest import Interest, Subject
from tray_core.plan import Framing, Layout, carried_over, framing_of, layout_from_json, layouts, plan_renditions
from tray_core.plan.interest import best_start
from tray_core.recipe import Recipe
from tray_core.tests.samples import facts, recipe

edges = st.integers(1, 30_000)
small = st.integers(1, 3000)
photos = st.tuples(edges, edges)
ratios = st.tuples(st.integers(1, 40), st.integers(1, 40)).map(lambda pair: f"{pair[0]}:{pair[1]}")
anchors = st.sampled_from(
    ("top-left", "top", "top-right", "left", "middle", "right", "bottom-left", "bottom", "bottom-right", "interest")
)
NINE = {"top-left": (0, 0), "top": (500, 0), "right": (1000, 500), "middle": (500, 500), "bottom-right": (1000, 1000)}


def layout(photo: tuple[int, int], *framings: Framing, **stations: Any) -> Layout:
    """The one layout of a photo by the stations given."""
    made: Recipe = recipe(**({"size": None} | stations))
    (found,) = layouts(photo, made.frame, made.size, framings, recipe=7)
    return found


class Crops(unittest.TestCase):
    @given(photos, ratios, anchors, st.integers(1, 4000))
    def test_crop_lies_inside_touches_two_sides_and_has_the_shape(
        self, photo: tuple[int, int], shape: str, anchor: str, pixels: int
    ) -> None:
        found = layout(
            photo,
            frame={"way": "crop", "shape": shape, "anchor": anchor},
            size={"by": "long-edge", "pixels": pixels},
        )
        left, top, width, height = found.rect
        self.assertGreaterEqual(min(left, top), 0)
        self.assertLessEqual(left + width, photo[0] * (1 + 1e-9) + 1)
        self.assertLessEqual(top + height, photo[1] * (1 + 1e-9) + 1)
        self.assertTrue(abs(width - photo[0]) < 1 or abs(height - photo[1]) < 1)
        self.assertFalse(found.padded)
        wide, high = map(int, shape.split(":"))
        expected = Fraction(wide, high)
        # The edge asked for is exact, the other the nearest whole pixel.
        long, short = max(found.canvas), min(found.canvas)
        self.assertLessEqual(abs(short - max(1, float(long * min(expected, 1 / expected)))), 0.5 + 1e-9)

    def test_nine_anchors(self) -> None:
        for anchor, (left, top) in NINE.items():
            frame = {"way": "crop", "shape": "500x500", "anchor": anchor}
            found = layout((1500, 1500), frame=frame, size=None)
            self.assertEqual(found.canvas, (500, 500))
            self.assertEqual(found.rect, (0, 0, 1500, 1500), "the largest square is the whole photo")
            wide = layout((2500, 1500), frame=frame)
            self.assertEqual(wide.rect, (left, 0, 1500, 1500), anchor)
            high = layout((1500, 2500), frame=frame)
            self.assertEqual(high.rect, (0, top, 1500, 1500), anchor)

    def test_interesting_part_is_kept(self) -> None:
        profile = bytes([0] * 36 + [255] * 8 + [0] * 4)
        photo = facts(3000, 1000, interest=Interest(profile, bytes(48)))
        frame = {"way": "crop", "shape": "1:1", "anchor": "interest"}
        (plan,) = plan_renditions(photo, recipe(frame=frame), 1, None)
        left, _, width, _ = plan.layout.rect
        self.assertLessEqual(left, 3000 * 36 / 48)
        self.assertGreaterEqual(left + width, 3000 * 44 / 48)
        self.assertAlmostEqual(best_start(Interest(bytes(48), bytes(48)), 0, 0.5).at, 0.25)
        self.assertAlmostEqual(best_start(Interest(bytes([9] * 48), bytes(48)), 0, 0.25).at, 0.375)

    @given(st.floats(0, 0.9), st.floats(0.02, 0.4), st.floats(0.1, 0.95), st.binary(min_size=48, max_size=48))
    def test_a_head_is_whole_wherever_the_shape_can_hold_it(
        self, first: float, long: float, share: float, profile: bytes
    ) -> None:
        last = min(1.0, first + long)
        interest = Interest(profile, bytes(48), (Subject("head", (first, 0, last, 1)),))
        found = best_start(interest, 0, share)
        self.assertTrue(0 <= found.at <= 1 - share + 1e-9)
        if last - first <= share - 1e-9:
            self.assertLessEqual(found.at, first + 1e-9)
            self.assertGreaterEqual(found.at + share, last - 1e-9)
            self.assertFalse(found.cuts)
        else:
            self.assertEqual(found.cuts, share < 0.97 * (last - first), found)

    def test_a_crop_that_cannot_keep_its_subject_asks(self) -> None:
        frame = {"way": "crop", "shape": "3:1", "anchor": "interest"}
        for kind, high, asks in (
            ("head", 0.3, False),
            ("head", 0.5, True),
            ("thing", 0.5, False),
            ("thing", 0.8, True),
        ):
            subject = Subject(kind, (0.4, 0.1, 0.6, 0.1 + high))  # type: ignore[arg-type]
            photo = facts(3000, 3000, interest=Interest(bytes(48), bytes(48), (subject,)))
            (plan,) = plan_renditions(photo, recipe(frame=frame), 1, None)
            self.assertEqual(plan.layout.asks, asks, (kind, high))
            codes = [caution.code for caution in plan.warnings]
            self.assertEqual("eye" in codes, asks)

    def test_own_size_copies_whole_pixels(self) -> None:
        found = layout((3001, 1999), frame={"way": "crop", "shape": "16:9"})
        self.assertEqual(found.canvas, (3001, 1688))
        self.assertEqual(found.rect, (0, 155, 3001, 1688))


class Sizes(unittest.TestCase):
    def test_measures(self) -> None:
        for size, wanted in (
            ({"by": "percent", "percent": 25}, (750, 500)),
            ({"by": "percent", "percent": 250}, (3000, 2000)),
            ({"by": "percent", "percent": 250, "enlarge": 200}, (6000, 4000)),
            ({"by": "megapixels", "megapixels": 1.5}, (1500, 1000)),
            ({"by": "width", "pixels": 4500, "enlarge": "always"}, (4500, 3000)),
            ({"by": "width", "pixels": 4500, "enlarge": 120}, (3600, 2400)),
            ({"by": "own", "ppi": 300}, (3000, 2000)),
        ):
            self.assertEqual(layout((3000, 2000), size=size).canvas, wanted, size)

    def test_values_by_orientation(self) -> None:
        size = {"by": "width", "pixels": 1920, "portrait": {"pixels": 1080}, "square": {"pixels": 1200}}
        self.assertEqual(layout((6000, 4000), size=size).canvas, (1920, 1280))
        self.assertEqual(layout((4000, 6000), size=size).canvas, (1080, 1620))
        self.assertEqual(layout((4000, 4000), size=size).canvas, (1200, 1200))
        exact = {"by": "exact", "width": 1200, "height": 800, "portrait": {"width": 800, "height": 1200}}
        crop = {"way": "crop"}
        self.assertEqual(layout((6000, 3000), frame=crop, size=exact).canvas, (1200, 800))
        self.assertEqual(layout((3000, 6000), frame=crop, size=exact).canvas, (800, 1200))

    def test_a_list_of_widths_gives_one_rendition_a_width_and_own_size_once(self) -> None:
        made = recipe(size={"by": "widths", "widths": [1280, 320, 640, 2560, 5000]}, name={"pattern": "{stem}"})
        plans = plan_renditions(facts(1600, 900), made, 1, None)
        self.assertEqual([(p.width, p.height) for p in plans], [(320, 180), (640, 360), (1280, 720), (1600, 900)])
        self.assertEqual([p.part for p in plans], [1, 2, 3, 4])

    @given(photos, st.sampled_from((101, 150, 400)), st.integers(1, 60_000))
    def test_enlarging_stops_at_its_limit(self, photo: tuple[int, int], limit: int, pixels: int) -> None:
        found = layout(photo, size={"by": "long-edge", "pixels": pixels, "enlarge": limit})
        self.assertLessEqual(max(found.canvas), max(max(photo) * limit / 100 + 0.5, 1))
        self.assertLessEqual(max(found.canvas), 65_500)

    def test_what_cannot_be_made_is_not_planned(self) -> None:
        size = {"by": "width", "pixels": 60_000, "enlarge": "always"}
        found = layout((1, 30_000), size=size)
        self.assertLessEqual(max(found.canvas), 65_500)
        self.assertLessEqual(found.canvas[0] * found.canvas[1], 400_100_000)


class Padding(unittest.TestCase):
    @given(photos, ratios, st.integers(1, 5000))
    def test_padding_shows_the_whole_photo_in_the_shape(self, photo: tuple[int, int], shape: str, pixels: int) -> None:
        found = layout(photo, frame={"way": "pad", "shape": shape}, size={"by": "short-edge", "pixels": pixels})
        self.assertEqual(found.cut, 0)
        left, top, width, height = found.inner
        self.assertTrue(left >= 0 and top >= 0 and width >= 1 and height >= 1)
        self.assertLessEqual(left + width, found.canvas[0])
        self.assertLessEqual(top + height, found.canvas[1])
        self.assertTrue(width == found.canvas[0] or height == found.canvas[1])
        self.assertEqual(found.box, (0, 0, *photo))
        self.assertLessEqual(abs(found.canvas[0] - width - 2 * left), 1, "the same on both sides")

    def test_square_without_scaling(self) -> None:
        found = layout((3000, 2000), frame={"way": "pad", "shape": "1:1"})
        self.assertEqual((found.canvas, found.inner), ((3000, 3000), (0, 500, 3000, 2000)))
        self.assertEqual(found.scale, 1)

    def test_a_half_pixel_is_rounded_up_at_every_anchor(self) -> None:
        for anchor in ("top", "middle", "bottom"):
            frame = {"way": "pad", "shape": "1:1", "anchor": anchor}
            found = layout((2000, 1500), frame=frame, size={"by": "width", "pixels": 18})
            left, top, width, height = found.inner
            self.assertEqual((left, width, height), (0, 18, 14), anchor)
            self.assertEqual(top, {"top": 0, "middle": 2, "bottom": 4}[anchor])

    def test_exact_pixels_are_reached_without_enlarging_what_is_padded(self) -> None:
        found = layout((640, 427), frame={"way": "pad", "shape": "1080x1920", "fill": "blur"})
        self.assertEqual((found.canvas, found.inner[2:]), ((1080, 1920), (640, 427)))
        crop = layout((640, 427), frame={"way": "crop", "shape": "1080x1920"})
        self.assertEqual(crop.canvas, (240, 427))
        larger = {"by": "own", "enlarge": "always"}
        self.assertEqual(layout((640, 427), frame={"way": "crop", "shape": "90x160"}, size=larger).canvas, (90, 160))
        found = layout((640, 427), frame={"way": "pad", "shape": "1080x1920"}, size=larger)
        self.assertEqual(found.inner, (0, 600, 1080, 721))

    def test_bounds_leave_what_lies_between_alone(self) -> None:
        for outside in ("crop", "pad"):
            frame = {"way": "bounds", "narrowest": "4:5", "widest": "1.91:1", "outside": outside}
            size = {"by": "width", "pixels": 1080}
            self.assertEqual(layout((3000, 2000), frame=frame, size=size).canvas, (1080, 720))
            self.assertEqual(layout((4000, 5000), frame=frame, size=size).canvas, (1080, 1350))
            self.assertEqual(layout((2000, 3000), frame=frame, size=size).canvas, (1080, 1350))
            self.assertEqual(layout((7196, 1796), frame=frame, size=size).canvas, (1080, 565))
            self.assertEqual(layout((2000, 3000), frame=frame, size=size).padded, outside == "pad")

    @given(st.tuples(st.integers(60, 9000), st.integers(60, 9000)), ratios, ratios, st.sampled_from(("crop", "pad")))
    def test_bounds_hold(self, photo: tuple[int, int], one: str, other: str, outside: str) -> None:
        narrowest, widest = sorted((one, other), key=lambda text: Fraction(text.replace(":", "/")))
        frame = {"way": "bounds", "narrowest": narrowest, "widest": widest, "outside": outside}
        found = layout(photo, frame=frame)
        low, high = (Fraction(text.replace(":", "/")) for text in (narrowest, widest))
        own = Fraction(photo[0], photo[1])
        if low <= own <= high:
            self.assertEqual((found.canvas, found.rect), (photo, (0, 0, *photo)))
        else:
            width, height = found.canvas
            self.assertLessEqual(Fraction(width - 1, height + 1), high)
            self.assertGreaterEqual(Fraction(width + 1, max(1, height - 1)), low)


class PanelsTile(unittest.TestCase):
    @given(
        photos,
        st.integers(1, 9),
        st.integers(1, 9),
        st.sampled_from(
            (
                None,
                {"by": "width", "pixels": 333},
                {"by": "long-edge", "pixels": 1080},
                {"by": "percent", "percent": 37},
                {"by": "box", "width": 500, "height": 77},
            )
        ),
        st.sampled_from(
            ({"way": "keep"}, {"way": "crop", "shape": "4:5"}, {"way": "pad", "shape": "1:1"}, {"way": "stretch"})
        ),
    )
    def test_without_gap_or_overlap(
        self, photo: tuple[int, int], columns: int, rows: int, size: Any, frame: dict[str, Any]
    ) -> None:
        frame = {**frame, "panels": {"columns": columns, "rows": rows}}
        if frame["way"] == "stretch":
            size = {"by": "exact", "width": 31, "height": 17}
        found = layout(photo, frame=frame, size=size)
        x = y = 0
        for number in range(1, columns * rows + 1):
            left, top, width, height = found.panel(number)
            self.assertEqual((left, top), (x, y))
            self.assertTrue(width >= 1 and height >= 1)
            x += width
            if number % columns == 0:
                self.assertEqual(x, found.canvas[0])
                x, y = 0, y + height
        self.assertEqual(y, found.canvas[1])

    def test_panels_of_an_exact_size_are_all_equal_and_named_by_number(self) -> None:
        frame = {"way": "crop", "shape": "1080x1350", "panels": {"columns": 3, "rows": 2}}
        plans = plan_renditions(facts(8000, 5000), recipe(frame=frame, size=None), 1, None)
        self.assertEqual([(p.width, p.height) for p in plans], [(1080, 1350)] * 6)
        self.assertEqual([p.panel for p in plans], [1, 2, 3, 4, 5, 6])
        self.assertEqual(plans[0].layout.canvas, (3240, 2700))

    @given(st.tuples(st.integers(60, 5000), st.integers(60, 5000)), st.integers(1, 9), st.integers(1, 4))
    def test_panels_of_a_shape_are_equal_even_where_nothing_may_be_enlarged(
        self, photo: tuple[int, int], columns: int, rows: int
    ) -> None:
        for way in ("crop", "pad"):
            frame = {"way": way, "shape": "1:1", "panels": {"columns": columns, "rows": rows}}
            found = layout(photo, frame=frame, size={"by": "width", "pixels": 9000})
            sizes = {found.panel(number)[2:] for number in range(1, columns * rows + 1)}
            self.assertEqual(len(sizes), 1)
            left, top, right, bottom = found.box
            whole = (right - left, bottom - top) == photo
            self.assertTrue(whole if way == "pad" else found.scale == 1)


class Framings(unittest.TestCase):
    square = Framing(name="dial", x=0.1, y=0.2, width=0.4, height=0.6)
    """On a photo of 3:2, a square."""

    @given(st.integers(2, 3000), st.sampled_from(("exact", "width", "box", "percent")))
    def test_a_framing_survives_every_output_size(self, pixels: int, by: str) -> None:
        size: dict[str, Any] = {"by": by, "enlarge": "always"}
        shape: dict[str, Any] = {"shape": "1:1"}
        if by == "exact":
            size |= {"width": pixels, "height": pixels}
            shape = {}
        elif by == "box":
            size |= {"width": pixels, "height": pixels}
        else:
            size |= {"percent": min(pixels, 1000)} if by == "percent" else {"pixels": pixels}
        found = layout((6000, 4000), self.square, frame={"way": "crop", **shape}, size=size)
        for have, want in zip(found.rect, (600, 800, 2400, 2400), strict=True):
            self.assertAlmostEqual(have, want, delta=1)
        self.assertEqual(found.framing, "dial")

    def test_which_framing_is_followed(self) -> None:
        photo = (6000, 4000)
        tied = Framing(name="tied", x=0, y=0, width=0.5, height=0.75, recipe=7)
        others = Framing(name="for another", x=0, y=0, width=0.4, height=0.6, recipe=8)
        older = Framing(name="older", x=0.5, y=0.2, width=0.4, height=0.6)
        wide = Framing(name="wide", x=0, y=0, width=1, height=0.5)
        crop = {"way": "crop", "shape": "1:1"}
        self.assertEqual(layout(photo, others, wide, self.square, older, frame=crop).framing, "dial")
        self.assertEqual(layout(photo, self.square, tied, frame=crop).framing, "tied")
        self.assertEqual(layout(photo, wide, self.square, frame={"way": "crop", "shape": "3:1"}).framing, "wide")
        self.assertIsNone(layout(photo, self.square, frame={"way": "stretch", "shape": "1:1"}).framing)
        self.assertIsNone(layout(photo, self.square, frame={"way": "keep"}).framing)
        self.assertEqual(layout(photo, tied, frame={"way": "keep"}).framing, "tied")

    def test_ask_waits_until_there_is_a_framing(self) -> None:
        ask = {"way": "crop", "shape": "1:1", "anchor": "ask"}
        self.assertTrue(layout((6000, 4000), frame=ask).asks)
        self.assertFalse(layout((6000, 4000), self.square, frame=ask).asks)
        bounds = {"way": "bounds", "narrowest": "4:5", "widest": "2:1", "anchor": "ask"}
        self.assertFalse(layout((6000, 4000), frame=bounds).asks)
        self.assertTrue(layout((9000, 2000), frame=bounds).asks)

    def test_a_framing_beyond_the_photo_shows_padding(self) -> None:
        beyond = Framing(name="air", x=-0.25, y=0, width=1.0, height=1.5)
        found = layout((6000, 4000), beyond, frame={"way": "crop", "shape": "600x600"})
        self.assertEqual((found.canvas, found.inner), ((600, 600), (150, 0, 450, 400)))
        self.assertEqual(found.box, (0, 0, 4500, 4000))

    def test_quarter_turns_swap_the_shape(self) -> None:
        tall = Framing(name="turned", x=0, y=0, width=0.5, height=0.375, turn=90)  # 3000 x 1500, shown as 1:2
        found = layout((6000, 4000), tall, frame={"way": "crop", "shape": "1:2"}, size={"by": "width", "pixels": 100})
        self.assertEqual((found.canvas, found.upright_canvas), ((100, 200), (200, 100)))
        self.assertEqual(found.rect, (0, 0, 3000, 1500))

    @given(st.tuples(small, small), st.tuples(small, small), st.data())
    def test_carried_over_it_keeps_its_shape_and_stays_inside(
        self, source: tuple[int, int], target: tuple[int, int], data: st.DataObject
    ) -> None:
        width, height = (data.draw(st.floats(0.05, 1)) for _ in range(2))
        x, y = data.draw(st.floats(0, 1 - width)), data.draw(st.floats(0, 1 - height))
        framing = Framing(name="one", x=x, y=y, width=width, height=height)
        other = carried_over(framing, source, target)
        self.assertAlmostEqual(other.ratio(target) / framing.ratio(source), 1, places=6)
        self.assertGreaterEqual(min(other.x, other.y), -1e-9)
        self.assertLessEqual(max(other.x + other.width, other.y + other.height), 1 + 1e-9)
        self.assertLessEqual(other.width * other.height, framing.width * framing.height + 1e-9)
        same = carried_over(framing, source, source)
        self.assertAlmostEqual(same.x, framing.x)
        self.assertAlmostEqual(same.width, framing.width)

    def test_impossible_framings_are_refused(self) -> None:
        for wrong in (
            {"width": 0.0},
            {"x": 1.0},
            {"x": -0.9, "width": 0.5},
            {"angle": 60.0},
            {"turn": 45},
            {"y": float("nan")},
        ):
            values: dict[str, Any] = {"name": "x", "x": 0, "y": 0, "width": 1, "height": 1} | wrong
            with self.assertRaises(ValueError):
                Framing(**values)

    def test_layouts_and_framings_travel_as_plain_values(self) -> None:
        found = layout((6000, 4000), self.square, frame={"way": "crop", "shape": "1:1"})
        self.assertEqual(layout_from_json(found.to_json()), found)
        self.assertEqual(framing_of("dial", found.rect, found.source).rect((300, 200)), (30, 40, 120, 120))


class Cautions(unittest.TestCase):
    def codes(self, width: int, height: int, **stations: Any) -> dict[str, str]:
        (plan,) = plan_renditions(facts(width, height), recipe(**stations), 1, None)
        return {caution.code: caution.text for caution in plan.warnings}

    def test_each_says_how_much_and_what_to_do(self) -> None:
        banner = {"way": "crop", "shape": "3:1", "anchor": "ask"}
        size = {"by": "width", "pixels": 1920, "minimum": {"width": 800, "height": 400}}
        found = self.codes(4000, 6000, frame=banner, size=size)
        self.assertEqual(set(found), {"eye", "cuts"})
        self.assertIn("78 %", found["cuts"])
        found = self.codes(640, 427, frame={"way": "crop", "shape": "3:1"}, size=size)
        self.assertIn("300 %", found["smaller"])
        self.assertIn("800 × 400, and this is 640 × 213", found["minimum"])
        found = self.codes(640, 427, size={"by": "width", "pixels": 1280, "enlarge": "always"})
        self.assertEqual(set(found), {"enlarged"})
        self.assertIn("enlarged to 200 %", found["enlarged"])
        self.assertEqual(self.codes(6000, 4000, frame={"way": "crop", "shape": "5:4"}), {})


if __name__ == "__main__":
    unittest.main()
