"""Color conversion against matrices and curves in double precision, and against the CMYK profile's own tables."""

from __future__ import annotations

import io
import unittest

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms

from tray_core.errors import LineError
from tray_core.photo.profile_files import NAMED
from tray_core.photo.profiles import SRGB, profile_name, read_profile, same_color
from tray_core.pixels.color import Target, convert, flatten, needs_conversion, through_tables, to_8, to_16, to_srgb
from tray_core.pixels.picture import Picture
from tray_core.tests.samples import DEMO

PROFILES = DEMO / "profiles"
GAMMAS = {"Quillmarsh-AdobeRGB-compatible.icc": 2.19921875, "Quillmarsh-Rec2020-g22.icc": 2.2}


def srgb_from_linear(linear: NDArray[np.float64]) -> NDArray[np.float64]:
    linear = np.clip(linear, 0, 1)
    return np.where(linear <= 0.0031308, 12.92 * linear, 1.055 * linear ** (1 / 2.4) - 0.055)


def linear_from_srgb(values: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.where(values <= 0.04045, values / 12.92, ((values + 0.055) / 1.055) ** 2.4)


def reference(values: NDArray[np.float64], name: str, icc: bytes) -> NDArray[np.float64]:
    source, target = read_profile(icc), read_profile(SRGB)
    assert source is not None and target is not None
    assert source.colorants is not None and target.colorants is not None
    linear = values ** GAMMAS[name] if name in GAMMAS else linear_from_srgb(values)
    return srgb_from_linear(linear @ (np.linalg.inv(target.colorants) @ source.colorants).T)


class Conversion(unittest.TestCase):
    def test_wide_gamuts_to_half_a_level(self) -> None:
        random = np.random.default_rng(4)
        pixels = random.integers(0, 65536, (200, 200, 3)).astype(np.uint16)
        for name in ("Quillmarsh-P3-D65.icc", *GAMMAS):
            icc = (PROFILES / name).read_bytes()
            made = to_srgb(Picture(pixels, "RGB", False, icc)).pixels / 65535
            error = np.abs(made - reference(pixels / 65535, name, icc)) * 255
            with self.subTest(name):
                self.assertLess(error.mean(), 0.05)
                self.assertLess(np.quantile(error, 0.999), 0.5)

    def test_the_darks_of_a_plain_gamma_to_a_twentieth_of_a_level(self) -> None:
        """sRGB to a space whose curve is infinitely steep at black: every dark grey and all mixtures of a few."""
        steps = np.arange(4000).astype(np.uint16)
        greys = np.repeat(steps[:, None], 3, 1)[None]
        random = np.random.default_rng(1).integers(0, 3000, (100, 100, 3)).astype(np.uint16)
        icc = NAMED["adobe-rgb"]
        source, target = read_profile(SRGB), read_profile(icc)
        assert source is not None and target is not None
        assert source.colorants is not None and target.colorants is not None
        matrix = np.linalg.inv(target.colorants) @ source.colorants
        for values in (greys, random):
            made = convert(Picture(values, "RGB", False, SRGB), Target(icc)).pixels / 65535
            wanted = np.clip(linear_from_srgb(values / 65535) @ matrix.T, 0, 1) ** (256 / 563)
            self.assertLess(np.abs(made - wanted).max() * 255, 0.05)

    def test_cmyk_like_a_whole_picture_converter(self) -> None:
        path = DEMO / "photos" / "mixed" / "tower-for-print_CMYK.tif"
        with Image.open(path) as image:
            image.load()
            small = image.crop((200, 900, 700, 1400))
            icc = image.info["icc_profile"]
        whole = ImageCms.profileToProfile(
            small,
            ImageCms.ImageCmsProfile(io.BytesIO(icc)),
            ImageCms.ImageCmsProfile(io.BytesIO(SRGB)),
            renderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC,
            outputMode="RGB",
            flags=ImageCms.Flags.BLACKPOINTCOMPENSATION | ImageCms.Flags.NOOPTIMIZE,
        )
        made = to_8(to_srgb(Picture(np.asarray(small), "CMYK", False, icc))).pixels
        assert whole is not None
        error = np.abs(made.astype(int) - np.asarray(whole).astype(int))
        self.assertLess(error.mean(), 0.1)
        self.assertLessEqual(error.max(), 1)

    def test_equal_profiles_convert_nothing(self) -> None:
        pixels = np.zeros((4, 4, 3), np.uint8)
        self.assertFalse(needs_conversion(Picture(pixels, "RGB", False, SRGB)))
        self.assertFalse(needs_conversion(Picture(pixels, "RGB", False, None)))
        self.assertTrue(same_color(SRGB, ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()))
        self.assertFalse(same_color(SRGB, (PROFILES / "Quillmarsh-P3-D65.icc").read_bytes()))

    def test_profile_of_another_space_is_refused(self) -> None:
        icc = (PROFILES / "chemical-proof-CMYK.icc").read_bytes()
        with self.assertRaisesRegex(LineError, "a profile for RGB values, found one for CMYK values"):
            to_srgb(Picture(np.zeros((4, 4, 3), np.uint8), "RGB", False, icc))
        with self.assertRaisesRegex(LineError, "found something else"):
            to_srgb(Picture(np.zeros((4, 4, 3), np.uint8), "RGB", False, b"nonsense"))

    def test_inks_without_a_profile_are_taken_for_a_print(self) -> None:
        inks = np.array([[[0, 0, 0, 0], [0, 0, 0, 255], [0, 255, 255, 0]]], np.uint8)
        paper, black, red = to_8(to_srgb(Picture(inks, "CMYK", False, None))).pixels[0].astype(int)
        self.assertGreater(paper.min(), 250)
        self.assertLess(black.max(), 70)
        self.assertTrue(red[0] > 180 and red[1] < 80 and red[2] < 80, red)

    def test_names(self) -> None:
        named = {path.stem: profile_name(path.read_bytes()) for path in PROFILES.glob("*.icc")}
        self.assertEqual(named["Quillmarsh-sRGB-compatible"], "sRGB")
        self.assertEqual(named["Quillmarsh-P3-D65"], "Display P3")
        self.assertEqual(named["Quillmarsh-AdobeRGB-compatible"], "Adobe-RGB-compatible")
        self.assertEqual(named["chemical-proof-CMYK"], "Chemical proof")
        self.assertEqual(profile_name(b"nonsense"), "not an ICC profile")
        self.assertEqual(profile_name(SRGB[:200]), "damaged profile")


class Depth(unittest.TestCase):
    def test_8_to_16_and_back_for_every_value(self) -> None:
        every = np.arange(256, dtype=np.uint8).reshape(16, 16)
        picture = Picture(every, "grey", False, None)
        np.testing.assert_array_equal(to_8(to_16(picture)).pixels, every)
        wide = np.arange(65536, dtype=np.uint16).reshape(256, 256)
        made = to_8(Picture(wide, "grey", False, None)).pixels
        np.testing.assert_array_equal(made, np.floor(wide / 257 + 0.5).astype(np.uint8))

    def test_dithered_ramps_keep_their_mean_and_change_by_less_than_a_level(self) -> None:
        """Each level of a slow ramp becomes a mixture of its neighbors in the right shares; alpha is only rounded."""
        ramp = np.tile(np.linspace(20_000, 22_000, 400).astype(np.uint16), (300, 1))
        picture = Picture(np.dstack([ramp, ramp, ramp, ramp]), "RGB", True, None)
        made = to_8(picture, dither=True).pixels
        self.assertLess(np.abs(made[..., :3] - ramp[..., None] / 257).max(), 1)
        means = made[..., 1].reshape(300, 40, 10).mean(axis=(0, 2))
        np.testing.assert_allclose(means, ramp.reshape(300, 40, 10).mean(axis=(0, 2)) / 257, atol=0.03)
        np.testing.assert_array_equal(made[..., 3], np.rint(ramp / 257))
        np.testing.assert_array_equal(made, to_8(picture, dither=True).pixels)
        white = Picture(np.full((9, 9), 65535, np.uint16), "grey", False, None)
        self.assertEqual(to_8(white, dither=True).pixels.min(), 255)

    def test_tables_are_looked_up_by_channel_at_8_and_16_bits(self) -> None:
        random = np.random.default_rng(3)
        tables = random.integers(0, 65535, (3, 65536), np.uint16)
        for dtype, step in ((np.uint8, 257), (np.uint16, 1)):
            pixels = random.integers(0, np.iinfo(dtype).max, (7, 5, 4), dtype, endpoint=True)
            at = pixels.astype(np.int64) * step
            made = through_tables(Picture(pixels, "RGB", True, None), tables).pixels
            for channel in range(3):
                np.testing.assert_array_equal(made[..., channel], tables[channel, at[..., channel]])
            np.testing.assert_array_equal(made[..., 3], at[..., 3])
            grey = through_tables(Picture(pixels[..., 0], "grey", False, None), tables).pixels
            np.testing.assert_array_equal(grey, tables[1, at[..., 0]])

    def test_flatten_on_white(self) -> None:
        pixels = np.array([[[10, 20, 30, 0], [10, 20, 30, 255], [0, 0, 0, 128]]], np.uint8)
        made = flatten(Picture(pixels, "RGB", True, None)).pixels
        np.testing.assert_array_equal(made, [[[255, 255, 255], [10, 20, 30], [127, 127, 127]]])
