"""From a decoded photo to the part of it that a layout shows, at the rendition's pixels."""

from __future__ import annotations

import math
from dataclasses import replace

import cv2
import numpy as np

from tray_core.errors import LineError
from tray_core.line.light import has_curves, to_encoded, to_linear
from tray_core.line.prep import correct
from tray_core.line.resize import Box, resize
from tray_core.line.sharpen import sharpen_first
from tray_core.line.toning import Where, apply_tone
from tray_core.pixels.color import to_16, to_working
from tray_core.pixels.picture import Picture, Pixels8
from tray_core.plan.layout import Layout
from tray_core.recipe.stations import Prep
from tray_core.tone import NEUTRAL, Tone

_LONGEST_WARP = 32_000
"""OpenCV's geometric transforms count pixels in 16 bits."""


class Source:
    """One decoded photo with what several renditions share of it: as it is, prepared, in linear light.

    whole: (width, height) of the photo that `picture` was decoded from. developed: whether it was developed for a tone,
    with light above white, which only that tone brings to where it belongs. Every rendition is resampled from these
    pixels at once: whatever is averaged in between is lost (docs/decisions/0011).
    """

    def __init__(self, picture: Picture, whole: tuple[int, int], developed: bool = False) -> None:
        self.picture = picture
        self.developed = developed
        self._whole = whole
        self._made: dict[tuple[Prep | None, bool, Tone], Picture] = {}

    def tones(self, tone: Tone) -> bool:
        """Whether there is anything to be done for a tone, after it was developed."""
        return tone.graded or self.developed

    def prepared(self, linear: bool, prep: Prep | None = None, tone: Tone = NEUTRAL) -> tuple[Picture, bool]:
        """The prepared photo, in linear light where that is wanted and can be had; and whether it is."""
        prep = prep if prep is not None and (prep.corrects or prep.sharpen is not None) else None
        linear = linear and has_curves(self.picture)
        if prep is None and not linear and not self.tones(tone):
            return self.picture, False
        if (prep, linear, tone) not in self._made:
            made = apply_tone(self.picture, tone, max(self.picture.size), developed=self.developed)
            if prep is not None:
                made = correct(to_working(made), prep)
                if prep.sharpen is not None:
                    scale = max(made.size) / max(self._whole)
                    made = sharpen_first(made, prep.sharpen, min(1.0, scale))
            made = to_linear(made) if linear else made
            self._made[prep, linear, tone] = replace(made, extent=self.picture.extent)
        return self._made[prep, linear, tone], linear


def _place(picture: Picture, x: float, y: float) -> tuple[float, float]:
    """Where in a decoded picture the point (x, y) of the photo, in shares of its edges, lies, in pixels."""
    left, top, right, bottom = picture.extent or (0, 0, *picture.size)
    return left + x * (right - left), top + y * (bottom - top)


def size_needed(layout: Layout) -> tuple[int, int]:
    """(width, height) that the whole photo has at the scale of the rendition, rounded up."""
    width, height = layout.upright_canvas
    return (
        math.ceil(layout.source[0] * width / layout.rect[2] - 1e-6),
        math.ceil(layout.source[1] * height / layout.rect[3] - 1e-6),
    )


def shown_part(
    source: Source, layout: Layout, linear: bool = False, prep: Prep | None = None, tone: Tone = NEUTRAL
) -> tuple[Picture, Pixels8 | None]:
    """The photo's part of a rendition, resampled once to the pixels of `layout.inner`, not yet turned by quarters.

    The second value is a mask for a rectangle that is turned by an angle: 0 where it reaches beyond the
    photo, 255 inside, height x width. A tone comes before automatic corrections, which look at what it makes; where
    there are none it is left to the rendition's own pixels, of which there are fewer, in 16 bits.
    """
    early = prep is not None and prep.corrects
    picture, in_linear = source.prepared(linear, prep, tone if early else NEUTRAL)
    late = not early and source.tones(tone)
    if late:
        picture = to_16(picture)
    mask: Pixels8 | None = None
    if layout.angle:
        made, mask = _turned(picture, layout)
    else:
        _, _, width, height = layout.inner
        left, top, right, bottom = layout.box
        start = _place(picture, left / layout.source[0], top / layout.source[1])
        stop = _place(picture, right / layout.source[0], bottom / layout.source[1])
        made = resize(picture, width, height, _snapped((*start, *stop), picture.size))
    made = to_encoded(made) if in_linear else made
    if late:
        made = apply_tone(made, tone, max(layout.source) * layout.scale, _where(layout), source.developed)
    if layout.mirror:
        made = replace(made, pixels=cv2.flip(made.pixels, 1))
        mask = None if mask is None else cv2.flip(mask, 1).astype(np.uint8)
    return made, mask


def _where(layout: Layout) -> Where:
    """Where the pixels of `layout.inner` lie in the photo, before they are mirrored."""
    _, _, width, height = layout.inner
    left, top, right, bottom = layout.box
    angle = math.radians(layout.angle)
    half = math.hypot(*layout.source) / 2
    steps = (right - left) / width / half, (bottom - top) / height / half
    across = math.cos(angle) * steps[0], math.sin(angle) * steps[0]
    down = -math.sin(angle) * steps[1], math.cos(angle) * steps[1]
    middle = (left + right - layout.source[0]) / 2 / half, (top + bottom - layout.source[1]) / 2 / half
    start = (middle[axis] - across[axis] * (width - 1) / 2 - down[axis] * (height - 1) / 2 for axis in (0, 1))
    return Where((next(start), next(start)), across, down)


def _snapped(box: Box, size: tuple[int, int]) -> Box:
    """Whole pixels are whole pixels, whatever floating point makes of them; nothing lies beyond the picture."""
    near = [round(edge) if abs(edge - round(edge)) < 1e-6 * max(size) else edge for edge in box]
    return max(0, near[0]), max(0, near[1]), min(size[0], near[2]), min(size[1], near[3])


def _turned(picture: Picture, layout: Layout) -> tuple[Picture, Pixels8]:
    """Turn by an angle at the picture's own scale, where little is lost, then resample to the rendition."""
    width, height = layout.upright_canvas
    left, top, wide, high = layout.rect
    origin, end = _place(picture, 0, 0), _place(picture, 1, 1)
    across, down = ((end[i] - origin[i]) / layout.source[i] for i in (0, 1))
    # The grid has the picture's scale, and no less than the rendition's pixels.
    grid = (max(width, math.ceil(wide * across)), max(height, math.ceil(high * down)))
    angle = math.radians(layout.angle)
    turn = np.array([[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]])
    to_picture = np.diag([across, down])
    steps = to_picture @ turn @ np.diag([wide / grid[0], high / grid[1]])
    center = np.array([origin[0] + (left + wide / 2) * across, origin[1] + (top + high / 2) * down])
    # Pixel centers: grid position u means (u + 0.5) steps from the rectangle's corner.
    first = center - steps @ (np.array(grid) / 2 - 0.5) - 0.5
    corners = np.array([first + steps @ (np.array(at) * grid) for at in ((0, 0), (1, 0), (0, 1), (1, 1))])
    low = np.clip(np.floor(corners.min(axis=0)).astype(int) - 8, 0, None)
    low = np.minimum(low, np.array(picture.size) - 1)
    high_ = np.clip(np.ceil(corners.max(axis=0)).astype(int) + 8, low + 1, picture.size)
    if max(*grid, *(high_ - low)) > _LONGEST_WARP:
        raise LineError(
            "frame.angle",
            expected=f"a straightened part of at most {_LONGEST_WARP} pixels on an edge",
            found=f"{grid[0]} x {grid[1]}",
            remedy="Straighten the photo itself, or make the rendition smaller.",
        )
    part = np.ascontiguousarray(picture.pixels[low[1] : high_[1], low[0] : high_[0]])
    matrix = np.column_stack([steps, first - low])
    how = cv2.WARP_INVERSE_MAP
    pixels = cv2.warpAffine(part, matrix, grid, flags=cv2.INTER_LANCZOS4 | how, borderMode=cv2.BORDER_REPLICATE)
    inside = np.full(part.shape[:2], 255, np.uint8)
    mask = cv2.warpAffine(inside, matrix, grid, flags=cv2.INTER_LINEAR | how, borderMode=cv2.BORDER_CONSTANT)
    made = resize(Picture(pixels, picture.space, picture.alpha, picture.icc), width, height)
    return made, cv2.resize(mask, (width, height), interpolation=cv2.INTER_AREA).astype(np.uint8)
