"""A finish seen on made-up grounds, before any photo has it: light, dark and busy."""

from __future__ import annotations

from typing import Any, Literal, get_args

import cv2
import numpy as np

from tray_core.coders import encode
from tray_core.line.finishing import finish
from tray_core.photo.facts import PhotoFacts
from tray_core.photo.words import Words
from tray_core.pixels.color import flatten
from tray_core.pixels.picture import Picture, Pixels8
from tray_core.plan import plan_renditions
from tray_core.recipe import Recipe
from tray_core.recipe.file import JpegFile

Ground = Literal["light", "dark", "busy"]
GROUNDS: tuple[Ground, ...] = get_args(Ground)
_SIZE = (960, 640)
_WORDS = Words(
    title="The brass clock",
    description="A clock of the Quillmarsh Museum",
    creator="Odile Farrow",
    credit="Quillmarsh Museum",
    rights="© Quillmarsh Museum",
)
"""Of the made-up museum: what texts over pictures say here."""


def on_ground(recipe: Recipe, ground: Ground) -> bytes:
    """A JPEG in sRGB of what a recipe's finish makes of a picture of `ground`. RecipeError where a file is missing."""
    facts = PhotoFacts(path="sample/clock.jpg", format="JPEG", width=_SIZE[0], height=_SIZE[1], words=_WORDS)
    plain = recipe.model_copy(update={"color": None, "frame": None, "cutout": None})
    (plan, *_) = plan_renditions(facts, plain, 1, None)
    pixels = cv2.resize(_drawn(ground), plan.layout.canvas, interpolation=cv2.INTER_AREA)
    made = finish(Picture(pixels, "RGB", False, None), plain, plan.layout)
    return encode(flatten(made), JpegFile(format="jpeg", quality=90))


def _drawn(ground: Ground) -> Pixels8:
    width, height = _SIZE
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    slope: Any = (x / width + y / height) / 2
    if ground == "busy":
        random = np.random.default_rng(7)
        made: Any = np.zeros((height, width, 3), np.float32)
        for cells, strength in ((6, 90), (24, 60), (96, 45)):
            grey = random.uniform(-1, 1, (cells * 2 // 3, cells, 1))
            coarse = grey + random.uniform(-0.25, 0.25, (cells * 2 // 3, cells, 3))
            made += strength * cv2.resize(coarse.astype(np.float32), _SIZE, interpolation=cv2.INTER_CUBIC)
        return np.asarray(np.clip(126 + made, 0, 255), np.uint8)
    least, most = (206, 246) if ground == "light" else (14, 62)
    level = least + (most - least) * slope
    return np.asarray(np.rint(np.stack([level, level, level - 2], axis=2)), np.uint8)
