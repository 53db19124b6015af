"""Objects drawn on plain grounds, with how much of each pixel they cover; and how well their outlines are found."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from tray_core.outline import traced
from tray_core.pixels.coverage import coverage
from tray_core.tracing import find_outline

PHOTOS = Path(__file__).parents[2] / "demo" / "photos"
Points = list[tuple[float, float]]
Shape = tuple[Points, tuple[int, int, int] | None]
"""Its points, and its color; None is a hole."""

Ground = tuple[int, int, int]


def drawn(
    shapes: list[Shape], size: tuple[int, int], ground_color: Ground = (246, 244, 240), noise: float = 1.2
) -> tuple[NDArray[np.uint8], NDArray[np.float32]]:
    """(picture, truth) of shapes on a plain ground with a soft shadow, at four times the size and averaged.

    noise: standard deviation in levels; nothing is random but by a seed.
    """
    fine = 4
    width, height = size
    truth = np.zeros((height * fine, width * fine), np.float32)
    color = np.zeros((height * fine, width * fine, 3), np.float32)
    for points, paint in shapes:
        at = np.rint(np.array(points) * fine).astype(np.int32)
        cv2.fillPoly(truth, [at], 0.0 if paint is None else 1.0)
        if paint is not None:
            cv2.fillPoly(color, [at], paint)
    small = np.asarray(cv2.resize(truth, size, interpolation=cv2.INTER_AREA), np.float32)
    ground = np.empty((height, width, 3), np.float32)
    ground[...] = ground_color
    ground -= np.linspace(0, 14, height)[:, None, None]
    shadow = cv2.GaussianBlur(np.roll(small, (16, 9), (0, 1)), (0, 0), 14) * 0.35
    ground *= 1 - shadow[..., None]
    mean = cv2.resize(color * truth[..., None], size, interpolation=cv2.INTER_AREA)
    made = mean + ground * (1 - small[..., None])
    made += np.random.default_rng(5).normal(0, noise, made.shape)
    return np.clip(np.rint(made), 0, 255).astype(np.uint8), small


def ring(x: float, y: float, radius: float, points: int = 90) -> Points:
    return [
        (x + radius * math.cos(2 * math.pi * i / points), y + radius * math.sin(2 * math.pi * i / points))
        for i in range(points)
    ]


def star(x: float, y: float, outer: float, inner: float, points: int) -> Points:
    return [
        (x + r * math.cos(math.pi * i / points), y + r * math.sin(math.pi * i / points))
        for i in range(2 * points)
        for r in (outer if i % 2 == 0 else inner,)
    ]


def iou(one: NDArray[Any], other: NDArray[Any]) -> float:
    return float(((one > 0.5) & (other > 0.5)).sum() / ((one > 0.5) | (other > 0.5)).sum())


def ellipse(x: float, y: float, wide: float, high: float) -> Points:
    return [(x + wide * a, y + high * b) for a, b in ring(0, 0, 1)]


BOX = [(250.0, 200.0), (650.0, 220.0), (640.0, 520.0), (260.0, 500.0)]
SCENES: dict[str, list[Shape]] = {
    "disc": [(ring(450, 350, 210), (150, 40, 30))],
    "wheel": [
        (star(450, 340, 240, 205, 40), (170, 130, 60)),
        (ring(450, 340, 140), None),
        (ring(450, 340, 50), (60, 60, 160)),
    ],
    # Half of a pixel around a rod of twelve is much of it.
    "rod and disc": [
        ([(200, 120), (212, 117), (700, 560), (690, 568)], (40, 60, 120)),
        (ring(650, 200, 70), (20, 120, 90)),
    ],
    "cream box": [(BOX, (208, 196, 176))],
    "grey box": [(BOX, (120, 119, 118))],
    "black star": [(star(450, 350, 260, 110, 7), (12, 12, 14))],
    "rings": [
        (ellipse(330, 360, 170, 130), (190, 150, 70)),
        (ellipse(330, 360, 120, 85), None),
        (ellipse(600, 330, 150, 180), (120, 60, 40)),
        (ellipse(600, 330, 110, 140), None),
    ],
    "pale blue box": [(BOX, (205, 214, 230))],
}
GROUNDS: dict[str, tuple[Ground, float]] = {
    "white": (((246, 244, 240)), 1.2),
    "white, noise 4": (((246, 244, 240)), 4.0),
    "grey": (((150, 152, 155)), 1.2),
    "blue": (((120, 150, 190)), 1.2),
    "black": (((34, 33, 32)), 1.2),
}


def _found(pixels: NDArray[np.uint8]) -> tuple[NDArray[np.float32], bool]:
    size = pixels.shape[1], pixels.shape[0]
    outline = find_outline(pixels).outline
    there = traced(outline, size)
    cover = coverage(there.contours(size), size) if there is not None else np.zeros(pixels.shape[:2], np.float32)
    return cover, outline.sure and not outline.empty


def outlines() -> list[tuple[str, float, float, int, int]]:
    """(ground, median and lowest IoU of those that are said to be certain, how many ask, how many of all)."""
    rows = []
    for name, (color, noise) in GROUNDS.items():
        certain, asks = [], 0
        for shapes in SCENES.values():
            pixels, truth = drawn(shapes, (900, 700), color, noise)
            cover, sure = _found(pixels)
            certain += [iou(cover, truth)] if sure else []
            asks += not sure
        rows.append((name, float(np.median(certain or [0])), min(certain, default=0.0), asks, len(SCENES)))
    return rows


def rendered() -> float:
    """IoU of the shop's bird against the same object rendered without its ground."""
    truth = np.asarray(Image.open(PHOTOS / "mixed" / "singing-bird_cutout.png"))[..., 3] / 255
    return iou(_found(np.asarray(Image.open(PHOTOS / "shop-stock" / "QM4_0118.jpg")))[0], truth)
