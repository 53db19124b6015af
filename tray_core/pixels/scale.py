"""How small a photo may be decoded: what is averaged away before resampling is lost to it.

A scaled decoding (n/8 of a JPEG, half a raw file) is near to a mean of blocks. Against one Lanczos-3 from the whole it
loses nothing that can be measured while it stays three times as large as the rendition; closer than that, it
depends on how much fine detail the photo has. That is measured, on the photo itself.
"""

from __future__ import annotations

import cv2
import numpy as np

from tray_core.photo.facts import PhotoFacts
from tray_core.pixels.picture import Picture

RAW = "camera raw"

STANDARD_EDGE = 2048
"""The longest edge of a whole photo's rendition for which the standard decoding is enough."""

AMPLE = 3.0
"""How much larger than the rendition a scaled decoding of any photo must be: at least 51 dB PSNR against Lanczos-3 from
the whole picture, on nine pixel-sharp photographs."""

CLOSE = 11 / 8
"""The same for photos without fine detail."""

_DETAILED_FILE = 0.3
"""Bytes a pixel from which a JPEG is taken for finely detailed without trying: it nearly always is."""

_LOST, _FALL = 0.13, 3.5
"""What scaling loses of the finest detail that is left, in mean squares: at most this share where the picture is
just `CLOSE`, falling with this power of its size. Found on 50 pictures, sharp and soft, with noise and without."""

_MOST_LOST = 0.75
"""In squares of 8-bit levels: 49.4 dB PSNR."""

_ROWS = 64


def covers(size: tuple[int, int], wanted: tuple[float, float], margin: float) -> bool:
    """Whether a picture of `size` is at least `margin` times as large as a rendition of `wanted` pixels."""
    return all(have >= want * margin for have, want in zip(size, wanted, strict=True))


def jpeg_scale(stored: tuple[int, int], wanted: tuple[int, int], margin: float = AMPLE) -> int:
    """The divisor (1, 2, 4 or 8) of the smallest scaled decoding that covers `wanted` with the margin.

    stored, wanted: (width, height) in stored orientation. Only the powers of two are used: their
    inverse transforms are vectorized in libjpeg-turbo, so that 4/8 costs less time than 3/8 and
    leaves the resampling more to work with.
    """
    for divisor in (8, 4, 2):
        if covers((-(-stored[0] // divisor), -(-stored[1] // divisor)), wanted, margin):
            return divisor
    return 1


def scales(facts: PhotoFacts) -> bool:
    """Whether decoding for less gives less: true of JPEG, drawings, pages and raw files."""
    return (facts.format == "JPEG" and facts.mode != "CMYK") or facts.format in ("SVG", "PDF", RAW)


def standard_size(facts: PhotoFacts) -> tuple[int, int]:
    """(width, height) of the largest rendition of the whole photo that its standard decoding is good for, upright.

    The whole photo's size where it cannot be decoded smaller, or has no need to be.
    """
    whole = facts.width, facts.height
    if not scales(facts):
        return whole
    share = min(1.0, STANDARD_EDGE / max(whole))
    wanted = max(1, round(whole[0] * share)), max(1, round(whole[1] * share))
    if facts.format in ("SVG", "PDF"):
        return wanted
    if facts.format == RAW:
        return wanted if covers((whole[0] // 2, whole[1] // 2), wanted, CLOSE) else whole
    divisor, margin = jpeg_scale(whole, wanted), AMPLE
    if divisor == 1 and jpeg_scale(whole, wanted, CLOSE) > 1:
        divisor, margin = 2, CLOSE
    return whole if divisor == 1 else (int(whole[0] / divisor / margin), int(whole[1] / divisor / margin))


def worth_trying(stored: tuple[int, int], wanted: tuple[int, int], size: int) -> bool:
    """Whether a JPEG of `size` bytes may lack fine detail so that its half, which is not ample, would do."""
    half = (-(-stored[0] // 2), -(-stored[1] // 2))
    return covers(half, wanted, CLOSE) and size < _DETAILED_FILE * stored[0] * stored[1]


def is_soft(half: Picture, wanted: tuple[int, int]) -> bool:
    """Whether a photo has so little fine detail that its half-size decoding, of 8 bits, will do for `wanted`.

    Detail just beyond what the half can show, which would be lost or come out as a false pattern, is about as strong
    as the finest that is in it: the second differences along both edges, in `_ROWS` rows.
    """
    height, width = half.pixels.shape[:2]
    if width < 3 or height < 3:
        return False
    rows = np.unique(np.linspace(1, height - 2, min(_ROWS, height - 2)).astype(int))
    above, middle, below = (half.pixels[rows + off].reshape(len(rows), width, -1) for off in (-1, 0, 1))
    across = cv2.filter2D(middle, cv2.CV_16S, np.array([[1, -2, 1]], np.float32))[:, 1:-1]
    twice = cv2.add(middle, middle, dtype=cv2.CV_16S)
    down = cv2.subtract(cv2.add(above, below, dtype=cv2.CV_16S), twice)
    fine = sum(cv2.norm(each, cv2.NORM_L2SQR) / each.size for each in (across, down)) / 16
    margin = min(have / want for have, want in zip(half.size, wanted, strict=True))
    lost: float = _LOST * fine * (CLOSE / margin) ** _FALL
    return lost <= _MOST_LOST
