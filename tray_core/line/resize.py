"""Resampling a part of a picture to exact pixels in one step, by Lanczos-3 with a support that grows with
the reduction.

Source of the method: Duchon (1979), "Lanczos filtering in one and two dimensions"; computed by `line.resample`. In
gamma-encoded values, unless the picture is a linear one (`line.light`).
"""

from __future__ import annotations

import itertools

import cv2

from tray_core.pixels.decode import covers
from tray_core.pixels.memory import hold_memory
from tray_core.pixels.picture import Picture

hold_memory()

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
        # Here, since Numba takes two seconds that planning need not wait for.
        from tray_core.line.resample import resampled

        across, down = ((picture.size[i], box[i], box[i + 2], (width, height)[i]) for i in (0, 1))
        pixels = resampled(picture.pixels, across, down, picture.alpha)
    return Picture(pixels, picture.space, picture.alpha, picture.icc)
