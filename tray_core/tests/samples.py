"""Pictures and recipes that the tests are made of."""

from __future__ import annotations

import functools
import io
import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np
import simplejpeg
import tifffile
from hypothesis import settings
from numpy.typing import NDArray
from PIL import Image

from tray_core.photo import PhotoFacts
from tray_core.recipe import Recipe, check_recipe

# Machines are noisy; no test here asserts wall time.
settings.register_profile("upper-tray", deadline=None)
settings.load_profile("upper-tray")

DEMO = Path(__file__).parents[2] / "demo"
PHOTOS = DEMO / "photos"


def recipe(title: str = "Journal column", **stations: Any) -> Recipe:
    """The example recipe with some stations replaced; None leaves one out."""
    data: dict[str, Any] = {
        "format": "upper-tray/recipe",
        "version": 1,
        "title": title,
        "size": {"by": "long-edge", "pixels": 1600},
        "sharpen": {"strength": 100},
        "color": {"profile": "srgb"},
        "file": {"format": "jpeg", "quality": 84},
        "name": {"pattern": "{stem}"},
        "place": {"subfolder": "", "taken": "new-name"},
    }
    return check_recipe({key: value for key, value in (data | stations).items() if value is not None})


def facts(width: int = 3000, height: int = 2000, path: str = "trays/hall.jpg", **more: Any) -> PhotoFacts:
    """Facts of a photo that exists in numbers only."""
    return PhotoFacts(path=path, format="JPEG", width=width, height=height, **({"profile": "sRGB"} | more))


_SMALL = 4_000_000
"""Pixels of scenes that are drawn once for all tests."""


def scene(width: int, height: int, seed: int = 1) -> NDArray[np.uint8]:
    """Smooth shapes with some detail, height x width x 3, 0..255."""
    return (_scene if width * height <= _SMALL else _scene.__wrapped__)(width, height, seed).copy()


@functools.lru_cache(maxsize=32)
def _scene(width: int, height: int, seed: int) -> NDArray[np.uint8]:
    random = np.random.default_rng(seed)
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    made = np.zeros((height, width, 3), np.float32)
    for channel in range(3):
        for _ in range(6):
            fx, fy, phase = random.uniform((-0.2, -0.2, 0), (0.2, 0.2, 6))
            made[..., channel] += np.sin(x * fx + y * fy + phase)
    return np.clip(128 + made * 18 + random.normal(0, 2, made.shape), 0, 255).astype(np.uint8)


def jpeg(pixels: NDArray[np.uint8], quality: int = 92, **save: Any) -> bytes:
    """The pixels as a JPEG; with Pillow's saving options where any are given."""
    if not save:
        return bytes(simplejpeg.encode_jpeg(np.ascontiguousarray(pixels), quality=quality, colorspace="RGB"))
    file = io.BytesIO()
    Image.fromarray(pixels).save(file, "JPEG", quality=quality, **save)
    return file.getvalue()


def raw_with_preview(turned: int = 1) -> bytes:
    """A file as cameras make them: a small picture first, then what the sensor saw."""
    small = scene(96, 64)
    jpeg = simplejpeg.encode_jpeg(small, quality=95, colorspace="RGB")
    file = io.BytesIO()
    about = [
        (50706, "B", 4, (1, 4, 0, 0), True),
        (50708, "s", 0, "Quillmarsh bench camera", True),
        (50721, "2i", 9, [v for one in (9, -2, -1, -5, 13, 2, -1, 2, 6) for v in (one, 10)], True),
        (50728, "2I", 3, (1, 2, 1, 1, 2, 3), True),
        (50778, "H", 1, 21, True),
        (274, "H", 1, turned, True),
    ]
    rows = [(33421, "H", 2, (2, 2), True), (33422, "B", 4, (0, 1, 1, 2), True), (50717, "H", 1, 65535, True)]
    with tifffile.TiffWriter(file) as tiff:
        tiff.write(
            iter([bytes(jpeg)]),
            shape=small.shape,
            dtype="uint8",
            photometric="ycbcr",
            compression="jpeg",
            subfiletype=1,
            subifds=1,
            extratags=about,
            metadata=None,
        )
        mosaic = np.repeat(np.repeat(small[..., 1].astype(np.uint16) * 200, 4, axis=0), 4, axis=1)
        tiff.write(mosaic, photometric=32803, subfiletype=0, extratags=rows, metadata=None)
    return file.getvalue()


class FolderCase(unittest.TestCase):
    """A test with an empty folder of its own."""

    def setUp(self) -> None:
        super().setUp()
        holder = tempfile.TemporaryDirectory()
        self.addCleanup(holder.cleanup)
        self.folder = Path(holder.name)

    def write(self, name: str, data: bytes) -> Path:
        path = self.folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data)
        return path
