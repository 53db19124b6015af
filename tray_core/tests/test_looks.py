"""Close looks: parts of pictures, what changes in them, and hands that may die."""

from __future__ import annotations

import io
import os
import signal
import time
import unittest
from queue import SimpleQueue
from unittest import mock

import numpy as np
from PIL import Image

from tray_core import plan_renditions, read_facts
from tray_core.errors import PhotoError, RecipeError
from tray_core.limits import DEFAULT_LIMITS
from tray_core.looks import (
    Hands,
    as_candidate,
    color_change,
    colored,
    copies_of,
    difference,
    finished_cell,
    hands,
    previews,
    resize_cell,
    shown,
    window,
)
from tray_core.pixels.picture import Picture
from tray_core.tests.samples import PHOTOS, recipe

PHOTO = PHOTOS / "shop-stock" / "QM4_0117.jpg"
MARK = (230, 0, 160)


def end_yourself() -> None:
    os.kill(os.getpid(), signal.SIGKILL)


def rgb(high: int, wide: int, seed: int = 0) -> Picture:
    pixels = np.random.default_rng(seed).integers(0, 256, (high, wide, 3), np.uint8)
    return Picture(pixels, "RGB", False, None)


class Windows(unittest.TestCase):
    def test_always_inside(self) -> None:
        picture = rgb(300, 400)
        chance = np.random.default_rng(1)
        for _ in range(200):
            x, y = (int(each) for each in chance.integers(-600, 600, 2))
            width, height = (int(each) for each in chance.integers(-5, 900, 2))
            part = window(picture, x, y, width, height)
            self.assertEqual(part.size, (max(1, min(width, 400)), max(1, min(height, 300))))
            left = max(0, min(x, 400 - part.size[0]))
            top = max(0, min(y, 300 - part.size[1]))
            same = picture.pixels[top : top + part.size[1], left : left + part.size[0]]
            np.testing.assert_array_equal(part.pixels, same)

    def test_lossless(self) -> None:
        picture = rgb(40, 60)
        np.testing.assert_array_equal(np.asarray(Image.open(io.BytesIO(shown(picture)))), picture.pixels)

    def test_difference_is_four_times_the_change_around_grey(self) -> None:
        one = Picture(np.full((4, 4, 3), 100, np.uint8), "RGB", False, None)
        other = Picture(np.full((4, 4, 3), 110, np.uint8), "RGB", False, None)
        self.assertEqual(set(difference(one, other).pixels.ravel()), {168})

    def test_difference_of_inks_and_of_clear_pictures_is_of_colors(self) -> None:
        """Four channels are no colors with an opacity: the file would show a change of black as one of clearness."""
        inks = Picture(np.full((8, 8, 4), 40, np.uint8), "CMYK", False, None)
        clear = Picture(np.full((8, 8, 4), 40, np.uint8), "RGB", True, None)
        for picture in (inks, clear):
            made = difference(picture, picture)
            self.assertEqual((made.pixels.shape[2], made.space, made.alpha), (3, "RGB", False))
            self.assertEqual(set(made.pixels.ravel()), {128})


class Colors(unittest.TestCase):
    def test_what_is_beyond_is_marked_inside_a_padding_too(self) -> None:
        frame = {"way": "pad", "shape": "2:1"}
        padded = recipe(size={"by": "width", "pixels": 400}, frame=frame, color={"profile": "srgb"})
        found = sorted(path for path in (PHOTOS / "mixed").iterdir() if path.suffix in (".jpg", ".png", ".tif"))
        photo = next(path for path in found if (read_facts(path).profile or "sRGB") != "sRGB")
        plan = plan_renditions(read_facts(photo), padded, 1, None)[-1]
        cell = resize_cell(photo, plan, DEFAULT_LIMITS)
        plain = padded.model_copy(update={"color": None, "sharpen": None})
        before, after = finished_cell(cell, plan, plain), finished_cell(cell, plan, padded)
        change = color_change(read_facts(photo), cell.picture, padded)
        marked = (colored(before, after, padded, "marked").pixels[..., :3] == MARK).all(axis=2)
        self.assertTrue(change.converts)
        self.assertEqual(marked.any(), change.share > 0)
        self.assertFalse(marked[:, :5].any(), "the padding is in every gamut")

    def test_candidates(self) -> None:
        own = recipe(file={"format": "tiff"}, color={"profile": "srgb", "bits": 16})
        for name, format in (("jpeg", "jpeg"), ("thorough", "jpeg"), ("webp", "webp"), ("avif", "avif")):
            other = as_candidate(own, name)
            self.assertEqual((other.file.format, other.color.bits if other.color else 0), (format, 8))
        with self.assertRaises(RecipeError):
            as_candidate(own, "bmp")


class OtherProcess(unittest.TestCase):
    def setUp(self) -> None:
        self.hands = Hands(1)
        self.addCleanup(self.hands.close)

    def test_the_same_pixels_as_here(self) -> None:
        plan = plan_renditions(read_facts(PHOTO), recipe(size={"by": "long-edge", "pixels": 500}), 1, None)[-1]
        there = self.hands.do("a clock", resize_cell, PHOTO, plan, DEFAULT_LIMITS)
        np.testing.assert_array_equal(there.picture.pixels, resize_cell(PHOTO, plan, DEFAULT_LIMITS).picture.pixels)
        self.assertEqual(self.hands.do("a clock", copies_of, PHOTO, DEFAULT_LIMITS), copies_of(PHOTO, DEFAULT_LIMITS))

    def test_its_end_is_a_photo_that_cannot_be_read_and_the_next_one_can(self) -> None:
        with self.assertRaisesRegex(PhotoError, "a clock: .* ended its decoder"):
            self.hands.do("a clock", end_yourself)
        self.assertEqual(len(self.hands.do("a clock", copies_of, PHOTO, DEFAULT_LIMITS)[1]), 2)

    def test_work_without_an_end_is_ended(self) -> None:
        with mock.patch.object(hands, "SECONDS", 0.3), self.assertRaisesRegex(PhotoError, "ended its decoder"):
            self.hands.do("a clock", time.sleep, 60)

    def test_small_pictures_are_drawn_by_who_is_free(self) -> None:
        """The same there as here; nobody waits for a process that is not there, busy, or ends."""
        plan = plan_renditions(read_facts(PHOTO), recipe(size={"by": "long-edge", "pixels": 500}), 1, None)[-1]
        copy = copies_of(PHOTO, DEFAULT_LIMITS)[1][1]
        cells = [(copy, plan, 320, False), None, (b"no picture", plan, 320, False)]
        self.assertIsNone(self.hands.offer(previews, cells), "it is not started for this")
        self.hands.wake()
        first, none, wrong = self.hands.offer(previews, cells) or []
        self.assertEqual([first, none, wrong], previews(cells))
        self.assertEqual((first[:2], none, wrong), (b"\xff\xd8", b"", b""))
        with mock.patch.object(self.hands, "_free", SimpleQueue()):
            self.assertIsNone(self.hands.offer(previews, cells), "it has other work")
        self.assertIsNone(self.hands.offer(end_yourself))
        self.assertIsNone(self.hands.offer(previews, cells))

    def test_errors_come_back(self) -> None:
        with self.assertRaises(PhotoError):
            self.hands.do("nothing", copies_of, PHOTO.with_name("nothing.jpg"), DEFAULT_LIMITS)


if __name__ == "__main__":
    unittest.main()
