"""Names: unique over a run, safe on every file system, never outside their folder."""

from __future__ import annotations

import datetime as dt
import unittest
from pathlib import PurePosixPath

from hypothesis import given
from hypothesis import strategies as st

from tray_core.plan import plan_all
from tray_core.recipe import RecipeProblems
from tray_core.tests.samples import facts, recipe

stems = st.text(min_size=1, max_size=300).map(lambda text: text.replace("/", "_").replace("\0", "_"))


class Safe(unittest.TestCase):
    @given(stems, st.text(max_size=80))
    def test_any_text_makes_a_name_inside_its_folder(self, stem: str, title: str) -> None:
        stem = stem.encode("utf-8", "replace").decode()
        title = title.encode("utf-8", "replace").decode()
        made = recipe(title, name={"pattern": "{stem}-{recipe}"}, place={"subfolder": "{recipe}/{stem}"})
        ((plan,),) = plan_all([facts(path=f"in/{stem}.jpg")], [made])
        path = PurePosixPath(plan.path)
        self.assertEqual(len(path.parts), 3)
        self.assertEqual(path.suffix, ".jpg")
        for part in path.parts:
            self.assertNotIn(part, (".", ".."))
            self.assertLessEqual(len(part.encode()), 200)
            self.assertNotRegex(part, r'[\\:*?"<>|\x00-\x1f]')
            self.assertEqual(part, part.strip(" "))

    def test_reserved_names_of_other_systems(self) -> None:
        ((plan,),) = plan_all([facts(path="con.jpg")], [recipe()])
        self.assertEqual(plan.name, "_con.jpg")


class Unique(unittest.TestCase):
    @given(st.lists(st.sampled_from(("dial", "Dial", "DIAL-2", "dial-2", "bird")), max_size=12))
    def test_no_two_renditions_of_a_run_share_a_name(self, found: list[str]) -> None:
        photos = [facts(path=f"{i}/{stem}.jpg") for i, stem in enumerate(found)]
        plans = [plan for row in plan_all(photos, [recipe("One"), recipe("Two")]) for plan in row]
        names = [plan.path.casefold() for plan in plans]
        self.assertEqual(len(names), len(set(names)))
        self.assertEqual(plans, [plan for row in plan_all(photos, [recipe("One"), recipe("Two")]) for plan in row])

    def test_a_shared_name_is_numbered_and_told(self) -> None:
        (one,), (two,) = plan_all([facts(path="a/dial.jpg"), facts(path="b/dial.png")], [recipe()])
        self.assertEqual((one.name, two.name), ("dial.jpg", "dial-2.jpg"))
        self.assertEqual([warning.code for warning in two.warnings], ["same-name"])

    def test_unreadable_photo_keeps_its_number(self) -> None:
        rows = list(plan_all([facts(), None, facts(path="b.jpg")], [recipe(name={"pattern": "{n:03}"})]))
        self.assertEqual([[plan.name for plan in row] for row in rows], [["001.jpg"], [], ["003.jpg"]])


class Patterns(unittest.TestCase):
    def test_every_field(self) -> None:
        pattern = "{date:%Y-%m-%d}_{stem}_{recipe}_{n:03}_{width}x{height}_{ratio}_{tray}_{folder}"
        taken = dt.datetime(2031, 10, 14, 9, 12)
        ((plan,),) = plan_all([facts(taken=taken)], [recipe(name={"pattern": pattern})], tray="Autumn")
        self.assertEqual(plan.name, "2031-10-14_hall_Journal column_001_1600x1067_1600x1067_Autumn_trays.jpg")

    def test_refused_patterns_say_why(self) -> None:
        for pattern, said in (
            ("{stem}-{nope}", "unknown field {nope}"),
            ("{stem", "do not pair up"),
            ("{stem.__class__}", "unknown field"),
            ("{stem!r}", "conversion"),
            ("{n:99999999}", "format"),
            ("a/{stem}", "slash"),
            ("{stem}?", "character"),
            ("{date:%Y/%m}", "date format"),
        ):
            with self.subTest(pattern), self.assertRaises(RecipeProblems) as caught:
                recipe(name={"pattern": pattern})
            self.assertIn("name.pattern", str(caught.exception))
            self.assertIn(said, str(caught.exception))

    def test_subfolders_stay_below_the_root(self) -> None:
        for subfolder in ("/etc", "../x", "a/../../b", "./x"):
            with self.subTest(subfolder), self.assertRaises(RecipeProblems):
                recipe(place={"subfolder": subfolder})
        ((plan,),) = plan_all([facts(path="...jpg")], [recipe("..", place={"subfolder": "a//{recipe}/b"})])
        self.assertEqual(plan.folder, "a/untitled/b")
