"""The line on real pictures: sizes, colors, transparency, orientation, one decoding, equal bytes."""

from __future__ import annotations

import io
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image, ImageCms

from tray_core.fingerprint import fingerprint
from tray_core.line import Outcome, make_renditions, renditions
from tray_core.photo import read_facts
from tray_core.pixels.decode import decode
from tray_core.pixels.scale import AMPLE, jpeg_scale
from tray_core.plan import Framing, plan_all, plan_renditions
from tray_core.recipe import Recipe
from tray_core.tests.samples import PHOTOS, FolderCase, facts, jpeg, recipe, scene

PNG = {"format": "png"}


class LineCase(FolderCase):
    def make(self, path: Path, *recipes: Recipe) -> list[Outcome]:
        (plans,) = plan_all([read_facts(path)], recipes)
        return list(make_renditions(path, plans, [self.folder / "out"] * len(plans)))

    def made(self, path: Path, *recipes: Recipe) -> list[Image.Image]:
        outcomes = self.make(path, *recipes)
        self.assertEqual([o.error for o in outcomes], [None] * len(outcomes))
        self.assertEqual([o.receipt and o.receipt.differences for o in outcomes], [()] * len(outcomes))
        return [_opened(o.path) for o in outcomes if o.path]


def _opened(path: Path) -> Image.Image:
    with Image.open(path) as image:
        image.load()
    return image


class Geometry(LineCase):
    def test_planned_is_made_over_shapes_orientations_and_sizes(self) -> None:
        sizes = [
            {"by": "long-edge", "pixels": 61},
            {"by": "short-edge", "pixels": 17},
            {"by": "width", "pixels": 40},
            {"by": "height", "pixels": 33},
            {"by": "box", "width": 50, "height": 20},
        ]
        recipes = [recipe(f"r{i}", size=size) for i, size in enumerate(sizes)]
        for number, (width, height) in enumerate(((1, 1), (1, 97), (211, 3), (101, 99), (64, 64), (37, 480))):
            for orientation in range(1, 9):
                exif = Image.Exif()
                exif[274] = orientation
                data = jpeg(scene(width, height), exif=exif)
                path = self.write(f"{number}-{orientation}.jpg", data)
                self.made(path, *recipes)

    def test_orientation_puts_the_marked_corner_where_it_belongs(self) -> None:
        pixels = np.full((60, 100, 3), 40, np.uint8)
        pixels[:20, :20] = 230
        corners = {1: (0, 0), 2: (0, 1), 3: (1, 1), 4: (1, 0), 5: (0, 0), 6: (0, 1), 7: (1, 1), 8: (1, 0)}
        for orientation, (down, right) in corners.items():
            exif = Image.Exif()
            exif[274] = orientation
            path = self.write(f"{orientation}.jpg", jpeg(pixels, exif=exif))
            (made,) = self.made(path, recipe(size=None, sharpen=None, file=PNG))
            self.assertEqual(made.size, (60, 100) if orientation >= 5 else (100, 60))
            values = np.asarray(made)[..., 0]
            self.assertGreater(values[-10 if down else 10, -10 if right else 10], 200, orientation)

    @given(st.tuples(*[st.integers(1, 5000)] * 2), st.tuples(*[st.integers(1, 5000)] * 2))
    def test_scaled_decoding_covers_what_is_wanted(self, stored: tuple[int, int], wanted: tuple[int, int]) -> None:
        divisor = jpeg_scale(stored, wanted)
        margin = [-(-have // divisor) >= AMPLE * want for have, want in zip(stored, wanted, strict=True)]
        self.assertTrue(divisor == 1 or all(margin))

    def test_resampling_is_close_to_lanczos_on_the_whole_picture(self) -> None:
        """At every size of one run."""
        edges = (1440, 1080, 700, 540, 400, 270, 180, 130, 90)
        for name in ("2031-10-14_02_lark-and-drum-clock.jpg", "2031-10-14_01_repair-bench.jpg"):
            path = PHOTOS / "autumn-rehang" / name
            plain = {"sharpen": None, "file": PNG}
            recipes = [recipe(str(edge), size={"by": "width", "pixels": edge}, **plain) for edge in edges]
            for made in self.made(path, *recipes):
                with Image.open(path) as whole:
                    wanted = np.asarray(whole.resize(made.size, Image.Resampling.LANCZOS), dtype=np.float64)
                error = np.mean((np.asarray(made, dtype=np.float64) - wanted) ** 2)
                with self.subTest(name, size=made.size):
                    self.assertGreaterEqual(10 * np.log10(255**2 / error), 55)


class Sharing(LineCase):
    def test_one_decoding_at_the_smallest_scale_for_all_recipes(self) -> None:
        path = PHOTOS / "autumn-rehang" / "2031-10-16_06_clock-tower-dusk.jpg"
        sizes = [480, 1600, 800]
        recipes = [recipe(str(s), size={"by": "long-edge", "pixels": s}, name={"pattern": "{recipe}"}) for s in sizes]
        with (
            mock.patch.object(renditions, "decode", wraps=decode) as spy,
            mock.patch(
                "tray_core.pixels.decode.simplejpeg.decode_jpeg", wraps=__import__("simplejpeg").decode_jpeg
            ) as decoder,
        ):
            made = self.made(path, *recipes)
        self.assertEqual(spy.call_count, 1)
        self.assertEqual(decoder.call_count, 1)
        # 5996 / 2 covers 1600, 5996 / 4 = 1499 does not.
        self.assertEqual(decoder.call_args.kwargs, {"strict": True, "min_width": 1998, "min_height": 2998})
        self.assertEqual([max(image.size) for image in made], [1600, 800, 480])

    def test_same_input_same_bytes(self) -> None:
        path = PHOTOS / "shop-stock" / "QM4_0123.jpg"
        first = self.make(path, recipe("a"), recipe("b"))
        again = self.make(path, recipe("a"))
        digests = {outcome.receipt.sha256 for outcome in first + again if outcome.receipt}
        self.assertEqual(len(digests), 1)
        self.assertEqual(len({outcome.path for outcome in first + again}), 3)

    def test_fingerprint_follows_what_decides_the_pixels(self) -> None:
        def made(content: str = "abc", framings: tuple[Framing, ...] = (), **stations: Any) -> str:
            (plan,) = plan_renditions(facts(), recipe(**stations), 1, None, framings=framings)
            return fingerprint(content, plan)

        one = made()
        self.assertEqual(one, made(place={"subfolder": "elsewhere"}, name={"pattern": "{n}"}))
        self.assertEqual(one, made(size={"by": "width", "pixels": 1600}))
        self.assertNotEqual(one, made("abd"))
        self.assertNotEqual(one, made(sharpen={"strength": 99}))
        self.assertNotEqual(one, made(size={"by": "width", "pixels": 1600, "ppi": 300}))
        square: dict[str, Any] = {"frame": {"way": "crop", "shape": "1:1"}}
        left = Framing(name="left", x=0, y=0, width=0.5, height=0.75)
        self.assertNotEqual(made(**square), made(framings=(left,), **square))


class Color(LineCase):
    def test_three_encodings_of_one_picture_come_out_alike(self) -> None:
        mixed = PHOTOS / "mixed"
        stations = {"size": {"by": "width", "pixels": 600}, "sharpen": None, "file": PNG}
        made = [
            np.asarray(self.made(mixed / name, recipe(name, **stations))[0], dtype=np.float64)
            for name in ("enamel-colours_P3.jpg", "enamel-colours_Rec2020_16bit.tif")
        ]
        height = min(image.shape[0] for image in made)
        self.assertLess(np.abs(made[0][: height - 1] - made[1][: height - 1]).mean(), 2.5)

    def test_sixteen_bits_are_not_reduced_before_conversion(self) -> None:
        """A dark 16-bit ramp whose steps vanish in 8 bits of the wide space stays within half a level."""
        icc = (PHOTOS.parent / "profiles" / "Quillmarsh-Rec2020-g22.icc").read_bytes()
        ramp = np.repeat(np.linspace(0, 9000, 1024).astype(np.uint16)[None, :, None], 64, 0).repeat(3, 2)
        path = self.folder / "ramp.tif"
        import tifffile

        tifffile.imwrite(path, ramp, photometric="rgb", iccprofile=icc)
        plain = {"profile": "srgb", "dither": False}
        dithered, made = self.made(
            path,
            recipe("d", size=None, sharpen=None, file=PNG),
            recipe("p", size=None, sharpen=None, color=plain, file=PNG),
        )
        linear = (ramp[0, :, 0] / 65535) ** 2.2
        exact = 255 * np.where(linear <= 0.0031308, 12.92 * linear, 1.055 * linear ** (1 / 2.4) - 0.055)
        self.assertLess(np.abs(np.asarray(made)[0, :, 1] - exact).max(), 0.56)
        # Dithered, every value is one of the two beside the exact one, and over a few pixels their mean is it.
        noisy = np.asarray(dithered)[..., 1].astype(float)
        self.assertLess(np.abs(noisy - exact).max(), 1.06)
        self.assertLess(np.abs(noisy.mean(axis=0) - exact).max(), 0.2)

    def test_notes_and_profiles_of_the_mixed_folder(self) -> None:
        for name, note in (
            ("bench-no-profile.jpg", "The photo has no color profile and was taken as sRGB."),
            ("bellows-plate_grey.jpg", "The photo has no color profile and was taken as sRGB."),
            ("enamel-colours_P3.jpg", "Converted from Display P3 to sRGB."),
            ("tower-for-print_CMYK.tif", "Converted from Chemical proof to sRGB."),
            ("hall_web.webp", None),
        ):
            (outcome,) = self.make(PHOTOS / "mixed" / name, recipe(size={"by": "long-edge", "pixels": 300}))
            assert outcome.receipt is not None, outcome.error
            self.assertEqual(outcome.receipt.notes, (note,) if note else ())
            self.assertEqual((outcome.receipt.profile, outcome.receipt.mode), ("sRGB", "RGB"))
            self.assertEqual(outcome.receipt.differences, ())

    def test_without_a_color_station_the_photo_keeps_its_profile(self) -> None:
        path = PHOTOS / "mixed" / "enamel-colours_P3.jpg"
        for file in (PNG, {"format": "jpeg", "quality": 80}):
            (made,) = self.made(path, recipe(color=None, size={"by": "width", "pixels": 200}, file=file))
            described = ImageCms.getProfileDescription(ImageCms.ImageCmsProfile(io.BytesIO(made.info["icc_profile"])))
            self.assertIn("P3", described)

    def test_no_place_or_camera_is_published(self) -> None:
        (made,) = self.made(PHOTOS / "autumn-rehang" / "2031-10-14_01_repair-bench.jpg", recipe())
        self.assertEqual(dict(made.getexif()), {})
        self.assertEqual(set(made.info) - {"jfif", "jfif_version", "jfif_unit", "jfif_density", "icc_profile"}, set())


class Transparency(LineCase):
    def test_cut_out_lies_on_white_in_jpeg_and_stays_cut_out_in_png(self) -> None:
        path = PHOTOS / "mixed" / "singing-bird_cutout.png"
        size = {"by": "width", "pixels": 400}
        on_white, cut_out = self.made(path, recipe("j", size=size), recipe("p", size=size, file=PNG))
        np.testing.assert_allclose(np.asarray(on_white)[2, 2], (255, 255, 255), atol=1)
        self.assertEqual(cut_out.mode, "RGBA")
        self.assertEqual(np.asarray(cut_out)[2, 2, 3], 0)

    def test_hidden_color_does_not_bleed_into_edges(self) -> None:
        pixels = np.zeros((80, 80, 4), np.uint8)
        pixels[..., 1] = 255  # what cannot be seen is bright green
        pixels[20:60, 20:60] = (200, 30, 30, 255)
        path = self.folder / "edge.png"
        Image.fromarray(pixels).save(path)
        (made,) = self.made(path, recipe(size={"by": "width", "pixels": 27}, sharpen=None, file=PNG))
        values = np.asarray(made).astype(int)
        seen = values[values[..., 3] > 16]
        self.assertLess(seen[:, 1].max(), 60)


class Failing(LineCase):
    def test_one_rendition_fails_alone(self) -> None:
        (self.folder / "out").mkdir()
        self.write("out/blocked", b"a file where a folder should be")
        path = PHOTOS / "mixed" / "tiny-for-enlarging_640.jpg"
        outcomes = self.make(path, recipe("a", place={"subfolder": "blocked"}), recipe("b"))
        self.assertEqual(sorted(o.status for o in outcomes), ["failed", "made"])
        (failed,) = (o for o in outcomes if o.status == "failed")
        self.assertIn("blocked", str(failed.error))

    def test_stopping_leaves_the_rest_undone(self) -> None:
        path = PHOTOS / "mixed" / "tiny-for-enlarging_640.jpg"
        (plans,) = plan_all([read_facts(path)], [recipe("a"), recipe("b"), recipe("c")])
        answers = iter((False, True))
        done = list(make_renditions(path, plans, [self.folder] * 3, stopped=lambda: next(answers)))
        self.assertEqual(len(done), 1)


if __name__ == "__main__":
    unittest.main()
