"""Resampling a part of a picture to exact pixels in one step, by Lanczos-3 with a support that grows with
the reduction.

Source of the method: Duchon (1979), "Lanczos filtering in one and two dimensions"; computed by
libvips where a picture gets smaller, by Pillow (five times as slow) elsewhere. In gamma-encoded values, unless the
picture is a linear one (`line.light`).
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

import cv2
import numpy as np
import pyvips
from PIL import Image

from tray_core.pixels.decode import covers
from tray_core.pixels.memory import hold_memory
from tray_core.pixels.picture import Picture, Pixels

hold_memory()
# One process a core is how the product scales; libvips threads beside it would only fight over cores.
pyvips.vips_lib.vips_concurrency_set(1)
# Every picture passes once; the operation cache would hold on to it.
pyvips.cache_set_max(0)

_MOST = 300
"""libvips reduces an edge to a 333rd at most."""

Box = tuple[float, float, float, float]
"""(left, top, right, bottom) in pixels of the picture; fractions of pixels count."""


class Pyramid:
    """A picture with its half, quarter and eighth, each made once, when first wanted.

    whole: (width, height) of the photo that `picture` was decoded from; no level is less than its eighth,
    since what is lost to averages adds up.
    """

    def __init__(self, picture: Picture, whole: tuple[int, int]) -> None:
        self.whole = whole
        self._levels = [picture]

    @property
    def top(self) -> Picture:
        """The picture as it was decoded."""
        return self._levels[0]

    def place(self, level: Picture, x: float, y: float) -> tuple[float, float]:
        """Where in `level` the point (x, y) of the photo, in shares of its edges, lies, in pixels."""
        left, top, right, bottom = self.top.extent or (0, 0, *self.top.size)
        across, down = (level.size[i] / self.top.size[i] for i in (0, 1))
        return (left + x * (right - left)) * across, (top + y * (bottom - top)) * down

    def covering(self, width: float, height: float) -> Picture:
        """The smallest level that covers width x height with the margin, or the whole picture.

        Halving is a mean of four, much as scaled JPEG decoding is; Lanczos does the rest. Pictures
        with alpha are not halved: their weights would be lost.
        """
        level = self._levels[0]
        for following in itertools.count(1):
            half = (level.size[0] // 2, level.size[1] // 2)
            if level.alpha or half[0] < self.whole[0] / 8 or not covers(half, (width, height)):
                break
            if following == len(self._levels):
                pixels = cv2.resize(level.pixels, half, interpolation=cv2.INTER_AREA)
                self._levels.append(Picture(pixels, level.space, False, level.icc))
            level = self._levels[following]
        return level


def resize(picture: Picture, width: int, height: int, box: Box | None = None) -> Picture:
    """Return `box` of `picture`, the whole by default, as width x height pixels of the same kind.

    What lies just outside the box counts at its rim, as it would if the whole were resampled and cut then.
    Transparent pictures are weighted by their alpha, so that the color of what cannot be seen does
    not bleed into edges.
    """
    box = box or (0, 0, *picture.size)
    if box[2] - box[0] == width and box[3] - box[1] == height and all(edge == int(edge) for edge in box):
        left, top, right, bottom = map(int, box)
        pixels = picture.pixels[top:bottom, left:right]
    else:
        grid = _Grid.of(picture.size, (width, height), box)
        if grid is None:
            pixels = _by_pillow(picture, width, height, box)
        elif picture.alpha:
            pixels = _reduced_alpha(picture.pixels, grid)
        else:
            pixels = grid.reduced(np.ascontiguousarray(picture.pixels))
    return Picture(pixels, picture.space, picture.alpha, picture.icc)


@dataclass(frozen=True, slots=True)
class _Edge:
    """Resample the whole pixels first..last of an edge by 1 / scale, and take `count` pixels from `lead` on."""

    first: int
    last: int
    lead: int
    count: int
    scale: float


def _edge(length: int, start: float, stop: float, count: int) -> _Edge | None:
    """How to resample `start`..`stop` of an edge to `count` pixels with a resampler that knows whole edges only.

    libvips lays its grid around the middle of what it is given; by how many more pixels are made on one side
    than on the other, that middle is chosen. None where an edge gets larger, or where no choice comes
    within a hundredth of a pixel of the result, as happens at scales near 1. first..last may lie beyond 0..length.
    """
    if not count <= stop - start <= _MOST * count:
        return None
    scale = (stop - start) / count
    if start == 0 and stop == length:
        return _Edge(0, length, 0, count, scale)
    best: tuple[float, int, int, int] | None = None
    for skew in sorted(range(-40, 41), key=abs):
        twice = start + stop + skew * scale
        center = round(twice)
        miss = abs(twice - center) / 2
        if best is not None and miss >= best[0]:
            continue
        for lead in range(4, 60):
            total = count + 2 * lead + abs(skew)
            low, high = math.ceil((total - 0.499) * scale), math.floor((total + 0.499) * scale)
            span = low if (low - center) % 2 == 0 else low + 1
            if span <= high:
                best = miss, (center - span) // 2, (center + span) // 2, lead + max(0, -skew)
                break
        if best is not None and best[0] < 0.005 * scale:
            break
    return _Edge(*best[1:], count, scale) if best is not None and best[0] < 0.01 * scale else None


@dataclass(frozen=True, slots=True)
class _Grid:
    """Both edges of a picture that gets smaller."""

    across: _Edge
    down: _Edge

    @classmethod
    def of(cls, size: tuple[int, int], wanted: tuple[int, int], box: Box) -> _Grid | None:
        """The grid for a box of a picture of `size`, or None where libvips cannot do it."""
        across, down = (_edge(size[i], box[i], box[i + 2], wanted[i]) for i in (0, 1))
        return cls(across, down) if across is not None and down is not None else None

    def reduced(self, pixels: Pixels) -> Pixels:
        """Pixels without alpha, resampled.

        libvips works columns with vector instructions and rows without. Of 8-bit pictures, rows are made columns by
        turning the picture over its diagonal and back, which takes two thirds of the time.
        """
        if pixels.dtype != np.uint8:
            made = self.reduced_image(pyvips.Image.new_from_array(pixels)).numpy()
            return np.asarray(made.reshape((*made.shape[:2], *pixels.shape[2:])))
        turned = cv2.transpose(_reduced_columns(pixels, self.down))
        return np.asarray(cv2.transpose(_reduced_columns(turned, self.across)))

    def reduced_image(self, image: pyvips.Image) -> pyvips.Image:
        """`image` resampled, whatever its bands and format."""
        x, y = self.across, self.down
        if x.first < 0 or y.first < 0 or x.last > image.width or y.last > image.height:
            image = image.embed(-x.first, -y.first, x.last - x.first, y.last - y.first, extend="copy")
        else:
            image = image.crop(x.first, y.first, x.last - x.first, y.last - y.first)
        image = image.reducev(y.scale, kernel="lanczos3").reduceh(x.scale, kernel="lanczos3")
        return image.crop(x.lead, y.lead, x.count, y.count)


def _reduced_columns(pixels: Pixels, edge: _Edge) -> Pixels:
    """8-bit pixels with their columns resampled."""
    image = pyvips.Image.new_from_array(pixels)
    if edge.first < 0 or edge.last > image.height:
        image = image.embed(0, -edge.first, image.width, edge.last - edge.first, extend="copy")
    else:
        image = image.crop(0, edge.first, image.width, edge.last - edge.first)
    made = image.reducev(edge.scale, kernel="lanczos3").crop(0, edge.lead, image.width, edge.count).numpy()
    return np.asarray(made.reshape((*made.shape[:2], *pixels.shape[2:])))


def _reduced_alpha(pixels: Pixels, grid: _Grid) -> Pixels:
    top = float(np.iinfo(pixels.dtype).max)
    image = pyvips.Image.new_from_array(np.ascontiguousarray(pixels)).copy(
        interpretation="srgb" if pixels.dtype == np.uint8 else "rgb16"
    )
    made = grid.reduced_image(image.premultiply(max_alpha=top)).unpremultiply(max_alpha=top).numpy()
    result: Pixels = np.rint(np.clip(made, 0, top)).astype(pixels.dtype)
    return result


def _by_pillow(picture: Picture, width: int, height: int, box: Box) -> Pixels:
    pixels = picture.pixels
    if pixels.dtype == np.uint8:
        # Pillow weights RGBA by its alpha itself.
        mode = "CMYK" if picture.space == "CMYK" else None
        image = Image.fromarray(np.ascontiguousarray(pixels)) if mode is None else Image.fromarray(pixels, mode)
        return np.asarray(image.resize((width, height), Image.Resampling.LANCZOS, box=box))
    top = float(np.iinfo(pixels.dtype).max)
    values = pixels.astype(np.float32)
    layers = [values] if values.ndim == 2 else [values[..., i] for i in range(values.shape[2])]
    if picture.alpha:
        cover = layers[-1] / top
        layers = [layer * cover for layer in layers[:-1]] + [layers[-1]]
    made = [
        np.asarray(Image.fromarray(layer).resize((width, height), Image.Resampling.LANCZOS, box=box))
        for layer in map(np.ascontiguousarray, layers)
    ]
    if picture.alpha:
        cover = np.maximum(made[-1] / top, 1e-6)
        made = [layer / cover for layer in made[:-1]] + [made[-1]]
    whole = made[0] if values.ndim == 2 else np.stack(made, axis=-1)
    result: Pixels = np.rint(np.clip(whole, 0, top)).astype(pixels.dtype)
    return result
