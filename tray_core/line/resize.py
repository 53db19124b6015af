"""Resampling a part of a picture to exact pixels in one step, by Lanczos-3 with a support that grows with
the reduction.

Source of the method: Duchon (1979), "Lanczos filtering in one and two dimensions"; computed by `line.resample`. In
gamma-encoded values, unless the picture is a linear one (`line.light`).
"""

from __future__ import annotations

from tray_core.pixels.memory import hold_memory
from tray_core.pixels.picture import Picture

hold_memory()

Box = tuple[float, float, float, float]
"""(left, top, right, bottom) in pixels of the picture; fractions of pixels count."""


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
