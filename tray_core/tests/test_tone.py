"""A photo's tone: exact where light is only multiplied, rising everywhere, and nothing at all where it is neutral."""

from __future__ import annotations

import contextlib
import io
import json
import unittest
from typing import Any, ClassVar

import cv2
import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray
from PIL import Image

from tray_core.command.main import main
from tray_core.errors import RecipeError
from tray_core.fingerprint import fingerprint
from tray_core.line.framing import Source
from tray_core.line.toning import apply_tone
from tray_core.line.working import work
from tray_core.photo.profile_files import NAMED
from tray_core.photo.profiles import SRGB, tone_curves
from tray_core.pixels.color import TO_SRGB, Target, convert, to_16
from tray_core.pixels.picture import Picture
from tray_core.plan import Framing, layout_from_json, plan_renditions
from tray_core.tests.samples import FolderCase, facts, jpeg, recipe, scene
from tray_core.tone import NEUTRAL, Tone, check_looks, check_tone, looks_to_json
from tray_core.tone.curves import balanced_by, lightness

percent = st.integers(-100, 100)
tones = st.builds(
    Tone, contrast=percent, light=percent, dark=percent, white=percent, black=percent, exposure=st.floats(-5, 5)
)


def picture(pixels: NDArray[np.uint8], icc: bytes | None = None) -> Picture:
    return Picture(pixels, "RGB", False, icc)


def linear(made: Picture) -> NDArray[np.float64]:
    curves = tone_curves(made.icc or SRGB, 65536)
    values = to_16(made).pixels
    return np.stack([curves[c][values[..., c]] for c in range(3)], axis=-1).astype(np.float64)


def lab(rgb: NDArray[np.float64]) -> NDArray[np.float64]:
    """sRGB on 0..1 as CIE L*a*b*, D65."""
    found: NDArray[np.float64] = cv2.cvtColor(rgb.reshape(1, -1, 3).astype(np.float32), cv2.COLOR_RGB2Lab)[0]
    return found


class Light(unittest.TestCase):
    def test_exposure_is_exact_in_linear_light(self) -> None:
        pixels = scene(200, 150)
        for icc in (None, NAMED["display-p3"], NAMED["adobe-rgb"]):
            before = linear(picture(pixels, icc))
            for ev in (-3.0, -0.5, 0.7, 1.0):
                after = linear(apply_tone(picture(pixels, icc), Tone(exposure=ev), 200))
                wanted = before * 2**ev
                inside = wanted.max(axis=2) < 0.98
                self.assertGreater(inside.mean(), 0.1)
                # Within half of an 8-bit level where that is smallest, and a hundredth of the value.
                allowed = 0.5 / 255 / 12.92 + 0.01 * wanted
                self.assertTrue((np.abs(after - wanted) <= allowed)[inside].all())

    @given(tones)
    def test_lighter_stays_lighter(self, tone: Tone) -> None:
        made = lightness(tone, np.linspace(0, 2, 4001))
        self.assertGreaterEqual(float(np.diff(made).min()), -1e-12)
        self.assertTrue(made.min() >= 0 and made.max() <= 1)
        steps = np.repeat(np.arange(256, dtype=np.uint8)[None, :, None], 3, axis=2)
        found = apply_tone(picture(steps), tone, 256).pixels[0, :, 1].astype(int)
        self.assertGreaterEqual(int(np.diff(found).min()), -40)  # less than a sixth of an 8-bit level

    def test_a_curve_goes_through_its_points_and_rises_between(self) -> None:
        points = ((0.1, 0.02), (0.4, 0.5), (0.45, 0.5), (0.9, 0.97))
        y = np.linspace(0, 1, 2001)
        made = lightness(Tone(curve=points), y)
        for x, wanted in ((0, 0), *points, (1, 1)):
            self.assertAlmostEqual(float(np.interp(x, y, made)), wanted, places=3)
        self.assertGreaterEqual(float(np.diff(made).min()), -1e-12)
        for wrong in (((0.5, 0.5), (0.4, 0.6)), ((0.2, 0.8), (0.6, 0.4))):
            with self.assertRaises(RecipeError):
                check_tone({"curve": wrong})

    def test_neutral_is_nothing_bit_for_bit(self) -> None:
        photo = picture(scene(120, 90))
        self.assertIs(apply_tone(photo, NEUTRAL, 120), photo)
        made = recipe(size={"by": "long-edge", "pixels": 60})
        (plan,) = plan_renditions(facts(120, 90), made, 1, None)
        one = work(Source(photo, (120, 90)), made, plan.layout)
        other = work(Source(photo, (120, 90)), made, plan.layout, None, Tone())
        np.testing.assert_array_equal(one.pixels, other.pixels)
        (toned,) = plan_renditions(facts(120, 90, tone=Tone(dark=1)), made, 1, None)
        self.assertNotEqual(fingerprint("photo", plan), fingerprint("photo", toned))

    def test_grey_pictures_and_transparent_ones(self) -> None:
        ramp = np.tile(np.arange(256, dtype=np.uint8), (4, 1))
        grey = apply_tone(Picture(ramp, "grey", False, None), Tone(exposure=1.0, contrast=20, temperature=80), 256)
        color = apply_tone(picture(np.repeat(ramp[..., None], 3, axis=2)), Tone(exposure=1.0, contrast=20), 256)
        np.testing.assert_allclose(grey.pixels.astype(int), color.pixels[..., 1].astype(int), atol=80)
        clear = np.dstack([scene(40, 30), np.full((30, 40), 77, np.uint8)])
        made = apply_tone(Picture(clear, "RGB", True, None), Tone(exposure=1.0), 40)
        self.assertTrue((made.pixels[..., 3] == 77 * 257).all())

    def test_prep_looks_at_what_a_tone_makes(self) -> None:
        dull = (scene(160, 120).astype(int) // 2 + 40).astype(np.uint8)
        made = recipe(size={"by": "long-edge", "pixels": 80}, prep={"levels": True}, sharpen=None)
        (plan,) = plan_renditions(facts(160, 120), made, 1, None)
        source = Source(picture(dull), (160, 120))
        # Levels stretch what the tone has made: dark or light, it reaches the white end.
        for exposure in (-1.0, 0.5):
            found = work(source, made, plan.layout, None, Tone(exposure=exposure)).pixels
            light = found.reshape(-1, 3) @ np.array([0.2126, 0.7152, 0.0722])
            self.assertGreater(float(np.percentile(light, 99.5)), 205)


class WholePhoto(unittest.TestCase):
    """What hangs on where in its photo a pixel lies."""

    def made(self, photo: Picture, tone: Tone, **stations: Any) -> NDArray[np.uint8]:
        whole = photo.size
        content = recipe(**({"size": None, "sharpen": None, "file": {"format": "png"}} | stations))
        (plan,) = plan_renditions(facts(*whole, tone=tone), content, 1, None)
        return work(Source(photo, whole), content, plan.layout, None, plan.tone).pixels

    def test_mirrored_is_mirrored_and_nothing_else(self) -> None:
        photo = picture(scene(301, 200))
        np.testing.assert_array_equal(self.made(photo, Tone(mirror=True)), scene(301, 200)[:, ::-1])
        for stations in (
            {"frame": {"way": "crop", "shape": "1:1", "anchor": "left"}},
            {"size": {"by": "long-edge", "pixels": 90}},
            {"frame": {"way": "pad", "shape": "4:5", "fill": "#204060"}},
        ):
            one, other = (self.made(photo, tone, **stations) for tone in (Tone(), Tone(mirror=True)))
            np.testing.assert_array_equal(one[:, ::-1], other)

    def test_points_of_the_photo_are_found_where_they_are_mirrored(self) -> None:
        for angle in (0.0, 12.0):
            framing = Framing(name="part", x=0.2, y=0.1, width=0.5, height=0.6, angle=angle, turn=90)
            content = recipe(size={"by": "long-edge", "pixels": 300}, frame={"way": "crop", "shape": "4:5"})
            both = [
                plan_renditions(facts(1200, 900, tone=Tone(mirror=mirror)), content, 1, None, framings=[framing])[0]
                for mirror in (False, True)
            ]
            for plan in both:
                self.assertEqual(layout_from_json(plan.layout.to_json()), plan.layout)
                inside = np.array([[500.0, 400.0], [620.0, 300.0]])
                back = [plan.layout.photo_point(*each) for each in plan.layout.rendition_points(inside)]
                np.testing.assert_allclose(back, inside, atol=1e-6)
            self.assertNotEqual(fingerprint("photo", both[0]), fingerprint("photo", both[1]))

    def test_corners_gain_as_much_as_is_said_and_the_middle_nothing(self) -> None:
        flat = picture(np.full((400, 600, 3), 90, np.uint8))
        found = linear(apply_tone(flat, Tone(vignette=100), 600))[..., 1]
        self.assertAlmostEqual(float(found[200, 300] / linear(flat)[200, 300, 1]), 1, delta=0.01)
        self.assertAlmostEqual(float(np.log2(found[0, 0] / found[200, 300])), 1.5, delta=0.02)
        self.assertLess(float(np.diff(found[200]).max()), 0.01)
        darker = linear(apply_tone(flat, Tone(vignette=-60), 600))[..., 1]
        self.assertAlmostEqual(float(np.log2(darker[0, 0] / darker[200, 300])), -0.9, delta=0.03)
        grey = apply_tone(Picture(flat.pixels[..., 0], "grey", False, None), Tone(vignette=100), 600).pixels
        color = apply_tone(flat, Tone(vignette=100), 600).pixels[..., 1]
        self.assertLess(int(np.abs(grey.astype(int) - color.astype(int)).max()), 90)

    def test_a_part_has_the_corners_that_it_has_in_the_whole(self) -> None:
        photo, tone = picture(np.full((400, 600, 3), 90, np.uint8)), Tone(vignette=80)
        whole = apply_tone(photo, tone, 600).pixels
        framing = Framing(name="corner", x=0.5, y=0.5, width=0.5, height=0.5)
        content = recipe(size=None, sharpen=None, file={"format": "png"}, color={"profile": "own", "bits": 16},
                         frame={"way": "crop", "shape": "3:2"})  # fmt: skip
        (plan,) = plan_renditions(facts(600, 400, tone=tone), content, 1, None, framings=[framing])
        part = work(Source(photo, (600, 400)), content, plan.layout, None, tone).pixels
        self.assertEqual(part.shape, (200, 300, 3))
        np.testing.assert_allclose(part.astype(int), whole[200:, 300:].astype(int), atol=60)


class Looks(unittest.TestCase):
    GREY: ClassVar[dict[str, Any]] = {"title": "Grey", "recipes": [7, "Journal"], "tone": {"saturation": -100}}

    def test_a_recipe_follows_the_look_that_names_it(self) -> None:
        looks = check_looks([{"title": "Warm", "recipes": [3], "tone": {"temperature": 20}}, self.GREY])
        photo = facts(600, 400, tone=Tone(exposure=1.0), looks=looks)
        for title, number, expected in (
            ("Column", None, {"exposure": 1.0}),
            ("Column", 3, {"temperature": 20}),
            ("Column", 7, {"saturation": -100}),
            ("Journal", None, {"saturation": -100}),
        ):
            (plan,) = plan_renditions(photo, recipe(title), 1, None, number=number)
            self.assertEqual(plan.tone.to_json(), expected)
        self.assertEqual(check_looks(looks_to_json(looks)), looks)

    def test_what_is_wrong_is_named(self) -> None:
        for wrong, told in (
            ({}, "looks: expected a list"),
            ([3], r"looks\.0"),
            ([{"title": " ", "tone": {}}], r"looks\.0\.title"),
            ([{"title": "A", "tone": {"haze": 1}}], r"looks\.0\.tone\.haze"),
            ([{"title": "A", "recipes": "all"}], r"looks\.0\.recipes"),
            ([{"title": "A"}, {"title": "a"}], r"looks\.1\.title.*of its own"),
            ([self.GREY, self.GREY | {"title": "B"}], "one look a recipe"),
            ([{"title": "A", "weight": 3}], r"looks\.0: expected title, recipes and tone"),
        ):
            with self.subTest(told), self.assertRaisesRegex(RecipeError, told):
                check_looks(wrong)


class Color(unittest.TestCase):
    def test_a_grey_card_becomes_grey(self) -> None:
        for card in ((150, 110, 80), (90, 100, 140), (120, 150, 110), (200, 190, 150)):
            pixels = np.full((20, 20, 3), card, np.uint8)
            temperature, tint = balanced_by(linear(picture(pixels)).reshape(-1, 3).mean(axis=0))
            made = apply_tone(picture(pixels), Tone(temperature=temperature, tint=tint), 20)
            found = lab(made.pixels[0, :1].astype(np.float64) / 65535)[0]
            # The distance from the grey of the same lightness; between near greys ΔE2000 is at most 1.1 times it.
            self.assertLess(float(np.hypot(found[1], found[2])), 0.9)

    def test_saturation_and_muted_colors(self) -> None:
        muted, vivid, skin = (130, 140, 150), (20, 60, 230), (205, 160, 130)
        pixels = np.array([[muted, vivid, skin]], np.uint8)

        def chroma(tone: Tone) -> NDArray[np.float64]:
            found = lab(apply_tone(picture(pixels), tone, 3).pixels[0].astype(np.float64) / 65535)
            return np.hypot(found[:, 1], found[:, 2])

        before = chroma(Tone(exposure=1e-9))
        gone = chroma(Tone(saturation=-100))
        self.assertLess(float(gone.max()), 0.6)
        more = chroma(Tone(muted=60)) / before - 1
        self.assertGreater(more[0], 0.3)
        self.assertLess(more[1], 0.1 * more[0])
        self.assertLess(more[2], 0.4 * more[0])

    def test_hues_stay_when_light_changes(self) -> None:
        pixels = np.array([[(200, 120, 60), (60, 120, 200), (90, 160, 90)]], np.uint8)
        before = linear(picture(pixels))
        after = linear(apply_tone(picture(pixels), Tone(contrast=-40, dark=50, exposure=-0.5), 3))
        for one, other in zip(before[0], after[0], strict=True):
            np.testing.assert_allclose(other / other.max(), one / one.max(), atol=0.012)

    def test_in_another_space_it_is_the_same_light(self) -> None:
        pixels = scene(60, 40)
        tone = Tone(exposure=0.5, contrast=15, dark=20)
        one = convert(apply_tone(convert(to_16(picture(pixels)), TO_SRGB), tone, 60), TO_SRGB).pixels
        wide = convert(to_16(picture(pixels, SRGB)), Target(NAMED["adobe-rgb"]))
        other = convert(apply_tone(wide, tone, 60), TO_SRGB).pixels
        self.assertLess(float(np.abs(one.astype(int) - other.astype(int)).mean()) / 257, 1.0)


class Local(unittest.TestCase):
    def test_texture_gains_and_a_strong_edge_has_no_rim(self) -> None:
        x = np.tile(np.arange(600), (400, 1))
        texture = np.clip(110 + 14 * np.sin(x / 3.0), 0, 255)
        step = np.where(x < 300, 50.0, 200.0)
        for base, checks in ((texture, "texture"), (step, "step")):
            pixels = np.repeat(base[..., None], 3, axis=2).astype(np.uint8)
            found = apply_tone(picture(pixels), Tone(local=60), 600).pixels[200, :, 1].astype(float) / 257
            before = pixels[200, :, 1].astype(float)
            if checks == "texture":
                self.assertGreater(found[100:500].std() / before[100:500].std(), 1.15)
            else:
                # How far it goes beyond what is on either side of the edge, in levels of 255.
                over = max(float((found[:300] - before[:300]).max()), float((before[:300] - found[:300]).max()))
                beyond = max(float((found[300:] - before[300:]).max()), float((before[300:] - found[300:]).max()))
                self.assertLess(max(over, beyond), 6.0)

    def test_it_looks_the_same_at_any_size(self) -> None:
        large = scene(800, 600)
        small = np.asarray(cv2.resize(large, (400, 300), interpolation=cv2.INTER_AREA), np.uint8)
        tone = Tone(local=50)
        one = cv2.resize(apply_tone(picture(large), tone, 800).pixels, (400, 300), interpolation=cv2.INTER_AREA)
        other = apply_tone(picture(small), tone, 400).pixels
        self.assertLess(float(np.abs(one.astype(int) - other.astype(int)).mean()) / 257, 2.5)


class Files(FolderCase):
    def test_tones_on_the_command_line(self) -> None:
        photo = self.write("one.jpg", jpeg(np.full((60, 90, 3), 90, np.uint8)))
        made = self.folder / "recipe.json"
        plain = recipe(file={"format": "png"}, sharpen=None, size=None)
        made.write_text(json.dumps(plain.to_json()))
        tones = self.folder / "tones.json"

        def run(*more: str) -> tuple[int, str]:
            told = io.StringIO()
            with contextlib.redirect_stderr(told), contextlib.redirect_stdout(io.StringIO()):
                code = main(["render", "--recipe", str(made), "--out", str(self.folder / "out"), *more, str(photo)])
            return code, told.getvalue()

        self.assertEqual(run()[0], 0)
        tones.write_text(json.dumps({"one.jpg": {"exposure": 1}, "two.jpg": {"light": 5}}))
        code, told = run("--tones", str(tones))
        self.assertEqual(code, 0)
        self.assertIn("two.jpg: expected one of these photos", told)
        made_ones = sorted((self.folder / "out").iterdir(), reverse=True)
        values = [int(np.asarray(Image.open(path))[30, 45, 0]) for path in made_ones]
        curve = tone_curves(SRGB, 256)[0]
        self.assertEqual(values[0], 90)
        self.assertAlmostEqual(float(curve[values[1]]), 2 * float(curve[90]), delta=0.01)
        look = {"title": "Dark", "recipes": [plain.title], "tone": {"exposure": -1}}
        tones.write_text(json.dumps({"one.jpg": {"tone": {"exposure": 1}, "looks": [look]}}))
        before = set((self.folder / "out").iterdir())
        self.assertEqual(run("--tones", str(tones))[0], 0)
        (new,) = set((self.folder / "out").iterdir()) - before
        dark = int(np.asarray(Image.open(new))[30, 45, 0])
        self.assertAlmostEqual(float(curve[dark]), float(curve[90]) / 2, delta=0.01)
        for wrong, expected in (
            ({"one.jpg": {"haze": 1}}, "one.jpg.haze"),
            ({"one.jpg": {"looks": [], "haze": 1}}, "one.jpg.haze: expected tone and looks"),
            ([], "an object"),
        ):
            tones.write_text(json.dumps(wrong))
            code, told = run("--tones", str(tones))
            self.assertEqual(code, 2)
            self.assertIn(expected, told)

    def test_plain_values_and_back(self) -> None:
        tone = Tone(exposure=0.7, light=-22, curve=((0.25, 0.2), (0.75, 0.8)))
        self.assertEqual(check_tone(tone.to_json()), tone)
        self.assertEqual(tone.to_json(), {"exposure": 0.7, "light": -22, "curve": [[0.25, 0.2], [0.75, 0.8]]})
        self.assertEqual((NEUTRAL.to_json(), check_tone({"exposure": 1})), ({}, Tone(exposure=1.0)))

    def test_what_is_wrong_is_named(self) -> None:
        for wrong, told in (
            ({"exposure": 9}, r"tone\.exposure"),
            ({"haze": 3}, r"tone\.haze.*newer version"),
            ({"light": "much"}, r"tone\.light"),
            ({"recover": -1}, r"tone\.recover"),
            ({"balance": "candle"}, r"tone\.balance"),
            ([1], "an object"),
        ):
            with self.assertRaisesRegex(RecipeError, told):
                check_tone(wrong)
