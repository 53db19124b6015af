"""Pixel-sharp photographs that nothing here was tuned on: those that scikit-image carries."""

from __future__ import annotations

import importlib.util
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

SHARP = (
    *("astronaut.png", "chelsea.png", "coffee.png", "rocket.jpg", "motorcycle_left.png"),
    *("ihc.png", "hubble_deep_field.jpg", "retina.jpg", "grass.png"),
)


def folder() -> Path:
    """Where the installed package keeps its pictures. They are files here; its code is not run."""
    found = importlib.util.find_spec("skimage")
    if found is None or found.origin is None:
        raise SystemExit("Expected the test pictures of scikit-image. Install requirements.lock, then try again.")
    return Path(found.origin).parent / "data"


def photograph(name: str) -> NDArray[np.uint8]:
    """One of them: height x width x 3."""
    with Image.open(folder() / name) as image:
        return np.asarray(image.convert("RGB"))


def large(pixels: NDArray[np.uint8], width: int, height: int) -> NDArray[np.uint8]:
    """A picture side by side with its mirror images until it fills width x height: as sharp, and as large as asked."""
    down, across = (-(-want // have) for want, have in zip((height, width), pixels.shape[:2], strict=True))
    rows = [
        np.concatenate([pixels[:: 1 - 2 * (i % 2), :: 1 - 2 * (j % 2)] for j in range(across)], 1) for i in range(down)
    ]
    return np.ascontiguousarray(np.concatenate(rows)[:height, :width])
