"""Sizes: the edge asked for is exact, the other rounded half up, nothing enlarged."""

from __future__ import annotations

import math
import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from tray_core.plan import plan_all, target_size
from tray_core.recipe.size import BoxSize, EdgeSize
from tray_core.tests.samples import facts, recipe

edges = st.integers(1, 30_000)


def half_up(value: Fraction) -> int:
    return max(1, math.floor(value + Fraction(1, 2)))


class EdgeSizes(unittest.TestCase):
    @given(edges, edges, st.integers(1, 65_500), st.sampled_from(("long-edge", "short-edge", "width", "height")))
    def test_edge_asked_for_is_exact_and_other_follows(self, width: int, height: int, pixels: int, by: str) -> None:
        made = target_size(width, height, EdgeSize(by=by, pixels=pixels))  # type: ignore[arg-type]
        asked = {"width": 0, "height": 1, "long-edge": int(height > width), "short-edge": int(height < width)}[by]
        photo = (width, height)
        if pixels >= photo[asked]:
            self.assertEqual(made, photo)
        else:
            self.assertEqual(made[asked], pixels)
            self.assertEqual(made[1 - asked], half_up(Fraction(photo[1 - asked] * pixels, photo[asked])))

    @given(edges, edges, st.integers(1, 65_500), st.integers(1, 65_500))
    def test_box_is_met_and_never_left(self, width: int, height: int, box_width: int, box_height: int) -> None:
        made = target_size(width, height, BoxSize(by="box", width=box_width, height=box_height))
        if width <= box_width and height <= box_height:
            self.assertEqual(made, (width, height))
        else:
            self.assertLessEqual(made[0], max(1, box_width))
            self.assertLessEqual(made[1], max(1, box_height))
            self.assertTrue(made[0] == box_width or made[1] == box_height)

    def test_known_sizes(self) -> None:
        for photo, size, wanted in (
            ((7196, 1796), EdgeSize(by="long-edge", pixels=1600), (1600, 399)),
            ((1996, 2996), EdgeSize(by="long-edge", pixels=1600), (1066, 1600)),
            ((3, 2), EdgeSize(by="width", pixels=1), (1, 1)),
            ((30_000, 100), EdgeSize(by="width", pixels=100), (100, 1)),
            ((4, 3), EdgeSize(by="width", pixels=2), (2, 2)),  # 1.5 rounds up
            ((2000, 2000), EdgeSize(by="short-edge", pixels=500), (500, 500)),
            ((6000, 4000), BoxSize(by="box", width=1600, height=1600), (1600, 1067)),
        ):
            with self.subTest(photo=photo, size=size):
                self.assertEqual(target_size(*photo, size), wanted)


class Warnings(unittest.TestCase):
    def codes(self, **about: object) -> list[str]:
        ((plan,),) = plan_all([facts(**about)], [recipe()])  # type: ignore[arg-type]
        return [warning.code for warning in plan.warnings]

    def test_what_a_person_should_know_before_making(self) -> None:
        self.assertEqual(self.codes(), [])
        self.assertEqual(self.codes(width=640, height=427), ["smaller"])
        self.assertEqual(self.codes(profile=None), ["no-profile"])
        self.assertEqual(self.codes(ends_early=True), ["ends-early"])
