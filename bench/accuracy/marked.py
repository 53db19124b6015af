"""What people would want to see whole in photographs: marked by hand, in shares of the upright picture's edges."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageOps

from bench.accuracy.pictures import folder
from tray_core.photo.interest import Box

SHAPES = {"1:1": 1.0, "4:5": 0.8, "3:1": 3.0, "9:16": 9 / 16}
_DEMO = Path(__file__).parents[2] / "demo" / "photos"

DEMO: dict[str, Box] = {
    "autumn-rehang/2031-10-14_01_repair-bench.jpg": (0.33, 0.15, 0.76, 0.72),
    "autumn-rehang/2031-10-14_02_lark-and-drum-clock.jpg": (0.16, 0.08, 0.89, 0.76),
    "autumn-rehang/2031-10-15_03_gallery-wall-panorama.jpg": (0.20, 0.06, 0.275, 0.98),
    "autumn-rehang/2031-10-15_04_hall-longcase.jpg": (0.11, 0.24, 0.36, 0.83),
    "autumn-rehang/2031-10-15_05_stair-hall.jpg": (0.45, 0.06, 0.93, 0.39),
    "autumn-rehang/2031-10-16_06_clock-tower-dusk.jpg": (0.54, 0.24, 0.76, 0.86),
    "autumn-rehang/2031-10-17_07_bird-and-bellows-plate.jpg": (0.0, 0.10, 0.25, 0.62),
    "shop-stock/QM4_0117.jpg": (0.31, 0.06, 0.77, 0.91),
    "shop-stock/QM4_0118.jpg": (0.24, 0.15, 0.74, 0.93),
    "shop-stock/QM4_0121.jpg": (0.14, 0.07, 0.92, 0.83),
    "shop-stock/QM4_0123.jpg": (0.29, 0.08, 0.76, 0.91),
    "shop-stock/QM4_0126.jpg": (0.13, 0.06, 0.88, 0.93),
    "mixed/enamel-colours_P3.jpg": (0.28, 0.22, 0.67, 0.72),
    "mixed/bellows-plate_grey.jpg": (0.0, 0.11, 0.25, 0.62),
    "mixed/autumn-rehang-poster.png": (0.09, 0.13, 0.92, 0.66),
    "mixed/tiny-for-enlarging_640.jpg": (0.48, 0.0, 0.80, 0.74),
}
"""The demo's photographs: the object, or the group, that each was taken of."""

OTHERS: dict[str, Box] = {
    "astronaut.png": (0.30, 0.03, 0.60, 0.36),
    "chelsea.png": (0.25, 0.22, 0.80, 0.95),
    "coffee.png": (0.13, 0.04, 0.80, 0.97),
    "rocket.jpg": (0.47, 0.29, 0.54, 1.0),
    "motorcycle_left.png": (0.11, 0.15, 0.93, 0.92),
    "camera.png": (0.30, 0.12, 0.62, 0.42),
    "clock_motion.png": (0.36, 0.30, 0.71, 0.71),
    "horse.png": (0.04, 0.02, 0.98, 0.96),
    "cell.png": (0.65, 0.44, 0.92, 0.68),
}
"""Those that scikit-image carries: of people, their heads."""


def upright(name: str) -> NDArray[np.uint8]:
    """A marked photograph, height x width x 3."""
    with Image.open(_DEMO / name if name in DEMO else folder() / name) as image:
        return np.asarray(ImageOps.exif_transpose(image).convert("RGB"))


def kept(box: Box, shown: Box) -> float:
    """The share of `box` that lies in `shown`."""
    wide = max(0.0, min(box[2], shown[2]) - max(box[0], shown[0]))
    high = max(0.0, min(box[3], shown[3]) - max(box[1], shown[1]))
    return wide * high / ((box[2] - box[0]) * (box[3] - box[1]))


def window(ratio: float, size: tuple[int, int], start: float) -> Box:
    """The largest crop of a shape in a picture of `size`; it begins at the share `start` of the edge that it cuts."""
    share = ratio * size[1] / size[0]
    return (start, 0.0, start + share, 1.0) if share < 1 else (0.0, start, 1.0, start + 1 / share)


def possible(box: Box, ratio: float, size: tuple[int, int]) -> float:
    """The most of `box` that any such crop keeps."""
    share = ratio * size[1] / size[0]
    room = 1 - min(share, 1 / share)
    return max(kept(box, window(ratio, size, room * i / 400)) for i in range(401))
