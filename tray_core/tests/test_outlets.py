"""Outlets: what they refuse, change and spoil; what their intakes make of a file; which variant survives best."""

from __future__ import annotations

import contextlib
import io
import json
import unittest
from pathlib import Path
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from tray_core.coders import encode
from tray_core.command.main import main
from tray_core.errors import DamagedPhoto, RecipeError
from tray_core.intake import copies_of, file_facts, treat
from tray_core.line.working import decoded_for, work
from tray_core.outlets import FileFacts, Intake, Outlet, breaches, check_outlet, outlet_schema, propose_recipe
from tray_core.outlets.geometry import cut_size, fitted
from tray_core.outlets.sheet import read_outlet_file
from tray_core.photo import read_facts
from tray_core.photo.profile_files import NAMED
from tray_core.pixels.picture import Picture
from tray_core.plan import plan_renditions
from tray_core.recipe import Recipe, check_recipe
from tray_core.recipe.file import JpegFile, PngFile
from tray_core.recipe.outlet import Rules, ratio_of
from tray_core.rehearsal import Ideal, Variant, ideal_recipe, usual_variants, variant_recipe
from tray_core.tests.samples import DEMO, PHOTOS, FolderCase, facts, jpeg, recipe, scene

SHEETS = sorted((DEMO / "outlets").glob("*.json"))
FEED = {
    "formats": ["jpeg", "png"],
    "least": [320, 320],
    "best": [1080, 1350],
    "most": [4000, 4000],
    "narrowest": "4:5",
    "widest": "1.91:1",
    "kilobytes": 500,
}


def sheet(rules: dict[str, Any] | None = None, intake: dict[str, Any] | None = None, **more: Any) -> Outlet:
    use = {"use": "Post", "rules": FEED if rules is None else rules, "intake": intake or {}} | more
    return check_outlet({"format": "upper-tray/outlet", "version": 1, "name": "Feedling", "uses": [use]})


def found(rules: dict[str, Any], intake: Intake | None = None, **file: Any) -> dict[str, str]:
    """Labels of what is wrong, with their kinds."""
    plain: dict[str, Any] = {"format": "jpeg", "width": 1080, "height": 1080, "bytes": 100_000}
    told = breaches("Feedling", Rules.model_validate(rules), FileFacts(**(plain | file)), intake)
    return {each.label: each.kind for each in told}


class Sheets(unittest.TestCase):
    def test_the_demo_sheets_say_the_same_after_a_round(self) -> None:
        self.assertGreaterEqual(len(SHEETS), 5)
        for path in SHEETS:
            outlet = read_outlet_file(path)
            self.assertEqual(check_outlet(outlet.to_json()), outlet)
            self.assertEqual(json.loads(json.dumps(outlet.to_json())), outlet.to_json())
        self.assertEqual(outlet_schema()["title"], "Upper Tray outlet")

    def test_each_mistake_names_its_field(self) -> None:
        good = sheet().to_json()
        for change, field in (
            ({"rules": {**FEED, "least": [2000, 2000]}}, "uses.0.rules.least"),
            ({"rules": {**FEED, "narrowest": "2:1", "widest": "1:1"}}, "uses.0.rules.widest"),
            ({"rules": {**FEED, "best": [1080]}}, "uses.0.rules.best.1"),
            ({"rules": {**FEED, "best": "1080x"}}, "uses.0.rules.best"),
            ({"intake": {"crop": "square"}}, "uses.0.intake.crop"),
            ({"rules": {}, "intake": {"crop": "1:1"}}, "uses.0.rules.outside"),
            (
                {"rules": {"covered": [{"by": "name", "x": 0.5, "y": 0, "width": 0.6, "height": 0.1}]}},
                "uses.0.rules.covered.0",
            ),
            ({"rules": {**FEED, "haze": 1}}, "uses.0.rules.haze"),
        ):
            with self.subTest(field=field), self.assertRaises(RecipeError) as caught:
                check_outlet({**good, "uses": [{"use": "Post", **change}]}, "")
            self.assertEqual(caught.exception.subject, field)
        for whole, words in (
            ({**good, "checked": "14 October"}, "such as 2031-10-14"),
            ({**good, "uses": [*good["uses"], {"use": "post"}]}, "each use once"),
            ({**good, "version": 2}, "newer version"),
            ({**good, "format": "upper-tray/recipe"}, "the sheet"),
            ([], "a list"),
        ):
            with self.subTest(words=words), self.assertRaises(RecipeError) as caught:
                check_outlet(whole)
            self.assertIn(words.split()[-1], str(caught.exception))

    def test_what_is_refused_changed_and_spoiled(self) -> None:
        self.assertEqual(found(FEED), {})
        self.assertEqual(found(FEED, width=300, height=300), {"too small": "refuses", "looks soft": "spoils"})
        self.assertEqual(found(FEED, width=5000, height=5000), {"too large": "refuses"})
        self.assertEqual(found(FEED, format="tiff"), {"no TIFF": "refuses"})
        self.assertEqual(found(FEED, bytes=500_001), {"too heavy": "refuses"})
        self.assertEqual(found(FEED, bytes=500_000), {})
        self.assertEqual(found(FEED, width=3000, height=1080), {"wrong shape": "refuses"})
        self.assertEqual(found({**FEED, "outside": "cropped"}, height=2160), {"cut by Feedling": "changes"})
        self.assertEqual(found(FEED, srgb=False, profile="Display P3"), {"dull colors": "spoils"})
        self.assertEqual(found({**FEED, "color": "any"}, srgb=False, profile="Display P3"), {})
        # A pixel of rounding breaks no rule.
        self.assertEqual(found(FEED, width=1080, height=565), {})
        self.assertEqual(found(FEED, width=863, height=1079), {"looks soft": "spoils"})
        told = found(FEED, Intake(largest=(1080, 1080)), height=1350, words=True, clear=True, place=True)
        self.assertEqual(set(told), {"made smaller", "saved anew", "no clear parts", "words removed"})

    def test_a_recipe_for_an_outlet_warns_on_the_plan(self) -> None:
        outlet = sheet()
        aimed = check_recipe(
            {**recipe(frame=None).to_json(), "outlet": {"outlet": "Feedling", "use": "Post", "rules": FEED}}
        )
        (wide,) = plan_renditions(facts(6000, 1000), aimed, 1, None)
        told = {each.label: each.text for each in wide.warnings if each.code == "outlet"}
        self.assertEqual(set(told), {"too small", "wrong shape"})
        self.assertIn("from 4:5 to 1.91:1", told["wrong shape"])
        (small,) = plan_renditions(facts(300, 300), aimed, 1, None)
        self.assertIn("too small", [each.label for each in small.warnings])
        proposed = propose_recipe(outlet, outlet.uses[0])
        self.assertEqual(check_recipe(proposed.to_json()), proposed)

    @given(st.integers(2400, 4400), st.integers(2400, 4400), st.sampled_from(SHEETS), st.integers(0, 1))
    def test_what_is_proposed_keeps_the_rules_of_large_photos(
        self, width: int, height: int, path: Path, at: int
    ) -> None:
        outlet = read_outlet_file(path)
        use = outlet.uses[at % len(outlet.uses)]
        (plan,) = plan_renditions(facts(width, height), propose_recipe(outlet, use), 1, None)
        self.assertEqual(
            [each.text for each in plan.warnings if each.code == "outlet" and each.label != "looks soft"], []
        )

    @given(st.integers(1, 20_000), st.integers(1, 20_000), st.sampled_from(["1:1", "4:5", "1.91:1", "9:16"]))
    def test_what_is_cut_has_its_shape_and_fits(self, width: int, height: int, shape: str) -> None:
        wide, high = cut_size((width, height), shape)
        self.assertTrue(1 <= wide <= width and 1 <= high <= height)
        self.assertTrue(wide == width or high == height)
        self.assertLessEqual(abs(wide - high * ratio_of(shape)), max(1.0, ratio_of(shape)))
        small = fitted((wide, high), (640, 480))
        self.assertTrue(small[0] <= max(640, 1) and small[1] <= max(480, 1))
        self.assertTrue(small == (wide, high) or 640 in small or 480 in small)


class Checked(FolderCase):
    def test_the_command_line_holds_files_against_a_sheet(self) -> None:
        good, small = self.write("good.jpg", jpeg(scene(1080, 1080))), self.write("small.jpg", jpeg(scene(200, 200)))
        broken, sheet_ = (
            self.write("broken.jpg", b"no picture"),
            self.write("o.json", json.dumps(sheet().to_json()).encode()),
        )

        def check(*given: str) -> tuple[int, list[Any], str]:
            said, told = io.StringIO(), io.StringIO()
            with contextlib.redirect_stdout(said), contextlib.redirect_stderr(told):
                code = main(["check", "--outlet", str(sheet_), *given])
            return code, [json.loads(line) for line in said.getvalue().splitlines()], told.getvalue()

        code, lines, _ = check(str(good))
        self.assertEqual((code, [each["kind"] for each in lines[0]["breaches"]]), (0, ["changes"]))
        code, lines, told = check(str(small), str(broken), str(good))
        self.assertEqual((code, len(lines), lines[0]["breaches"][0]["label"]), (1, 2, "too small"))
        self.assertIn("broken.jpg", told)
        self.assertIn("expected one of Post", check("--use", "Story", str(good))[2])
        sheet_.write_text("{}")
        self.assertEqual(check(str(good))[0], 2)
        said = io.StringIO()
        with contextlib.redirect_stdout(said):
            main(["schema", "outlet"])
        self.assertEqual(json.loads(said.getvalue())["title"], "Upper Tray outlet")


class Intakes(unittest.TestCase):
    def setUp(self) -> None:
        self.pixels = scene(900, 600)
        self.file = jpeg(self.pixels)

    def test_cut_made_smaller_saved_anew_always_the_same(self) -> None:
        for resampling in ("lanczos", "bicubic", "bilinear"):
            intake = Intake(largest=(300, 300), crop="1:1", resampling=resampling, quality=70)
            served = treat(self.file, intake)
            self.assertEqual(served, treat(self.file, intake))
            with Image.open(io.BytesIO(served.data)) as image:
                self.assertEqual((image.format, image.size, served.width), ("JPEG", (300, 300), 300))
                self.assertNotIn("exif", image.info)
        # The middle: what is left is the middle square of the photo.
        small = np.asarray(Image.fromarray(self.pixels[:, 150:750]).resize((300, 300), Image.Resampling.LANCZOS), float)
        lossless = treat(png(self.pixels), Intake(largest=(300, 300), crop="1:1", resampling="lanczos", format="same"))
        with Image.open(io.BytesIO(lossless.data)) as image:
            self.assertEqual(image.format, "PNG")
            self.assertLess(float(np.abs(np.asarray(image.convert("RGB"), float) - small).mean()), 0.01)

    def test_coarse_resampling_aliases_where_good_does_not(self) -> None:
        y, x = np.mgrid[0:800, 0:800].astype(np.float64)
        rings = (127.5 + 120 * np.cos((x**2 + y**2) / 250)).astype(np.uint8)
        file = png(np.repeat(rings[..., None], 3, axis=2))
        spread = {}
        for resampling in ("lanczos", "bilinear"):
            served = treat(file, Intake(largest=(160, 160), resampling=resampling, format="same"))
            with Image.open(io.BytesIO(served.data)) as image:
                spread[resampling] = float(np.asarray(image.convert("L"), float)[100:, 100:].std())
        self.assertGreater(spread["bilinear"], 3 * spread["lanczos"])

    def test_what_becomes_of_colors_and_clear_parts(self) -> None:
        wide = np.full((40, 40, 3), (30, 200, 60), np.uint8)
        file = encode(Picture(wide, "RGB", False, NAMED["display-p3"]), JpegFile(format="jpeg", quality=98))
        middle = {}
        for profile in ("drop", "srgb", "keep"):
            served = treat(file, Intake(profile=profile, quality=98, chroma="444"))
            with Image.open(io.BytesIO(served.data)) as image:
                self.assertEqual("icc_profile" in image.info, profile == "keep")
                middle[profile] = np.asarray(image.convert("RGB"), int)[20, 20]
        self.assertLess(int(np.abs(middle["drop"] - (30, 200, 60)).max()), 4)
        self.assertGreater(int(np.abs(middle["srgb"] - middle["drop"]).max()), 20)
        clear = np.zeros((20, 20, 4), np.uint8)
        served = treat(encode(Picture(clear, "RGB", True, None), PngFile(format="png")), Intake())
        with Image.open(io.BytesIO(served.data)) as image:
            self.assertGreater(int(np.asarray(image).min()), 250)

    def test_small_files_go_through_as_they_are_where_the_sheet_says_so(self) -> None:
        intake = Intake(largest=(1000, 1000), untouched=True, format="same")
        self.assertEqual(treat(self.file, intake).data, self.file)
        self.assertNotEqual(treat(self.file, intake.model_copy(update={"largest": (800, 800)})).data, self.file)

    def test_copies_for_several_screens(self) -> None:
        made = copies_of(self.file, Intake(copies=(1600, 320, 640), format="webp"))
        self.assertEqual([(each.width, each.height) for each in made], [(320, 213), (640, 427), (900, 600)])

    def test_no_picture_is_told(self) -> None:
        with self.assertRaises(DamagedPhoto):
            treat(self.file[:3000], Intake())
        self.assertEqual(file_facts("a.jpg", self.file)[0].bytes, len(self.file))
        demo = (PHOTOS / "autumn-rehang" / "2031-10-14_01_repair-bench.jpg").read_bytes()
        told, _ = file_facts("bench.jpg", demo)
        self.assertTrue(told.words and told.srgb and not told.clear)


def png(pixels: Any) -> bytes:
    return encode(Picture(pixels, "RGB", False, None), PngFile(format="png"))


class Rehearsals(unittest.TestCase):
    def setUp(self) -> None:
        intake = {"largest": [400, 400], "quality": 70}
        self.use = sheet({"formats": ["jpeg", "png"], "best": [400, 400]}, intake).uses[0]
        self.recipe = recipe(size={"by": "box", "width": 400, "height": 400})
        self.data = jpeg(scene(1800, 1200, seed=4), 95)
        self.facts = read_facts("a.jpg", data=self.data)

    def made(self, core: Recipe) -> Picture:
        (plan,) = plan_renditions(self.facts, core, 1, None)
        return work(decoded_for(self.facts, self.data, core, plan.layout), core, plan.layout)

    def score(self, ideal: Ideal, variant: Variant) -> float:
        core = variant_recipe(self.recipe, variant)
        return ideal.score(treat(encode(self.made(core), core.coded), self.use.intake).data)

    def test_what_is_sent_better_is_seen_better(self) -> None:
        ideal = Ideal(self.made(ideal_recipe(self.recipe, self.use, (400, 267))), self.use)
        self.assertEqual(ideal.size, (400, 267))
        self.assertGreater(ideal.score(png(ideal.picture.pixels)), 99)
        low, high = (self.score(ideal, Variant(quality=quality)) for quality in (40, 95))
        self.assertGreater(high, low + 5)
        self.assertGreater(high, self.score(ideal, Variant(quality=95, strength=200)))

    def test_a_variant_changes_what_it_says_and_nothing_else(self) -> None:
        core = recipe(
            frame={"way": "crop", "shape": "1:1"}, size={"by": "width", "pixels": 400, "portrait": {"pixels": 300}}
        )
        made = variant_recipe(core, Variant(scale=2, format="png", strength=0, profile="display-p3")).to_json()
        own = core.to_json()
        self.assertEqual((made["size"]["pixels"], made["size"]["portrait"]["pixels"]), (800, 600))
        self.assertEqual((made["file"], made["sharpen"]["strength"]), ({"format": "png"}, 0))
        self.assertEqual(made["color"]["profile"], "display-p3")
        self.assertEqual(
            [made[each] for each in ("frame", "name", "place")], [own[each] for each in ("frame", "name", "place")]
        )
        limited = variant_recipe(recipe(file={"format": "jpeg", "under_kb": 90}), Variant(quality=77)).to_json()
        self.assertEqual(limited["file"], {"format": "jpeg", "quality": 77})

    def test_variants_are_those_that_the_use_takes(self) -> None:
        for path in SHEETS:
            outlet = read_outlet_file(path)
            for use in outlet.uses:
                proposed = propose_recipe(outlet, use)
                variants = usual_variants(use, (1080, 1080), (4000, 4000))
                self.assertTrue(4 <= len(variants) <= 12, use.use)
                self.assertEqual(len(variants), len(set(variants)))
                self.assertLessEqual({each.format for each in variants}, set(use.rules.formats))
                for variant in variants:
                    variant_recipe(proposed, variant)
        # A photo that has no more pixels is not sent larger.
        self.assertEqual({each.scale for each in usual_variants(self.use, (400, 267), (420, 280))}, {1.0})
