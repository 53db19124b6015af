"""Color in numbers: ΔE2000 against littleCMS in floating point, five pairs of profiles, 8 and 16 bits."""

from __future__ import annotations

import os
import unittest
from pathlib import Path
from unittest import mock

import imagecodecs
import numpy as np
from numpy.typing import NDArray

from tray_core.errors import RecipeError
from tray_core.photo.profile_files import FOLDERS, NAMED, profile_file, profile_files
from tray_core.photo.profiles import SRGB, profile_name, read_profile
from tray_core.pixels.color import Target, beyond_gamut, convert, to_8, to_16
from tray_core.pixels.picture import Picture
from tray_core.recipe import check_recipe
from tray_core.recipe.profile import check_profile
from tray_core.recipe.reading import RecipeProblems
from tray_core.tests.samples import DEMO, FolderCase, recipe

PROFILES = DEMO / "profiles"
INKS = (PROFILES / "chemical-proof-CMYK.icc").read_bytes()
REC2020 = (PROFILES / "Quillmarsh-Rec2020-g22.icc").read_bytes()
_SPACES = {"RGB": "rgb", "CMYK": "cmyk", "grey": "gray"}
_D50 = np.array([0.9642, 1.0, 0.8249])


def lab_of(values: NDArray[np.float64], icc: bytes) -> NDArray[np.float64]:
    """CIE Lab under D50 of values on [0, 1]; inks by way of littleCMS in floating point."""
    facts = read_profile(icc)
    assert facts is not None
    if facts.colorants is None:
        values = transformed(values, icc, "CMYK", SRGB, "RGB", 1, 0)
        facts, icc = read_profile(SRGB), SRGB
    assert facts is not None and facts.colorants is not None
    if icc == REC2020:
        linear = values**2.2
    elif "Adobe" in facts.description:
        linear = values ** (563 / 256)
    else:
        linear = np.where(values <= 0.04045, values / 12.92, ((np.maximum(values, 0) + 0.055) / 1.055) ** 2.4)
    ratio = (linear @ facts.colorants.T) / _D50
    f = np.where(ratio > 216 / 24389, np.cbrt(ratio), (24389 / 27 * ratio + 16) / 116)
    return np.stack([116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], -1)


def transformed(
    values: NDArray[np.float64], source: bytes, space: str, target: bytes, to: str, intent: int, flags: int
) -> NDArray[np.float64]:
    """littleCMS in double precision; inks of floating point are per cent there."""
    scale = 100 if space == "CMYK" else 1
    made = imagecodecs.cms_transform(
        np.ascontiguousarray(values * scale),
        source,
        target,
        colorspace=_SPACES[space],
        outcolorspace=_SPACES[to],
        outdtype="float64",
        intent=intent,
        flags=flags | 0x0100,
    )
    return np.clip(made / (100 if to == "CMYK" else 1), 0, 1)


def delta_e_2000(one: NDArray[np.float64], other: NDArray[np.float64]) -> NDArray[np.float64]:
    """CIEDE2000 (Sharma, Wu and Dalal, 2005), its formulas in their order."""
    (l1, a1, b1), (l2, a2, b2) = np.moveaxis(one, -1, 0), np.moveaxis(other, -1, 0)
    mean = (np.hypot(a1, b1) + np.hypot(a2, b2)) / 2
    g = 0.5 * (1 - np.sqrt(mean**7 / (mean**7 + 25.0**7)))
    a1, a2 = (1 + g) * a1, (1 + g) * a2
    c1, c2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1, h2 = np.degrees(np.arctan2(b1, a1)) % 360, np.degrees(np.arctan2(b2, a2)) % 360
    turn = h2 - h1
    turn = np.where(c1 * c2 == 0, 0, np.where(turn > 180, turn - 360, np.where(turn < -180, turn + 360, turn)))
    dl, dc, dh = l2 - l1, c2 - c1, 2 * np.sqrt(c1 * c2) * np.sin(np.radians(turn) / 2)
    lm, cm = (l1 + l2) / 2, (c1 + c2) / 2
    total = h1 + h2
    hm = np.where(np.abs(h1 - h2) <= 180, total / 2, np.where(total < 360, (total + 360) / 2, (total - 360) / 2))
    hm = np.where(c1 * c2 == 0, total, hm)
    t = 1 - 0.17 * np.cos(np.radians(hm - 30)) + 0.24 * np.cos(np.radians(2 * hm))
    t += 0.32 * np.cos(np.radians(3 * hm + 6)) - 0.2 * np.cos(np.radians(4 * hm - 63))
    rotation = 2 * np.sqrt(cm**7 / (cm**7 + 25.0**7)) * np.sin(np.radians(60 * np.exp(-(((hm - 275) / 25) ** 2))))
    sl = 1 + 0.015 * (lm - 50) ** 2 / np.sqrt(20 + (lm - 50) ** 2)
    sc, sh = 1 + 0.045 * cm, 1 + 0.015 * cm * t
    return np.asarray(np.sqrt((dl / sl) ** 2 + (dc / sc) ** 2 + (dh / sh) ** 2 - rotation * (dc / sc) * (dh / sh)))


class AgainstLittleCms(unittest.TestCase):
    def test_delta_e_of_published_pairs(self) -> None:
        """From the test data of Sharma, Wu and Dalal."""
        for one, other, wanted in (
            ((50, 2.6772, -79.7751), (50, 0, -82.7485), 2.0425),
            ((50, -1, 2), (50, 0, 0), 2.3669),
            ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
            ((2.0776, 0.0795, -1.135), (0.9033, -0.0636, -0.5514), 0.9082),
        ):
            found = delta_e_2000(np.array(one, float), np.array(other, float))
            self.assertAlmostEqual(float(found), wanted, places=4)

    def test_five_pairs_8_and_16_bits(self) -> None:
        random = np.random.default_rng(11)
        wide = (NAMED["display-p3"], NAMED["adobe-rgb"])
        pairs = [(wide[0], "RGB", SRGB, "RGB"), (wide[1], "RGB", SRGB, "RGB"), (REC2020, "RGB", wide[0], "RGB")]
        pairs += [(INKS, "CMYK", SRGB, "RGB"), (wide[1], "RGB", INKS, "CMYK")]
        for source, space, target, to in pairs:
            channels = 4 if space == "CMYK" else 3
            eight = random.integers(0, 256, (160, 160, channels)).astype(np.uint8)
            for pixels in (eight, random.integers(0, 65536, (160, 160, channels)).astype(np.uint16)):
                most = np.iinfo(pixels.dtype).max
                exact = transformed(pixels / most, source, space, target, to, 1, 0x2000)
                made = convert(Picture(pixels, space, False, source), Target(target, to))
                found = (to_8(made) if most == 255 else to_16(made)).pixels / most
                error = delta_e_2000(lab_of(found, target), lab_of(exact, target))
                with self.subTest(profile_name(source), to=profile_name(target), most=most):
                    self.assertLess(error.mean(), 0.5)
                    self.assertLess(np.quantile(error, 0.99), 1.5)

    def test_intents_and_grey(self) -> None:
        pixels = np.random.default_rng(3).integers(0, 65536, (40, 40, 3)).astype(np.uint16)
        made = {}
        for name, number in (("perceptual", 0), ("relative", 1), ("saturation", 2), ("absolute", 3)):
            target = Target(INKS, "CMYK", name, black_point=False)
            made[name] = convert(Picture(pixels, "RGB", False, SRGB), target).pixels
            exact = transformed(pixels / 65535, SRGB, "RGB", INKS, "CMYK", number, 0)
            self.assertLess(np.abs(made[name] / 65535 - exact).mean(), 0.002)
        self.assertGreater(np.abs(made["absolute"].astype(int) - made["relative"]).mean(), 100)
        grey = convert(Picture(pixels, "RGB", False, SRGB), Target(NAMED["grey"], "grey"))
        self.assertEqual((grey.space, grey.pixels.shape), ("grey", (40, 40)))
        lightness = lab_of(np.repeat(grey.pixels[..., None] / 65535, 3, 2), SRGB)[..., 0]
        self.assertLess(np.abs(lightness - lab_of(pixels / 65535, SRGB)[..., 0]).max(), 0.1)

    def test_colors_beyond_the_gamut_are_found(self) -> None:
        pixels = np.zeros((2, 3, 3), np.uint8)
        pixels[0] = (255, 0, 0), (128, 128, 128), (200, 10, 10)
        mask = beyond_gamut(Picture(pixels, "RGB", False, NAMED["display-p3"]), Target(SRGB))
        np.testing.assert_array_equal(mask[0], (255, 0, 255))
        self.assertEqual(beyond_gamut(Picture(pixels, "RGB", False, None), Target(SRGB)).max(), 0)
        inks = beyond_gamut(Picture(pixels, "RGB", False, NAMED["adobe-rgb"]), Target(INKS, "CMYK"))
        self.assertEqual((inks[0, 0], inks[0, 1]), (255, 0))


class Files(FolderCase):
    def test_own_files_are_found_by_name_and_bad_ones_are_told(self) -> None:
        self.write("press.icc", INKS)
        self.write("broken.icc", INKS[:200])
        with mock.patch.dict(os.environ, {FOLDERS: str(self.folder)}):
            self.assertIn("press.icc", profile_files())
            self.assertEqual(profile_file("press.icc"), INKS)
            with self.assertRaisesRegex(RecipeError, "one that is cut short"):
                profile_file("broken.icc")
            with self.assertRaisesRegex(RecipeError, "none of that name"):
                profile_file("../press.icc")
            press = {"profile": "icc", "icc": "press.icc"}
            check_profile(recipe(color=press, file={"format": "tiff"}))
            with self.assertRaisesRegex(RecipeProblems, "WEBP holds no inks"):
                check_profile(recipe(color=press, file={"format": "webp"}))

    def test_shipped_profiles_are_licensed(self) -> None:
        folder = Path(__file__).parents[1] / "profiles"
        licenses = (folder / "LICENSES.txt").read_text()
        for path in folder.glob("*.icc"):
            self.assertIn(path.name, licenses)
            self.assertIsNotNone(read_profile(path.read_bytes()))

    def test_contradictions_name_their_field(self) -> None:
        plain = recipe().to_json()
        for change, field in (
            ({"color": {"profile": "icc"}}, "color.icc"),
            ({"color": {"profile": "srgb", "icc": "a.icc"}}, "color.icc"),
            ({"color": {"profile": "srgb", "bits": 16}}, "color.bits"),
            ({"file": {"format": "jpeg", "under_kb": 9, "looks": 80}}, "file.looks"),
            ({"file": {"format": "jpeg", "quality": 80, "lowest": 30}}, "file.lowest"),
            ({"file": {"format": "webp", "lossless": True, "under_kb": 30}}, "file.under_kb"),
            ({"file": {"format": "jpeg", "coder": "thorough", "chroma": "422"}}, "file.chroma"),
            ({"parts": {"prep": "Soft scans"}}, "parts.prep"),
        ):
            with self.subTest(field), self.assertRaises(RecipeProblems) as caught:
                check_recipe(plain | change)
            self.assertEqual(caught.exception.problems[0].subject, field)
