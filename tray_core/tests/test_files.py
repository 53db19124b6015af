"""Every format that is written: through the line, read back, with its profile, its transparency, its bits, its tags."""

from __future__ import annotations

import io
import time
from typing import Any

import numpy as np
from PIL import Image

from tray_core.coders import encode
from tray_core.line import Outcome, make_renditions
from tray_core.line.prep import correct, correction_curves
from tray_core.photo import read_facts
from tray_core.photo.profile_files import NAMED
from tray_core.pixels.decode import decode
from tray_core.pixels.picture import Picture
from tray_core.plan import plan_renditions
from tray_core.recipe import Recipe
from tray_core.recipe.file import GifFile, JpegFile, PngFile
from tray_core.recipe.stations import Prep
from tray_core.tests.samples import PHOTOS, FolderCase, recipe, scene

SMALL = {"by": "long-edge", "pixels": 300, "ppi": 144}
WIDE = PHOTOS / "mixed" / "enamel-colours_P3.jpg"
CUT_OUT = PHOTOS / "mixed" / "singing-bird_cutout.png"


class FilesCase(FolderCase):
    def make(self, path: Any, *recipes: Recipe) -> list[Outcome]:
        facts = read_facts(path)
        plans = [plan for n, each in enumerate(recipes) for plan in plan_renditions(facts, each, n + 1, None)]
        named = [type(plan)(**{**_fields(plan), "name": f"{i}.{plan.format}"}) for i, plan in enumerate(plans)]
        return sorted(make_renditions(path, named, [self.folder] * len(named)), key=lambda each: each.plan.number.run)

    def one(self, path: Any, **stations: Any) -> Outcome:
        stations = {"size": SMALL, **stations}
        (made,) = self.make(path, recipe(**stations))
        self.assertIsNone(made.error, made.error)
        assert made.receipt is not None
        self.assertEqual(made.receipt.differences, ())
        return made


def _fields(plan: Any) -> dict[str, Any]:
    return {name: getattr(plan, name) for name in plan.__slots__}


class Formats(FilesCase):
    def test_seven_formats_in_their_varieties(self) -> None:
        lossless = np.asarray(Image.open(self.one(WIDE, file={"format": "png"}).path or ""))
        for file in (
            {"format": "jpeg"},
            {"format": "jpeg", "progressive": True, "chroma": "422"},
            {"format": "jpeg", "coder": "thorough", "progressive": True},
            {"format": "jpeg", "coder": "thorough", "quality": 95},
            {"format": "png"},
            {"format": "png", "colors": 32},
            {"format": "webp"},
            {"format": "webp", "lossless": True},
            {"format": "avif"},
            {"format": "avif", "chroma": "444", "effort": 0},
            {"format": "tiff"},
            {"format": "tiff", "compression": "lzw"},
            {"format": "pdf"},
            {"format": "gif", "colors": 64},
        ):
            with self.subTest(str(file)):
                made = self.one(WIDE, file=file)
                receipt = made.receipt
                assert receipt is not None and made.path is not None
                self.assertEqual((receipt.width, receipt.height), (300, 200))
                self.assertEqual(receipt.profile, None if file["format"] == "gif" else "sRGB")
                again = self.one(WIDE, file=file).path
                assert again is not None
                self.assertEqual(again.read_bytes(), made.path.read_bytes(), "same input, same bytes")
                facts = read_facts(made.path)
                shown = decode(facts, made.path.read_bytes(), (facts.width, facts.height))
                self.assertLess(abs(float(shown.pixels[..., :3].mean()) - float(lossless.mean())), 1.5)

    def test_progressive_and_chroma_are_as_asked_for(self) -> None:
        picture = Picture(scene(160, 96), "RGB", False, None)
        for coder in ("quick", "thorough"):
            for chroma, factors in (("444", b"\x11"), ("420", b"\x22")):
                plain = {"format": "jpeg", "coder": coder, "chroma": chroma, "progressive": True}
                data = encode(picture, JpegFile.model_validate(plain))
                frame = data.index(b"\xff\xc2")  # a progressive frame; the first component's sampling follows
                self.assertEqual(data[frame + 11 : frame + 12], factors)
        self.assertIn(b"\xff\xc0", encode(picture, JpegFile(format="jpeg")))

    def test_sixteen_bits_and_spaces(self) -> None:
        deep = PHOTOS / "mixed" / "enamel-colours_Rec2020_16bit.tif"
        for format in ("png", "tiff"):
            made = self.one(deep, file={"format": format}, color={"profile": "display-p3", "bits": 16})
            assert made.receipt is not None and made.path is not None
            self.assertEqual((made.receipt.bits, made.receipt.profile), (16, "Display P3"))
            facts = read_facts(made.path)
            pixels = decode(facts, made.path.read_bytes(), (300, 200)).pixels
            self.assertEqual(str(pixels.dtype), "uint16")
            self.assertGreater(len(np.unique(pixels % 257)), 200, "only 8 bits of the 16 are used")
        grey = self.one(deep, file={"format": "jpeg"}, color={"profile": "grey"}).receipt
        assert grey is not None
        self.assertEqual((grey.mode, grey.profile), ("L", "Grey, curve of sRGB"))
        untagged = self.one(deep, file={"format": "webp"}, color={"profile": "srgb", "embed": False}).receipt
        assert untagged is not None
        self.assertIsNone(untagged.profile)

    def test_inks_for_the_press_and_back_to_the_screen(self) -> None:
        press = {"profile": "icc", "icc": "CMYK.icc", "intent": "perceptual"}
        for format in ("jpeg", "tiff", "pdf"):
            made = self.one(WIDE, file={"format": format}, color=press)
            assert made.receipt is not None
            self.assertEqual((made.receipt.mode, made.receipt.profile), ("CMYK", "Chemical proof"))
        whole, inks = (
            np.asarray(Image.open(self.one(path, sharpen=None, file={"format": "png"}).path or ""), np.float64)
            for path in (WIDE, self._printed(press))
        )
        # An offset print holds less than a screen; what it holds comes back.
        self.assertLess(np.abs(whole - inks).mean(), 12)

    def _printed(self, press: dict[str, Any]) -> Any:
        large = {"by": "long-edge", "pixels": 1200}
        return self.one(WIDE, size=large, sharpen=None, file={"format": "tiff"}, color=press).path

    def test_transparency_is_kept_or_lies_on_the_matte(self) -> None:
        for format in ("png", "webp", "avif", "tiff", "gif"):
            made = self.one(CUT_OUT, file={"format": format})
            assert made.path is not None
            with Image.open(made.path) as image:
                alpha = np.asarray(image.convert("RGBA"))[..., 3]
            self.assertEqual((alpha[2, 2], alpha.max()), (0, 255), format)
        made = self.one(CUT_OUT, file={"format": "jpeg", "quality": 95}, color={"profile": "srgb", "matte": "#336699"})
        assert made.path is not None and made.receipt is not None
        np.testing.assert_allclose(np.asarray(Image.open(made.path))[2, 2], (0x33, 0x66, 0x99), atol=3)
        self.assertIn("Transparent parts lie on #336699.", made.receipt.notes)

    def test_padding_has_its_color_in_every_space(self) -> None:
        frame = {"way": "pad", "shape": "1:1", "fill": "#cc3333"}
        for color, format in (({"profile": "display-p3"}, "png"), ({"profile": "display-p3", "bits": 16}, "tiff")):
            made = self.one(WIDE, frame=frame, color=color, file={"format": format})
            assert made.path is not None
            facts = read_facts(made.path)
            from tray_core.pixels.color import to_8, to_srgb

            picture = decode(facts, made.path.read_bytes(), (300, 300))
            np.testing.assert_allclose(to_8(to_srgb(picture)).pixels[3, 3], (0xCC, 0x33, 0x33), atol=1)
        grey = self.one(WIDE, frame=frame, color={"profile": "grey"}, file={"format": "png"})
        self.assertEqual(np.asarray(Image.open(grey.path or "")).shape, (300, 300))

    def test_palettes(self) -> None:
        picture = Picture(scene(90, 60), "RGB", False, None)
        for data in (
            encode(picture, PngFile(format="png", colors=16)),
            encode(picture, GifFile(format="gif", colors=16)),
        ):
            colors = Image.open(io.BytesIO(data)).convert("RGB").getcolors(300)
            self.assertLessEqual(len(colors or []), 16)

    def test_a_palette_of_a_large_noisy_picture_is_found_soon(self) -> None:
        """A search for the best palette over all of its pixels took minutes once."""
        noise = np.random.default_rng(4).integers(0, 256, (1000, 1500, 3)).astype(np.uint8)
        start = time.process_time()
        data = encode(Picture(noise, "RGB", False, None), PngFile(format="png", colors=256, effort=1))
        self.assertLess(time.process_time() - start, 30)
        self.assertEqual(read_facts("noise.png", data=data).mode, "palette")


class Corrections(FilesCase):
    def test_each_alone_and_together(self) -> None:
        ramp = np.tile(np.linspace(60, 170, 200), (50, 1))
        pixels = np.stack([ramp * 1.12, ramp, ramp * 0.86], -1).astype(np.uint8)
        picture = Picture(pixels, "RGB", False, None)

        def spread(prep: Prep) -> tuple[float, float, float, float]:
            made = correct(picture, prep).pixels / 65535 if prep.corrects else pixels / 255
            cast = float(made[..., 0].mean() - made[..., 2].mean())
            luminance = made @ np.array([0.2126, 0.7152, 0.0722])
            return float(luminance.min()), float(luminance.max()), float(luminance.std()), cast

        before = spread(Prep())
        low, high, _, cast = spread(Prep(levels=True))
        self.assertLess(low, 0.02)
        self.assertGreater(high, 0.95)  # red clips first: luminance stops a little below
        self.assertGreater(cast, before[3])  # levels alone leave the cast
        self.assertLess(abs(spread(Prep(balance=True))[3]), before[3] / 4)
        self.assertGreater(spread(Prep(contrast=True))[2], before[2] * 1.1)
        self.assertEqual(correct(picture, Prep()).pixels.dtype, np.uint8)
        together = Prep(levels=True, contrast=True, balance=True)
        self.assertLess(abs(spread(together)[3]), 0.06)

    def test_curves_rise_and_clip_the_share_that_is_given(self) -> None:
        random = np.random.default_rng(5)
        grey = np.clip(random.normal(120, 20, (400, 400)), 0, 255).astype(np.uint8)
        picture = Picture(grey, "grey", False, None)
        for dark, light in ((0, 0), (1, 0.5), (5, 5)):
            prep = Prep(levels=True, clip_dark=dark, clip_light=light)
            curves = correction_curves(picture, prep)
            self.assertTrue((np.diff(curves, axis=1) >= 0).all())
            made = correct(picture, prep).pixels
            self.assertLessEqual(float((made == 0).mean()) * 100, dark + 1.5)
            self.assertLessEqual(float((made == 65535).mean()) * 100, light + 1.5)

    def test_the_same_photo_gets_the_same_curves_at_any_size(self) -> None:
        prep = {"levels": True, "contrast": True, "balance": True}
        large, small = (
            np.asarray(
                Image.open(self.one(WIDE, prep=prep, size=size, sharpen=None, file={"format": "png"}).path or "")
            )
            for size in ({"by": "width", "pixels": 900}, {"by": "width", "pixels": 300})
        )
        halved = np.asarray(Image.fromarray(large).resize((small.shape[1], small.shape[0]), Image.Resampling.LANCZOS))
        self.assertLess(np.abs(halved.astype(int) - small).mean(), 1)


class SameInputSameBytes(FilesCase):
    def test_alone_or_beside_others(self) -> None:
        """A large photo: renditions that need all of it are made beside small ones, which do not change by it."""
        path = PHOTOS / "autumn-rehang" / "2031-10-15_03_gallery-wall-panorama.jpg"
        small = recipe("Small", size={"by": "width", "pixels": 640})
        middle = recipe("Middle", size={"by": "width", "pixels": 2000})
        large = recipe("Large", size={"by": "width", "pixels": 5000})
        linear = recipe("Linear", size={"by": "width", "pixels": 640, "light": "linear"})
        together = {each.plan.recipe.title: each for each in self.make(path, large, linear, middle, small)}
        for each in (small, middle, large, linear):
            (alone,) = self.make(path, each)
            assert alone.receipt is not None
            other = together[each.title].receipt
            assert other is not None
            self.assertEqual(alone.receipt.sha256, other.sha256, each.title)

    def test_a_strength_of_its_own_changes_one_photo(self) -> None:
        facts = read_facts(WIDE)
        (plain,) = plan_renditions(facts, recipe(size=SMALL), 1, None)
        (own,) = plan_renditions(facts, recipe(size=SMALL), 1, None, strength=0)
        (wanted,) = plan_renditions(facts, recipe(size=SMALL, sharpen=None), 1, None)
        made = [
            next(iter(make_renditions(WIDE, [type(p)(**{**_fields(p), "name": f"{i}.jpg"})], [self.folder])))
            for i, p in enumerate((plain, own, wanted))
        ]
        digests = [each.receipt.sha256 for each in made if each.receipt]
        self.assertEqual(digests[1], digests[2])
        self.assertNotEqual(digests[0], digests[1])
        self.assertEqual(facts.profile, "Display P3")
        self.assertIsNotNone(NAMED["display-p3"])
