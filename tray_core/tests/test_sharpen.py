"""Sharpening against a reference in double precision that is written out here."""

from __future__ import annotations

import unittest

import numpy as np
from numpy.typing import NDArray

from tray_core.line.sharpen import AMOUNT_AT_100, radius_for, sharpen
from tray_core.pixels.picture import Picture
from tray_core.recipe.stations import Sharpen
from tray_core.tests.samples import scene as _scene


def scene(width: int, height: int) -> NDArray[np.uint8]:
    """A scene with noise enough to be sharpened visibly."""
    noise = np.random.default_rng(7).normal(0, 12, (height, width, 1))
    return np.clip(_scene(width, height) + noise, 0, 255).astype(np.uint8)


def reference(pixels: NDArray[np.uint8], strength: int) -> NDArray[np.float64]:
    """The stated method, slowly: a Gaussian cut at three pixels, edges repeated, no clipping of steps."""
    values = pixels.astype(np.float64)
    luminance = values @ np.array([0.2126, 0.7152, 0.0722])
    sigma = radius_for(pixels.shape[1], pixels.shape[0])
    taps = np.exp(-0.5 * (np.arange(-3, 4) / sigma) ** 2)
    taps /= taps.sum()
    padded = np.pad(luminance, 3, mode="edge")
    rows = sum(tap * padded[i : i + luminance.shape[0]] for i, tap in enumerate(taps))
    blurred = sum(tap * rows[:, i : i + luminance.shape[1]] for i, tap in enumerate(taps))
    change = AMOUNT_AT_100 * strength / 100 * (luminance - blurred)
    return np.asarray(np.clip(values + change[..., None], 0, 255))


class AgainstReference(unittest.TestCase):
    def test_within_50_db_over_strips_and_strengths(self) -> None:
        pixels = scene(333, 517)
        for strength in (25, 100, 200):
            made = sharpen(Picture(pixels, "RGB", False, None), Sharpen(strength=strength)).pixels
            error = np.mean((made.astype(np.float64) - reference(pixels, strength)) ** 2)
            self.assertGreaterEqual(10 * np.log10(255**2 / error), 50)
            self.assertGreater(np.abs(made.astype(int) - pixels).max(), 3, "nothing was sharpened")

    def test_strength_0_is_the_picture_itself(self) -> None:
        picture = Picture(scene(40, 30), "RGB", False, None)
        self.assertIs(sharpen(picture, Sharpen(strength=0)), picture)

    def test_16_bits_and_8_bits_agree(self) -> None:
        pixels = scene(90, 70)
        wide = sharpen(Picture(pixels.astype(np.uint16) * 257, "RGB", False, None), Sharpen(strength=100)).pixels
        made = sharpen(Picture(pixels, "RGB", False, None), Sharpen(strength=100)).pixels
        self.assertLessEqual(np.abs(wide / 257 - made).max(), 0.51)

    def test_flat_and_grey_and_alpha(self) -> None:
        flat = np.full((30, 40, 3), 77, np.uint8)
        np.testing.assert_array_equal(sharpen(Picture(flat, "RGB", False, None), Sharpen(strength=200)).pixels, flat)
        grey = scene(40, 30)[..., 0]
        self.assertEqual(sharpen(Picture(grey, "grey", False, None), Sharpen(strength=100)).pixels.shape, grey.shape)
        clear = np.dstack([scene(40, 30), np.arange(1200, dtype=np.uint8).reshape(30, 40)])
        made = sharpen(Picture(clear, "RGB", True, None), Sharpen(strength=100)).pixels
        np.testing.assert_array_equal(made[..., 3], clear[..., 3])
