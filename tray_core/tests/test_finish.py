"""What lies around a rendition and over it: sizes in numbers, colors in pixels, texts that are never cut off."""

from __future__ import annotations

import itertools
import os
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray
from PIL import Image

from tray_core.errors import RecipeError
from tray_core.fingerprint import fingerprint
from tray_core.line import make_renditions
from tray_core.line.finishing import finish
from tray_core.marks import fonts
from tray_core.marks.text import drawn, fitted, room_for
from tray_core.photo import read_facts
from tray_core.photo.interest import Interest, Subject
from tray_core.photo.profile_files import NAMED
from tray_core.photo.words import Words
from tray_core.pixels.color import color_in
from tray_core.pixels.picture import Picture
from tray_core.plan import Layout, layout_from_json, plan_all, plan_renditions
from tray_core.recipe import Recipe, check_recipe, describe
from tray_core.recipe.finish import TextMark
from tray_core.tests.samples import FolderCase, facts, jpeg, recipe, scene

WHITE = {"width": "20 px", "color": "#ffffff"}
PNG = {"format": "png"}
SVG = (
    '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 80 40" width="80" height="40">'
    '<rect width="80" height="40" fill="{}"/></svg>'
)


def layout(photo: tuple[int, int] = (3000, 2000), **stations: Any) -> Layout:
    (plan,) = plan_renditions(facts(*photo), recipe(**stations), 1, None)
    return plan.layout


class Borders(unittest.TestCase):
    borders = st.lists(
        st.one_of(st.integers(0, 60).map(lambda px: f"{px} px"), st.integers(0, 9).map(lambda part: f"{part} %")),
        max_size=3,
    )
    photos = st.tuples(st.integers(200, 9000), st.integers(200, 9000))

    @given(photos, borders, st.integers(300, 3000), st.sampled_from((None, "1:1", "3:2", "4:5")), st.booleans())
    def test_the_outer_size_is_the_one_asked_for(
        self, photo: tuple[int, int], widths: list[str], pixels: int, shape: str | None, pads: bool
    ) -> None:
        stations: dict[str, Any] = {"size": {"by": "long-edge", "pixels": pixels, "enlarge": "always"}}
        if shape is not None:
            stations["frame"] = {"way": "pad" if pads else "crop", "shape": shape}
        plain = layout(photo, **stations)
        found = layout(photo, **stations, finish={"borders": [{"width": each} for each in widths]})
        self.assertEqual(max(found.outer), pixels)
        self.assertTrue(all(len(set(ring)) == 1 for ring in found.rings))
        if shape is not None:
            self.assertEqual(found.outer, plain.outer)
        else:
            # The photo keeps its shape to the pixel.
            wide, high = found.canvas
            self.assertLessEqual(abs(wide * photo[1] - high * photo[0]), 1.01 * max(photo))
        if not (shape is not None and pads):
            left, top, right, bottom = found.box
            self.assertTrue(left >= 0 and top >= 0 and right <= photo[0] + 1e-6 and bottom <= photo[1] + 1e-6)
            # What is shown is not stretched: both edges have one scale, but for whole pixels.
            across, down = found.canvas[0] / found.rect[2], found.canvas[1] / found.rect[3]
            self.assertLessEqual(abs(across / down - 1), 1.01 / min(found.canvas))
        self.assertEqual(layout_from_json(found.to_json()), found)

    def test_borders_that_grow_are_added(self) -> None:
        found = layout(finish={"borders": [WHITE, {"width": "3 %"}], "grow": True})
        self.assertEqual((found.canvas, found.outer), ((1600, 1067), (1600 + 40 + 64, 1067 + 40 + 64)))

    def test_a_border_fills_up_to_a_shape(self) -> None:
        for photo in ((3000, 2000), (2000, 3000), (2000, 2000)):
            found = layout(photo, size={"by": "long-edge", "pixels": 1000}, finish={"borders": [{"to": "1:1"}]})
            self.assertEqual(found.outer, (1000, 1000))
        found = layout(finish={"borders": [{"width": "50 px"}, {"to": "4:5"}]})
        self.assertEqual(max(found.outer), 1600)
        self.assertAlmostEqual(found.outer[0] / found.outer[1], 0.8, delta=0.002)

    def test_an_unscaled_photo_stays_unscaled(self) -> None:
        found = layout(size=None, finish={"borders": [WHITE]})
        self.assertEqual((found.canvas, found.scale, found.outer), ((3000, 2000), 1.0, (3040, 2040)))

    def test_borders_leave_something_of_a_small_picture(self) -> None:
        found = layout(size={"by": "long-edge", "pixels": 60}, finish={"borders": [{"width": "2000 px"}]})
        self.assertEqual(max(found.outer), 60)
        self.assertGreaterEqual(max(found.canvas), 8)

    def test_what_cannot_be_is_told_by_its_path(self) -> None:
        for finish_station, path in (
            ({"borders": [{}]}, "finish.borders.0.width"),
            ({"borders": [{"width": 4, "to": "1:1"}]}, "finish.borders.0.width"),
            ({"borders": [WHITE, {"width": "4 cm"}]}, "finish.borders.1.width"),
            ({"marks": [{"text": "{nothing}"}]}, "finish.marks.0.text"),
            ({"marks": [{"text": "a"}, {"text": "b", "at": "corner"}]}, "finish.marks.1.at"),
            ({"marks": [{"text": "a", "at": [0.5, 1.5]}]}, "finish.marks.0.at"),
            ({"marks": [{"picture": "../mark.svg"}]}, "finish.marks.0.picture"),
            ({"marks": [{"text": "a", "color": "red"}]}, "finish.marks.0.color"),
            ({"corners": "round"}, "finish.corners"),
        ):
            with self.subTest(path=path), self.assertRaisesRegex(RecipeError, path.replace(".", r"\.")):
                recipe(finish=finish_station)
        with self.assertRaisesRegex(RecipeError, r"finish\.borders\.0\.to"):
            recipe(frame={"way": "crop", "shape": "3:2"}, finish={"borders": [{"to": "1:1"}]})

    def test_a_recipe_says_it_and_reads_back_as_it_was(self) -> None:
        made = recipe(
            finish={
                "borders": [{"width": 4, "color": "main"}, {"width": "12 px", "blur": True}],
                "marks": [{"text": "© {creator}", "at": [0.5, 0.92]}, {"picture": "mark.svg"}],
                "proof": {},
            }
        )
        self.assertEqual(check_recipe(made.to_json()), made)
        said = "".join(phrase.text for phrase in describe(made) if phrase.station == "finish")
        self.assertEqual(
            said,
            "gets a border of its main color of 4 %, a border of its blurred copy of 12 px, "
            "“© {creator}” where it was put, the mark mark.svg at the bottom right and “PROOF” stamped over it, "
            "at most 1600 px",
        )


class Made(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.photo = self.write("photo.jpg", jpeg(scene(900, 600)))
        (self.folder / "marks").mkdir()
        environment = mock.patch.dict(os.environ, {fonts.FOLDERS: str(self.folder / "marks")})
        environment.start()
        self.addCleanup(environment.stop)

    def made(self, made: Recipe, photo: Path | None = None) -> NDArray[Any]:
        return np.asarray(self.opened(made, photo))

    def opened(self, made: Recipe, photo: Path | None = None) -> Image.Image:
        photo = photo or self.photo
        (plans,) = plan_all([read_facts(photo)], [made])
        (outcome,) = make_renditions(photo, plans, [self.folder / "out"])
        self.assertIsNone(outcome.error)
        assert outcome.receipt is not None and outcome.path is not None
        self.assertEqual(outcome.receipt.differences, ())
        with Image.open(outcome.path) as image:
            image.load()
        self.assertEqual(image.size, (plans[0].width, plans[0].height))
        return image

    def test_borders_have_the_color_asked_for_and_the_picture_is_untouched(self) -> None:
        size = {"by": "width", "pixels": 300}
        plain = self.made(recipe(size=size, file=PNG))
        rings = [{"width": "6 px", "color": "#c04020"}, {"width": "9 px", "color": "#102030"}]
        found = self.made(recipe(size=size, file=PNG, finish={"borders": rings, "grow": True}))
        np.testing.assert_array_equal(found[15:-15, 15:-15], plain)
        for y, x in ((10, 150), (-11, 100), (100, 10), (100, -11)):
            self.assertEqual(tuple(found[y, x]), (0xC0, 0x40, 0x20))
        for y, x in ((0, 0), (8, 150), (-1, -1), (100, 8)):
            self.assertEqual(tuple(found[y, x]), (0x10, 0x20, 0x30))

    def test_in_every_space_and_in_16_bits(self) -> None:
        border = {"borders": [{"width": "9 px", "color": "#c04020"}], "marks": [{"text": "M", "size": 30}]}
        for profile, bits in (("display-p3", 8), ("adobe-rgb", 16), ("grey", 8)):
            made = recipe(color={"profile": profile, "bits": bits}, file=PNG, finish=border)
            found = self.opened(made)
            if bits == 8:  # Pillow reads 16-bit colors as 8
                space = "grey" if profile == "grey" else "RGB"
                wanted = np.rint(color_in((0xC0, 0x40, 0x20), space, NAMED[profile]) * 255)
                np.testing.assert_allclose(np.atleast_1d(np.asarray(found)[0, 0]), wanted, atol=1)
        inks = recipe(color={"profile": "icc", "icc": "CMYK.icc"}, file={"format": "tiff"}, finish=border)
        found = self.opened(inks)
        self.assertEqual(found.mode, "CMYK")
        wanted = np.rint(color_in((0xC0, 0x40, 0x20), "CMYK", found.info["icc_profile"]) * 255)
        np.testing.assert_allclose(np.asarray(found)[0, 0], wanted, atol=1)

    def test_main_color_and_blurred_copy(self) -> None:
        pixels = np.full((200, 300, 3), (40, 120, 60), np.uint8)
        pixels[:60, :100] = (220, 30, 30)
        photo = self.write("green.jpg", jpeg(pixels, quality=98))
        found = self.made(recipe(file=PNG, finish={"borders": [{"width": "9 px", "color": "main"}]}), photo)
        np.testing.assert_allclose(found[0, 0], (40, 120, 60), atol=3)
        found = self.made(recipe(file=PNG, finish={"borders": [{"width": "40 px", "blur": True}]}), photo)
        self.assertGreater(found[10, 10, 0], 120)  # red comes through where it lies
        np.testing.assert_allclose(found[-10, -10], (40, 120, 60), atol=8)

    def test_rounded_corners_are_clear_or_matte(self) -> None:
        found = self.made(recipe(file=PNG, finish={"corners": "60 px"}))
        self.assertEqual(found.shape[2], 4)
        self.assertEqual(
            [found[y, x, 3] for y, x in ((0, 0), (0, -1), (-1, 0), (-1, -1), (300, 450))], [0, 0, 0, 0, 255]
        )
        # A quarter of a disk is missing from each corner: r² (1 - π / 4).
        self.assertAlmostEqual(float((255 - found[:100, :100, 3].astype(float)).sum()) / 255, 60**2 * 0.2146, delta=8)
        matte = recipe(color={"profile": "srgb", "matte": "#203040"}, file={"format": "jpeg", "quality": 95})
        found = self.made(matte.model_copy(update={"finish": recipe(finish={"corners": 20}).finish}))
        np.testing.assert_allclose(found[3, 3], (0x20, 0x30, 0x40), atol=6)

    def test_letters_are_dark_on_light_and_light_on_dark(self) -> None:
        for ground, light in ((240, False), (20, True)):
            photo = self.write(f"{ground}.jpg", jpeg(np.full((300, 400, 3), ground, np.uint8)))
            found = self.made(
                recipe(file=PNG, finish={"marks": [{"text": "Museum", "size": 9, "opacity": 100}]}), photo
            )
            changed = np.abs(found.astype(int) - ground).max(axis=2) > 20
            self.assertTrue(changed[200:, 200:].any() and not changed[:200].any() and not changed[:, :200].any())
            extreme = found.max() if light else 255 - found.min()
            self.assertGreaterEqual(int(extreme), 250)

    def test_a_picture_mark_stands_where_it_was_put_and_suits_its_ground(self) -> None:
        for name, color in (("light.svg", "#ffe000"), ("dark.svg", "#002080")):
            (self.folder / "marks" / name).write_text(SVG.format(color))
        for ground, wanted in ((230, (0, 0x20, 0x80)), (20, (0xFF, 0xE0, 0))):
            photo = self.write(f"{ground}.jpg", jpeg(np.full((400, 600, 3), ground, np.uint8)))
            mark = {"picture": "dark.svg", "on_dark": "light.svg", "width": 40, "at": [0.25, 0.7], "opacity": 100}
            found = self.made(recipe(file=PNG, finish={"marks": [mark]}), photo)
            ys, xs = np.nonzero(np.abs(found.astype(int) - ground).max(axis=2) > 8)
            self.assertEqual((xs.min(), xs.max() + 1, ys.min(), ys.max() + 1), (70, 230, 240, 320))
            self.assertEqual(tuple(found[280, 150]), wanted)

    def test_a_mark_goes_where_it_covers_no_face(self) -> None:
        (self.folder / "marks" / "mark.svg").write_text(SVG.format("#000000"))
        mark = {"picture": "mark.svg", "width": 20, "at": "bottom-right", "margin": 0, "opacity": 100}
        grey = np.full((400, 600, 3), 200, np.uint8)
        places = {
            "nothing": ((), "bottom-right"),
            "a face there": (((0.8, 0.6, 1.0, 1.0),), "right"),
            "a face in the way of the nearest, too": (((0.8, 0.3, 1.0, 1.0),), "bottom"),
            "everywhere": (((0.0, 0.0, 1.0, 1.0),), "bottom-right"),
        }
        corners = {"bottom-right": (-1, -1), "right": (200, -1), "bottom": (-1, 300)}
        for name, (boxes, expected) in places.items():
            with self.subTest(name):
                subjects = tuple(Subject("head", box) for box in boxes)
                content = recipe(size=None, finish={"marks": [{**mark, "clear": True}]})
                interest = Interest(bytes(8), bytes(8), subjects)
                (plan,) = plan_renditions(facts(600, 400, interest=interest), content, 1, None)
                self.assertEqual(layout_from_json(plan.layout.to_json()), plan.layout)
                made = finish(Picture(grey, "RGB", False, None), content, plan.layout).pixels
                row, column = corners[expected]
                self.assertLess(int(made[row, column].max()), 60)
                self.assertEqual(int((made.max(axis=2) < 60).sum()), 80 * 40)
        content = recipe(size=None, finish={"marks": [mark]})
        (plan,) = plan_renditions(facts(600, 400, interest=interest), content, 1, None)
        self.assertEqual(plan.layout.subjects, ())

    def test_a_proof_is_small_stamped_and_light(self) -> None:
        plain = recipe(size={"by": "long-edge", "pixels": 900}, file={"format": "jpeg", "quality": 95})
        stamp = {"text": "PROOF {n:03}", "longest": 450, "quality": 40}
        proof = plain.model_copy(update={"finish": recipe(finish={"proof": stamp}).finish})
        found = self.opened(proof)
        self.assertEqual(found.size, (450, 300))
        (plans,) = plan_all([read_facts(self.photo)], [proof])
        self.assertEqual(plans[0].layout.texts, ("PROOF 001",))
        small = self.made(plain.model_copy(update={"size": recipe(size={"by": "long-edge", "pixels": 450}).size}))
        changed = np.abs(np.asarray(found).astype(int) - small).max(axis=2) > 25
        # Every ninth of the picture carries some of it.
        for rows, columns in itertools.product(range(0, 300, 100), range(0, 450, 150)):
            self.assertGreater(changed[rows : rows + 100, columns : columns + 150].mean(), 0.02)
        self.assertEqual(proof.coded.quality, 40)  # type: ignore[union-attr]

    def test_what_is_missing_fails_with_its_name(self) -> None:
        (self.folder / "marks" / "broken.ttf").write_bytes(b"\0\1\0\0no font at all")
        (self.folder / "marks" / "broken.png").write_bytes(b"\x89PNG\r\n\x1a\n" + bytes(40))
        for mark, told in (
            ({"text": "a", "font": "nowhere.ttf"}, "nowhere.ttf"),
            ({"text": "a", "font": "broken.ttf"}, "broken.ttf"),
        ):
            with self.assertRaisesRegex(RecipeError, told):
                plan_all_of(self.photo, recipe(finish={"marks": [mark]}))
        for name in ("nowhere.svg", "broken.png"):
            (plans,) = plan_all_of(self.photo, recipe(finish={"marks": [{"picture": name}]}))
            (outcome,) = make_renditions(self.photo, plans, [self.folder / "out"])
            self.assertEqual(outcome.status, "failed")
            self.assertIn(name, str(outcome.error))

    def test_another_mark_is_another_rendition(self) -> None:
        (self.folder / "marks" / "one.svg").write_text(SVG.format("#ffe000"))
        (self.folder / "marks" / "two.svg").write_text(SVG.format("#00e0ff"))
        marks: list[list[dict[str, Any]]] = [[{"text": "a"}], [{"text": "b"}], [{"text": "a", "size": 4}]]
        marks += [[{"picture": "one.svg"}], [{"picture": "two.svg"}]]
        keys = {
            fingerprint("digest", plan)
            for each in marks
            for (plan,) in plan_all_of(self.photo, recipe(finish={"marks": each}))
        }
        self.assertEqual(len(keys), 5)


def plan_all_of(photo: Path, made: Recipe) -> list[Any]:
    return list(plan_all([read_facts(photo)], [made]))


class Texts(unittest.TestCase):
    names = (
        *("© Museum", "Quillmarsh Clock & Automata Museum, the reading room, 2031", "Ölbild Ærøskøbing ¶ ŁÓDŹ"),
        *("Ωρολόγιο", "Музей часов", "متحف الساعات في كويلمارش", "מוזיאון השעונים", "घड़ी संग्रहालय", "พิพิธภัณฑ์นาฬิกา"),
        *("時計博物館", "Supercalifragilistic" * 9, "two\nlines", "1/3"),
    )

    def test_a_text_is_never_cut_off_in_a_thousand_combinations(self) -> None:
        sizes = ((420, 280), (120, 900), (320, 180), (90, 60))
        anchors = ("top-left", "middle", "bottom-right", [0.0, 0.0], [0.97, 0.5])
        ways: list[dict[str, Any]] = [
            {"size": 3},
            {"size": 12, "font": "serif", "weight": "bold"},
            {"size": 5, "angle": 30, "edge": "shadow"},
            {"size": 50, "spacing": 20, "edge": "outline", "least": 4},
        ]
        tried = 0
        for text, size, at, way in itertools.product(self.names, sizes, anchors, ways):
            white = Picture(np.full((size[1], size[0], 3), 128, np.uint8), "RGB", False, None)
            made = recipe(finish={"marks": [{"text": "x", "at": at, "color": "#ffffff", "opacity": 100} | way]})
            over = Layout(source=size, rect=(0.0, 0.0, float(size[0]), float(size[1])), canvas=size, texts=(text,))
            found = finish(white, made, over).pixels
            mark = made.finish.marks[0]  # type: ignore[union-attr]
            assert isinstance(mark, TextMark)
            if not mark.angle and mark.edge == "none":
                # All of the letters' coverage is in the picture.
                letters, _ = drawn(fitted(mark, text, room_for(mark, size), min(size)))
                laid = (found[..., 0].astype(float) - 128) / 127
                self.assertAlmostEqual(float(laid.sum()), float(letters.sum()) / 255, delta=0.01 * laid.sum() + 6)
            rim = np.concatenate([found[0], found[-1], found[:, 0], found[:, -1]])
            if not isinstance(at, list) and at != "middle" and min(size) > 200 and mark.edge == "none":
                self.assertEqual(int(np.abs(rim.astype(int) - 128).max()), 0)
            tried += 1
        self.assertGreaterEqual(tried, 1000)

    def test_every_script_has_its_letters(self) -> None:
        for text in self.names:
            for family in ("sans", "serif"):
                self.assertEqual(fonts.font_for(text, family, "regular")[1], "", text)

    def test_letters_of_a_script_are_shaped(self) -> None:
        # Joined letters are narrower than the same ones apart, and right-to-left text is not left-to-right.
        mark = TextMark(text="x", size=10)
        for joined, apart in (("ست", "س ت"), ("क्ष", "क ष")):
            one, other = (drawn(fitted(mark, each, (4000, 400), 1000))[0].shape[1] for each in (joined, apart))
            self.assertLess(one, other)
        one, other = (drawn(fitted(mark, each, (4000, 400), 1000))[0] for each in ("אבג", "גבא"))
        self.assertFalse(one.shape == other.shape and np.array_equal(one, other))

    def test_cautions_for_words_letters_and_room(self) -> None:
        def cautions(mark: dict[str, Any], photo: Any) -> list[str]:
            (plan,) = plan_renditions(photo, recipe(finish={"marks": [mark]}), 1, None)
            return [caution.code for caution in plan.warnings]

        named = facts(words=Words(creator="Ines Tallow"))
        self.assertEqual(cautions({"text": "© {creator}"}, named), [])
        self.assertEqual(cautions({"text": "© {creator}"}, facts()), ["no-mark-word"])
        self.assertEqual(cautions({"text": "© {creator or stem}"}, facts()), [])
        self.assertEqual(cautions({"text": "𐎀 cuneiform"}, named), ["no-letter"])
        self.assertEqual(cautions({"text": "W" * 90, "size": 30}, named), ["mark-smaller"])

    def test_a_font_of_ones_own(self) -> None:
        with mock.patch.dict(os.environ, {fonts.FOLDERS: str(fonts.SHIPPED)}):
            own = TextMark(text="x", font="IBMPlexSerif-Regular.woff2", size=10)
            one = drawn(fitted(own, "Museum", (4000, 400), 1000))[0]
        other = drawn(fitted(TextMark(text="x", font="serif", size=10), "Museum", (4000, 400), 1000))[0]
        np.testing.assert_array_equal(one, other)
