"""Names: unique over a run, safe on every file system, never outside their folder."""

from __future__ import annotations

import datetime as dt
import unicodedata
import unittest
from pathlib import PurePosixPath

from hypothesis import given, settings
from hypothesis import strategies as st

from tray_core.photo.words import Words, clean_text
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


class Written(unittest.TestCase):
    """The name station's own ways: letters, case, separators, replacing, length, counting."""

    def name(self, path: str = "in/a.jpg", **station: object) -> str:
        words = station.pop("words", Words())
        assert isinstance(words, Words)
        ((plan,),) = plan_all([facts(path=path, words=words)], [recipe(name={"pattern": "{stem}", **station})])
        return plan.name

    def test_words_and_what_stands_in_for_them(self) -> None:
        words = Words(title="The green gallery", creator="Odile Marrow")
        self.assertEqual(self.name(pattern="{title}-{creator}", words=words), "The green gallery-Odile Marrow.jpg")
        self.assertEqual(self.name(pattern="{title or stem}-{n:03}"), "a-001.jpg")
        self.assertEqual(self.name(pattern="{creator}-{title}-{n}"), "a-1.jpg")
        self.assertEqual(self.name(pattern="{n}_{creator}"), "1.jpg")
        self.assertEqual(self.name("in/IMG.0042.CR", pattern="{original}"), "IMG.0042.CR.jpg")
        ((plan,),) = plan_all([facts(path="in/a.jpg")], [recipe(name={"pattern": "{title}"})])
        self.assertEqual([(each.code, each.label) for each in plan.warnings], [("no-word", "no title")])
        ((plan,),) = plan_all([facts(path="in/a.jpg")], [recipe(name={"pattern": "{title or stem}"})])
        self.assertEqual(plan.warnings, ())

    def test_letters_case_and_separators(self) -> None:
        words = Words(title="Łódź clockmaker’s “Größe”, 時計")
        self.assertEqual(
            self.name(pattern="{title}", letters="ascii", case="lower", spaces="-", words=words),
            "lodz-clockmakers-grosse-shiji.jpg",
        )
        self.assertEqual(
            self.name(pattern="{title} {n:02}", case="upper", spaces="_", words=words),
            "ŁÓDŹ_CLOCKMAKERS_GRÖSSE_時計_01.jpg",
        )

    def test_found_and_replaced_in_turn(self) -> None:
        replace = [{"find": "IMG_", "put": ""}, {"find": r"^0*(\d+)$", "put": r"no \1", "regex": True}]
        self.assertEqual(self.name("in/IMG_0042.jpg", replace=replace), "no 42.jpg")
        self.assertEqual(self.name("in/ab.jpg", replace=[{"find": "b", "put": "/../"}]), "a-..-.jpg")
        with self.assertRaisesRegex(RecipeProblems, "expected an expression that can be read"):
            recipe(name={"pattern": "{stem}", "replace": [{"find": "(", "regex": True}]})

    def test_an_expression_that_runs_away_is_left_out_and_told(self) -> None:
        slow = recipe(name={"pattern": "{stem}", "replace": [{"find": "(a|aa)+[^a-z]", "put": "", "regex": True}]})
        ((plan,),) = plan_all([facts(path=f"in/{'a' * 60}.jpg")], [slow])
        self.assertEqual((plan.name, [each.code for each in plan.warnings]), (f"{'a' * 60}.jpg", ["slow-name"]))

    def test_what_is_too_long_loses_whole_words_and_keeps_its_number(self) -> None:
        words = Words(title="The long-case clock in the morning light of the great hall")
        self.assertEqual(
            self.name(pattern="{title}-{n:03}", longest=40, words=words), "The long-case clock in the-001.jpg"
        )
        self.assertEqual(self.name(pattern="{title}", longest=12, words=Words(title="x" * 40)), f"{'x' * 8}.jpg")
        photos = [facts(path=f"in/{i}.jpg", words=words) for i in range(12)]
        rows = list(plan_all(photos, [recipe(name={"pattern": "{title}", "longest": 30})]))
        names = [plan.name for row in rows for plan in row]
        self.assertEqual(
            (names[0], names[1], names[11]),
            ("The long-case clock in the.jpg", "The long-case clock in-2.jpg", "The long-case clock in-12.jpg"),
        )
        self.assertLessEqual(max(len(name.encode()) for name in names), 30)

    def test_counted_by_run_folder_shape_and_recipe(self) -> None:
        photos = [
            facts(path="a/1.jpg"),
            facts(path="a/2.jpg", width=20, height=30),
            None,
            facts(path="b/3.jpg"),
            facts(path="a/4.jpg", width=20, height=30),
        ]
        for count, wanted in (
            ("run", ["10", "15", "25", "30"]),
            ("folder", ["10", "15", "10-2", "20"]),
            ("shape", ["10", "10-2", "15", "15-2"]),
            ("recipe", ["10", "15", "20", "25"]),
        ):
            counted = recipe(name={"pattern": "{n}", "start": 10, "step": 5, "count": count})
            with self.subTest(count):
                names = [plan.name.removesuffix(".jpg") for row in plan_all(photos, [counted]) for plan in row]
                self.assertEqual(names, wanted)

    @settings(max_examples=200)
    @given(
        st.lists(
            st.builds(Words, title=st.text(max_size=120).map(clean_text), creator=st.text(max_size=40).map(clean_text)),
            max_size=50,
        ),
        st.sampled_from(
            ("{title}", "{title}-{n:03}", "{creator} {title}", "{n}{title or stem}", "{title}_{width}x{height}")
        ),
        st.sampled_from(("unicode", "ascii")),
        st.sampled_from(("as-is", "lower", "upper")),
        st.sampled_from(("as-is", "-", "_")),
        st.sampled_from((None, 12, 20, 60, 190)),
    )
    def test_ten_thousand_names_are_unique_legal_and_stable(
        self, words: list[Words], pattern: str, letters: str, case: str, spaces: str, longest: int | None
    ) -> None:
        photos = [facts(path=f"in/{i}.jpg", words=each) for i, each in enumerate(words)]
        made = recipe(
            name={"pattern": pattern, "letters": letters, "case": case, "spaces": spaces}
            | ({"longest": longest} if longest else {})
        )
        names = [plan.name for row in plan_all(photos, [made]) for plan in row]
        self.assertEqual(len({name.casefold() for name in names}), len(names))
        self.assertEqual(names, [plan.name for row in plan_all(photos, [made]) for plan in row])
        for name in names:
            self.assertLessEqual(len(name.encode()), longest or 190)
            self.assertNotRegex(name, r'[/\\:*?"<>|\x00-\x1f\x7f]')
            self.assertFalse(name.startswith((".", " ")) or name.removesuffix(".jpg").endswith((".", " ")), name)
            self.assertEqual(name, unicodedata.normalize("NFC", name))
            self.assertTrue(letters == "unicode" or name.isascii(), name)
            self.assertNotIn(name.split(".")[0].lower(), ("con", "prn", "aux", "nul", "com1", "lpt9"))
