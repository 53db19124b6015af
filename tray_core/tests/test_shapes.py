"""Shapes in written files: planned equals made over thousands of combinations; padding, panels, turns by pixel."""

from __future__ import annotations

import itertools
import unittest
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from tray_core.line import make_renditions
from tray_core.photo import read_facts
from tray_core.plan import Framing, Plan, plan_renditions
from tray_core.plan.naming import Names
from tray_core.tests.samples import FolderCase, jpeg, recipe, scene

SOURCES = ((1, 1), (1, 97), (211, 3), (101, 99), (64, 64), (37, 480), (3000, 10), (12_000, 40))
FRAMES: tuple[dict[str, Any] | None, ...] = (
    None,
    {"way": "keep", "panels": {"columns": 3, "rows": 1}},
    {"way": "crop", "shape": "1:1"},
    {"way": "crop", "shape": "1.91:1", "anchor": "bottom-right"},
    {"way": "crop", "shape": "4:5", "panels": {"columns": 2, "rows": 3}},
    {"way": "crop", "shape": "33x20"},
    {"way": "pad", "shape": "1:1", "fill": "edge"},
    {"way": "pad", "shape": "9:16", "fill": "blur", "anchor": "top"},
    {"way": "pad", "shape": "40x31", "fill": "transparent"},
    {"way": "stretch", "shape": "2:3"},
    {"way": "bounds", "narrowest": "4:5", "widest": "1.91:1"},
    {"way": "bounds", "narrowest": "1:2", "widest": "3:1", "outside": "pad", "fill": "#204060"},
)
MEASURES: tuple[dict[str, Any] | None, ...] = (
    None,
    {"by": "long-edge", "pixels": 61},
    {"by": "width", "pixels": 40, "enlarge": 150},
    {"by": "box", "width": 50, "height": 20, "portrait": {"width": 20, "height": 50}, "ppi": 300},
)


class MatrixCase(FolderCase):
    def made(self, plans: list[Plan], path: Any) -> list[Image.Image]:
        """The written files of the plans, in their order; every receipt agrees with its plan."""
        outcomes = list(make_renditions(path, plans, [self.folder / "out"] * len(plans)))
        found = {outcome.plan.name: outcome for outcome in outcomes}
        images: list[Image.Image] = []
        for plan in plans:
            outcome = found[plan.name]
            assert outcome.receipt is not None and outcome.path is not None, outcome.error
            self.assertEqual(outcome.receipt.differences, ())
            self.assertEqual((outcome.receipt.width, outcome.receipt.height), (plan.width, plan.height))
            with Image.open(outcome.path) as image:
                image.load()
            images.append(image)
        return images


class Matrix(MatrixCase):
    def test_planned_is_made(self) -> None:
        combinations = list(itertools.product(FRAMES, MEASURES))
        recipes = [
            recipe(
                f"r{i}",
                frame=frame,
                size=size,
                sharpen=None if i % 2 else {"strength": 100},
                file={"format": "png" if i % 3 == 0 else "jpeg"},
                name={"pattern": "{recipe}"},
            )
            for i, (frame, size) in enumerate(combinations)
        ]
        done = files = 0
        for number, (width, height) in enumerate(SOURCES):
            pixels = scene(width, height)
            for orientation in range(1, 9):
                exif = Image.Exif()
                exif[274] = orientation
                path = self.write(f"{number}-{orientation}.jpg", jpeg(pixels, exif=exif))
                # The longest pictures at their own size cost most and differ in nothing but length.
                wanted = recipes if width < 5000 else [each for each in recipes if each.size is not None]
                facts, names = read_facts(path), Names()
                plans = [plan for each in wanted for plan in plan_renditions(facts, each, 1, names)]
                done += len(wanted)
                files += len(self.made(plans, path))
        self.assertGreaterEqual(done, 2000)
        self.assertGreater(files, done)


def _ramps(width: int, height: int) -> NDArray[np.uint8]:
    """Red grows to the right, green grows down: every pixel tells its place."""
    y, x = np.mgrid[0:height, 0:width]
    return np.stack([x * 255 / width, y * 255 / height, np.full(x.shape, 60)], -1).astype(np.uint8)


class Pixels(MatrixCase):
    def png(self, name: str, pixels: NDArray[np.uint8], *framings: Framing, **stations: Any) -> list[NDArray[np.int64]]:
        path = self.folder / f"{name}.png"
        Image.fromarray(pixels).save(path)
        made = recipe(**({"size": None, "sharpen": None, "file": {"format": "png"}} | stations))
        plans = plan_renditions(read_facts(path), made, 1, Names(), framings=framings)
        return [np.asarray(image).astype(np.int64) for image in self.made(plans, path)]

    def test_letterbox_is_exactly_the_color(self) -> None:
        (made,) = self.png("a", _ramps(300, 200), frame={"way": "pad", "shape": "1:1", "fill": "#204060"})
        self.assertEqual(made.shape, (300, 300, 3))
        self.assertTrue((made[:50] == (0x20, 0x40, 0x60)).all() and (made[250:] == (0x20, 0x40, 0x60)).all())
        np.testing.assert_array_equal(made[50:250], _ramps(300, 200))

    def test_transparent_ground(self) -> None:
        (made,) = self.png("a", _ramps(300, 200), frame={"way": "pad", "shape": "1:1", "fill": "transparent"})
        self.assertTrue((made[:50, :, 3] == 0).all() and (made[50:250, :, 3] == 255).all())

    def test_edge_colors_follow_each_side(self) -> None:
        pixels = np.full((200, 300, 3), 90, np.uint8)
        pixels[:20], pixels[-20:] = (200, 10, 10), (10, 10, 200)
        (made,) = self.png("a", pixels, frame={"way": "pad", "shape": "1:1", "fill": "edge"})
        np.testing.assert_array_equal(made[5, 150], (200, 10, 10))
        np.testing.assert_array_equal(made[-5, 150], (10, 10, 200))

    def test_blurred_ground_is_smooth_and_has_the_colors_of_the_picture(self) -> None:
        pixels = scene(900, 300)
        pixels[:, :450, 0] = 210
        frame = {"way": "pad", "shape": "1:2", "fill": "blur"}
        (made,) = self.png("a", pixels, frame=frame, size={"by": "width", "pixels": 400})
        self.assertEqual(made.shape, (800, 400, 3))
        ground = made[:300]
        self.assertLessEqual(np.abs(np.diff(ground, axis=0)).max(), 6)
        self.assertLess(abs(ground.mean() - made[334:466].mean()), 25)
        self.assertGreater(made[100, 20, 0], made[100, 380, 0] + 20)

    def test_six_panels_put_together_are_the_picture(self) -> None:
        pixels = scene(1207, 301)
        frame = {"way": "crop", "shape": "1:1", "panels": {"columns": 6, "rows": 1}}
        whole = {"way": "crop", "shape": "6:1"}
        panels = self.png("a", pixels, frame=frame, size={"by": "width", "pixels": 100})
        (one,) = self.png("b", pixels, frame=whole)
        self.assertEqual([panel.shape for panel in panels], [(100, 100, 3)] * 6)
        (scaled,) = self.png("c", pixels, frame={"way": "crop", "shape": "600x100"})
        np.testing.assert_array_equal(np.concatenate(panels, axis=1), scaled)
        self.assertEqual(one.shape, (201, 1207, 3))

    def test_panels_of_its_own_size_lose_no_pixel(self) -> None:
        pixels = scene(1000, 77)
        panels = self.png("a", pixels, frame={"way": "keep", "panels": {"columns": 7, "rows": 2}})
        rows = [np.concatenate(panels[i : i + 7], axis=1) for i in (0, 7)]
        np.testing.assert_array_equal(np.concatenate(rows), pixels)

    def test_a_framing_beyond_the_photo(self) -> None:
        beyond = Framing(name="air", x=-0.5, y=-0.25, width=1.0, height=1.5)
        frame = {"way": "crop", "shape": "1:1", "fill": "#ff0000"}
        (made,) = self.png("a", _ramps(300, 200), beyond, frame=frame)
        self.assertEqual(made.shape, (300, 300, 3))
        self.assertTrue((made[:, :150] == (255, 0, 0)).all())
        np.testing.assert_array_equal(made[50:250, 150:], _ramps(300, 200)[:, :150])

    def test_quarter_turns(self) -> None:
        pixels = scene(90, 60)
        for turn in (0, 90, 180, 270):
            framing = Framing(name="all", x=0, y=0, width=1, height=1, turn=turn)
            shape = "90x60" if turn in (0, 180) else "60x90"
            (made,) = self.png(f"t{turn}", pixels, framing, frame={"way": "crop", "shape": shape})
            np.testing.assert_array_equal(made, np.rot90(pixels, -turn // 90))

    def test_straightening_puts_pixels_where_the_angle_says(self) -> None:
        """On ramps the value is the place: turned by 10 degrees, the middle stays and the corners move."""
        framing = Framing(name="straight", x=0.25, y=0.25, width=0.5, height=0.5, angle=10)
        (made,) = self.png("a", _ramps(1000, 1000), framing, frame={"way": "crop", "shape": "250x250"})
        for u, v in ((125, 125), (20, 125), (230, 60), (125, 240)):
            across, down = (u + 0.5 - 125) * 2, (v + 0.5 - 125) * 2
            x = 500 + across * np.cos(np.radians(10)) - down * np.sin(np.radians(10))
            y = 500 + across * np.sin(np.radians(10)) + down * np.cos(np.radians(10))
            self.assertLess(abs(made[v, u, 0] - x * 0.255), 1.3)
            self.assertLess(abs(made[v, u, 1] - y * 0.255), 1.3)

    def test_straightened_beyond_the_photo_shows_the_ground(self) -> None:
        framing = Framing(name="tilted", x=0, y=0, width=1, height=1, angle=20)
        frame = {"way": "crop", "shape": "200x200", "fill": "#00ff00"}
        (made,) = self.png("a", np.full((400, 400, 3), 128, np.uint8), framing, frame=frame)
        np.testing.assert_array_equal(made[2, 2], (0, 255, 0))
        np.testing.assert_array_equal(made[100, 100], (128, 128, 128))

    def test_a_cut_out_padded_with_a_color_lies_on_it(self) -> None:
        pixels = np.zeros((100, 200, 4), np.uint8)
        pixels[40:60, 80:120] = (10, 20, 30, 255)
        (made,) = self.png("a", pixels, frame={"way": "pad", "shape": "1:1", "fill": "#eeeeee"})
        self.assertEqual(made.shape, (200, 200, 3))
        np.testing.assert_array_equal(made[100, 10], (238, 238, 238))
        np.testing.assert_array_equal(made[100, 100], (10, 20, 30))

    def test_ppi_is_a_tag_and_changes_no_pixel(self) -> None:
        pixels = scene(120, 80)
        path = self.write("a.jpg", jpeg(pixels))
        for file in ({"format": "png"}, {"format": "jpeg"}):
            seen = []
            for size in (None, {"by": "own", "ppi": 300}):
                plans = plan_renditions(read_facts(path), recipe(size=size, file=file), 1, Names())
                (made,) = self.made(plans, path)
                seen.append(np.asarray(made))
                if size:
                    self.assertEqual([round(value) for value in made.info["dpi"]], [300, 300])
            np.testing.assert_array_equal(seen[0], seen[1])


if __name__ == "__main__":
    unittest.main()
