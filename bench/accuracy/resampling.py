"""Resampling against one Lanczos-3 from the whole picture in double precision."""

from __future__ import annotations

import statistics
from collections.abc import Iterator

import numpy as np
import simplejpeg
from numpy.typing import NDArray

from bench.accuracy import reference
from bench.accuracy.pictures import SHARP, large, photograph
from tray_core.line.framing import shown_part
from tray_core.line.working import decoded_for
from tray_core.photo import read_facts
from tray_core.plan import plan_renditions
from tray_core.recipe import check_recipe

RATIOS = (1.1, 1.5, 2, 2.2, 2.7, 2.8, 3.3, 4.1, 5, 6, 8.1, 10, 12, 16)
Found = tuple[str, float, float, float]
"""(what, median and lowest PSNR in dB, largest shift of the mean in levels)"""


def ours(data: bytes, width: int, linear: bool = False) -> NDArray[np.float64]:
    """The file `data` resampled to `width` by the product, as a run does it, in levels of 255."""
    facts = read_facts("picture", data=data)
    size = {"by": "width", "pixels": width, "light": "linear" if linear else "gamma"}
    recipe = check_recipe(
        {
            "format": "upper-tray/recipe",
            "version": 1,
            "title": "x",
            "size": size,
            "file": {"format": "png"},
            "name": {"pattern": "x"},
            "place": {},
        }
    )
    (plan,) = plan_renditions(facts, recipe, 1, None)
    part, _ = shown_part(decoded_for(facts, data, recipe, plan.layout), plan.layout, linear)
    return part.pixels / (257 if part.pixels.dtype == np.uint16 else 1)


def _compared(data: bytes, pixels: NDArray[np.uint8], width: int, linear: bool) -> tuple[float, float]:
    made = ours(data, width, linear)
    wanted = reference.resized(pixels, made.shape[1], made.shape[0], linear)
    return reference.psnr(made, wanted), abs(float(made.mean() - wanted.mean()))


def small_pictures() -> Iterator[Found]:
    """Nine photographs of half a megapixel, lossless, at every ratio."""
    import imagecodecs

    photographs = [photograph(name) for name in SHARP]
    files = [bytes(imagecodecs.png_encode(each)) for each in photographs]
    for linear in (False, True):
        for ratio in RATIOS:
            found = [
                _compared(data, pixels, max(8, round(pixels.shape[1] / ratio)), linear)
                for data, pixels in zip(files, photographs, strict=True)
            ]
            yield _row(f"{'linear' if linear else 'gamma'}, ratio {ratio:g}", found)


def large_pictures() -> Iterator[Found]:
    """The same photographs as JPEGs of 24 megapixels, where decoding at a smaller scale could cost quality."""
    found: dict[int, list[tuple[float, float]]] = {}
    for name in SHARP:
        data = simplejpeg.encode_jpeg(large(photograph(name), 6000, 4000), quality=92, colorspace="RGB")
        pixels = simplejpeg.decode_jpeg(data, "RGB")
        for width in (2048, 1080, 480):
            found.setdefault(width, []).append(_compared(data, pixels, width, False))
    for width, values in found.items():
        yield _row(f"24 megapixels, ratio {6000 / width:.1f}", values)


def _row(words: str, found: list[tuple[float, float]]) -> Found:
    quality, shift = zip(*found, strict=True)
    return words, statistics.median(quality), min(quality), max(shift)


def aliasing(edge: int = 900) -> float:
    """A zone plate at every 1 % step from 5 to 90 % of its size: the largest ratio of what is left of frequencies that
    cannot be shown, to what one Lanczos-3 leaves of them (rms; half a level of either is rounding).
    """
    import imagecodecs

    plate = reference.rings(edge)
    data = bytes(imagecodecs.png_encode(plate))
    worst = 0.0
    for percent in range(5, 91):
        made = ours(data, round(edge * percent / 100))
        width = made.shape[1]
        wanted = reference.resized(plate, width, width, False)
        steps = (np.mgrid[0:width, 0:width] + 0.5) * edge / width - edge / 2
        radius = np.hypot(*steps) / edge
        zone = (radius > 0.5 * width / edge * 1.35) & (radius < 0.5)
        if not zone.any():
            continue
        left = [float(values[..., 1][zone].std()) + 0.5 for values in (made, wanted)]
        worst = max(worst, left[0] / left[1])
    return worst
