"""Sharpening against a reference in double precision that is written out here."""

from __future__ import annotations

import unittest
from typing import Any

import cv2
import numpy as np
from hypothesis import given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from tray_core.line.sharpen import AMOUNT_AT_100, guard_for, guard_mask, overshoot, radius_for, sharpen, sharpen_first
from tray_core.pixels.picture import Picture
from tray_core.recipe.stations import FirstSharpen, Sharpen
from tray_core.tests.samples import scene as _scene

WEIGHTS = np.array([0.2225, 0.7169, 0.0606])
"""The luminance of sRGB's primaries in the profile connection space, whose white is D50 (ICC.1:2022, annex F)."""


def scene(width: int, height: int) -> NDArray[np.uint8]:
    """A scene with noise enough to be sharpened visibly."""
    noise = np.random.default_rng(7).normal(0, 12, (height, width, 1))
    return np.clip(_scene(width, height) + noise, 0, 255).astype(np.uint8)


def reference(pixels: NDArray[np.uint8], strength: int) -> NDArray[np.float64]:
    """The stated method, slowly: a Gaussian cut at three pixels, edges repeated, no clipping of steps."""
    values = pixels.astype(np.float64)
    luminance = values @ WEIGHTS
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


class Methods(unittest.TestCase):
    """Every option against the same formulas in double precision."""

    def reference(self, pixels: NDArray[np.uint8], station: Sharpen) -> NDArray[np.float64]:
        values = pixels.astype(np.float64)
        luminance = values @ WEIGHTS
        sigma = station.radius or radius_for(pixels.shape[1], pixels.shape[0])
        reach = max(3, int(4 * sigma + 0.5))
        taps = np.exp(-0.5 * (np.arange(-reach, reach + 1) / sigma) ** 2)
        taps /= taps.sum()
        detail = luminance - _convolved(luminance, taps)
        detail = np.sign(detail) * np.maximum(np.abs(detail) - station.threshold, 0)
        change = AMOUNT_AT_100 * station.strength / 100 * detail
        if station.method == "highpass":
            change *= 2 * np.minimum(luminance, 255 - luminance) / 255
        if station.guard:
            box = np.full(7, 1 / 7)
            centered = luminance - _convolved(luminance, box)
            spread = np.sqrt(_convolved(centered**2, box))
            assert station.guard != "auto"
            step = np.clip(spread / (station.guard / 2) - 1, 0, 1)
            change *= step * step * (3 - 2 * step)
        return np.asarray(np.clip(values + change[..., None], 0, 255))

    def test_all_within_50_db(self) -> None:
        pixels = scene(301, 283)
        pixels[:, :120] = (_scene(120, 283, seed=4) // 8) + 90  # an area that is nearly flat
        for more in (
            {"method": "highpass"},
            {"radius": 1.6},
            {"threshold": 3},
            {"guard": 9},
            {"method": "highpass", "radius": 2.5, "threshold": 2, "guard": 6},
        ):
            station = Sharpen(strength=150, **more)  # type: ignore[arg-type]
            wanted = self.reference(pixels, station)
            for wide in (False, True):
                source = pixels.astype(np.uint16) * np.uint16(257) if wide else pixels
                made = sharpen(Picture(source, "RGB", False, None), station).pixels / (257 if wide else 1)
                error = np.mean((made - wanted) ** 2)
                with self.subTest(str(more), wide=wide):
                    self.assertGreaterEqual(10 * np.log10(255**2 / error), 50)
                    self.assertGreater(np.abs(made - pixels).max(), 3, "nothing was sharpened")

    @hypothesis_settings(max_examples=80)
    @given(
        st.tuples(st.integers(1, 40), st.integers(1, 40)),
        st.sampled_from([(1, False), (3, False), (4, False), (1, True), (3, True), (4, True)]),
        st.fixed_dictionaries(
            {
                "strength": st.integers(1, 200),
                "method": st.sampled_from(["unsharp", "highpass"]),
                "radius": st.sampled_from([None, 0.3, 0.9, 2.2, 4.0]),
                "threshold": st.sampled_from([0, 4]),
                "guard": st.sampled_from([0, 8]),
            }
        ),
        st.integers(0, 9),
    )
    def test_every_kind_and_size_of_picture(
        self, size: tuple[int, int], kind: tuple[int, bool], station: dict[str, Any], seed: int
    ) -> None:
        """Down to single pixels; grey, color, with alpha, at 8 and 16 bits, arrays that may not be written."""
        channels, wide = kind
        pixels = np.random.default_rng(seed).integers(0, 255, (*size, channels), np.uint8, endpoint=True)
        source = pixels.astype(np.uint16) * np.uint16(257) if wide else pixels
        source.flags.writeable = False
        shape = "grey" if channels == 1 else "RGB"
        picture = Picture(source if channels > 1 else source[..., 0], shape, channels == 4, None)
        made = sharpen(picture, Sharpen(**station)).pixels.reshape(source.shape)
        color = np.repeat(pixels, 3, 2) if channels == 1 else pixels[..., :3]
        wanted = self.reference(color, Sharpen(**station))
        off = np.abs(made[..., : min(3, channels)] / (257 if wide else 1) - wanted[..., : min(3, channels)])
        # Half a level of rounding; the weights of luminance have four digits here.
        self.assertLessEqual(off.max(), 0.02 if wide else 0.52)
        if channels == 4:
            np.testing.assert_array_equal(made[..., 3], source[..., 3])

    def test_the_automatic_guard_keeps_skies_of_any_noise_and_no_texture(self) -> None:
        random = np.random.default_rng(8)
        y, _ = np.mgrid[0:600, 0:800]
        texture = random.normal(128, 30, (600, 800))
        for noise in (0.5, 1, 2, 3, 4, 5):
            sky = 90 + y * 0.1 + random.normal(0, noise, (600, 800))
            pixels = np.clip(np.where(y < 200, sky, texture), 0, 255).astype(np.uint8)
            picture = Picture(np.repeat(pixels[..., None], 3, 2), "RGB", False, None)
            station = Sharpen(strength=100, guard="auto")
            change = sharpen(picture, station).pixels[..., 0].astype(float) - pixels
            with self.subTest(noise=noise, guard=guard_for(picture, station)):
                self.assertLess(change[10:190, 10:-10].std(), 0.25)
                self.assertGreater(change[210:].std(), 5)
        self.assertEqual(guard_for(picture, Sharpen(strength=100, guard=7)), 7)
        white = Picture(np.full((300, 300, 3), 255, np.uint8), "RGB", False, None)
        self.assertEqual(guard_for(white, station), 2)

    def test_the_overshoot_on_an_edge_is_told_in_levels(self) -> None:
        edge = np.full((400, 400), 60, np.uint8)
        edge[:, 200:] = 180
        soft = cv2.GaussianBlur(edge, (0, 0), 0.8)
        picture = Picture(soft, "grey", False, None)
        told = [overshoot(picture, sharpen(picture, Sharpen(strength=each, radius=0.7))) for each in (0, 50, 100, 200)]
        self.assertEqual(told[0], 0)
        self.assertEqual(told, sorted(told))
        made = sharpen(picture, Sharpen(strength=200, radius=0.7)).pixels.astype(int)
        self.assertAlmostEqual(told[-1], max(made.max() - 180, 60 - made.min()), delta=1)

    def test_guarded_areas_change_by_at_most_a_level(self) -> None:
        """Skies with grain and a slow ramp stay clean while the edge beside them is sharpened."""
        random = np.random.default_rng(2)
        grey = np.tile(np.linspace(100, 130, 400), (200, 1)) + random.normal(0, 1.2, (200, 400))
        grey[:, 300:] -= 90
        pixels = np.repeat(np.clip(grey, 0, 255).astype(np.uint8)[..., None], 3, 2)
        picture = Picture(pixels, "RGB", False, None)
        made = sharpen(picture, Sharpen(strength=200, guard=6)).pixels.astype(int) - pixels
        self.assertLessEqual(np.abs(made[:, :280]).max(), 1)
        self.assertGreater(np.abs(made[:, 290:310]).max(), 20)
        mask = guard_mask(picture, 6)
        self.assertEqual(mask.shape, (200, 400))
        self.assertEqual((mask[:, :280].max(), mask[:, 298:302].min()), (0, 255))
        self.assertEqual(guard_mask(picture, 0).min(), 255)

    def test_a_strength_of_its_own_and_first_sharpening(self) -> None:
        picture = Picture(scene(120, 90), "RGB", False, None)
        own = sharpen(picture, Sharpen(strength=40), strength=150).pixels
        np.testing.assert_array_equal(own, sharpen(picture, Sharpen(strength=150)).pixels)
        self.assertIs(sharpen(picture, Sharpen(strength=40), strength=0), picture)
        first = sharpen_first(picture, FirstSharpen(amount=90, radius=1.0, guard=0)).pixels
        np.testing.assert_array_equal(first, sharpen(picture, Sharpen(strength=100, radius=1.0)).pixels)
        self.assertIs(sharpen_first(picture, FirstSharpen(radius=1.0), scale=0.1), picture)


def _convolved(values: NDArray[np.float64], taps: NDArray[np.float64]) -> NDArray[np.float64]:
    reach = len(taps) // 2
    padded = np.pad(values, reach, mode="edge")
    rows = sum(tap * padded[i : i + values.shape[0]] for i, tap in enumerate(taps))
    return np.asarray(sum(tap * rows[:, i : i + values.shape[1]] for i, tap in enumerate(taps)))
