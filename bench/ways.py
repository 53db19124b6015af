"""Three ways to make the same renditions: the codec floor, a straightforward loop, the core."""

from __future__ import annotations

import io
from collections.abc import Sequence
from pathlib import Path

import imagecodecs
import numpy as np
import simplejpeg
from PIL import Image, ImageFilter

from tray_core.line import make_renditions
from tray_core.photo import read_facts
from tray_core.plan import Plan, plan_all, target_size
from tray_core.recipe import Recipe, check_recipe
from tray_core.recipe.size import EdgeSize

QUALITY = 84
ONE = (2048,)
FIVE = (2048, 1600, 1080, 800, 480)


def recipe(edge: int) -> Recipe:
    """Long edge, sharpened, sRGB, JPEG at quality 84."""
    return check_recipe(
        {
            "format": "upper-tray/recipe",
            "version": 1,
            "title": f"Edge {edge}",
            "size": {"by": "long-edge", "pixels": edge},
            "sharpen": {"strength": 100},
            "color": {"profile": "srgb"},
            "file": {"format": "jpeg", "quality": QUALITY},
            "name": {"pattern": "{stem}"},
            "place": {"subfolder": "{recipe}", "taken": "replace"},
        }
    )


def floor(path: Path, edges: Sequence[int], flat: dict[int, np.ndarray]) -> None:
    """libjpeg-turbo alone: one decoding at the smallest n/8 that covers, one optimized encode each.

    flat: pictures of the target sizes to encode; resizing is no part of the floor.
    """
    width, height = target_size(6000, 4000, EdgeSize(by="long-edge", pixels=max(edges)))
    simplejpeg.decode_jpeg(path.read_bytes(), "RGB", min_width=width, min_height=height)
    for edge in edges:
        imagecodecs.jpeg8_encode(flat[edge], level=QUALITY, optimize=True, subsampling="420")


def flat_pictures(path: Path, edges: Sequence[int]) -> dict[int, np.ndarray]:
    """The photo at each size, as the core makes it before encoding would be: real content to encode."""
    with Image.open(path) as image:
        image.draft("RGB", (3000, 2000))
        image.load()
        return {
            edge: np.asarray(image.resize(target_size(6000, 4000, EdgeSize(by="long-edge", pixels=edge))))
            for edge in edges
        }


def loop(path: Path, edges: Sequence[int], folder: Path) -> None:
    """What one writes first with Pillow: everything again for every size."""
    for edge in edges:
        with Image.open(path) as image:
            size = target_size(*image.size, EdgeSize(by="long-edge", pixels=edge))
            small = image.convert("RGB").resize(size, Image.Resampling.LANCZOS)
        sharp = small.filter(ImageFilter.UnsharpMask(radius=0.7, percent=90, threshold=0))
        file = io.BytesIO()
        sharp.save(file, "JPEG", quality=QUALITY, optimize=True, icc_profile=image.info.get("icc_profile"))
        (folder / f"{path.stem}-{edge}.jpg").write_bytes(file.getvalue())


def plans(paths: Sequence[Path], edges: Sequence[int]) -> list[list[Plan]]:
    """The plans of all photos by recipes of all edges."""
    return list(plan_all(map(read_facts, paths), [recipe(edge) for edge in edges]))


def core(row: Sequence[Plan], folder: Path) -> None:
    """The core, file to files, with receipts."""
    for outcome in make_renditions(row[0].photo, row, [folder] * len(row)):
        if outcome.receipt is None or outcome.receipt.differences:
            raise RuntimeError(f"the bench's own rendition went wrong: {outcome}")
