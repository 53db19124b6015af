"""Finding an object on a plain ground: what can be reached from the picture's border without crossing an edge, or
leaving the ground's color, is ground with its soft shadows; where the rest begins is told by mixing, within a pixel.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from tray_core.outline import NO_OUTLINE, Outline
from tray_core.pixels.picture import Pixels8
from tray_core.tracing.fitting import fitted_path
from tray_core.tracing.grounds import ground_of

_Floats = NDArray[np.float32]
_Mask = NDArray[np.bool_]

LARGEST = 2000
"""Long edge in pixels of what is looked at: edges are found within half of one of these."""

_STEEP = 4.5
"""Levels a pixel, of a copy blurred by one pixel: shadows and noise rise less, edges more."""

_HUE = 7.0
"""Levels by which a shadow's color may be off the ground's, made darker."""

_CONTACT_STEEP, _CONTACT_HUE = 9.0, 3.0

_DARK = 0.45
"""A shadow takes no more than this share of the ground's lightness."""

_HOLE_DARK, _HOLE_HUE = 0.22, 4.0
_SHADED_DARK, _SHADED_HUE = 0.4, 2.5
"""Of holes, which no path leads to, less is believed; of dark ones only the ground's very hue, amid another color."""

_WEAK, _MOST_WEAK = 6.0, 0.06
"""Levels a pixel that an edge should rise by, and the share of it that may rise by less."""

_BAND = 3
"""Pixels around ground where mixing is looked for."""

_LEAST = 2e-5
"""Parts of the picture's area that are dust."""

_FINER = 3
"""How much finer than a pixel the edge is followed."""


@dataclass(frozen=True, slots=True)
class Found:
    """outline: with `sure` as the finder believes. why: sentences on what is doubtful, none where nothing is."""

    outline: Outline
    why: tuple[str, ...] = ()


def plain_ground(pixels: Pixels8) -> bool:
    """Whether a picture (height x width x 3, sRGB, 8 bits) has a plain ground to look for an object on."""
    return ground_of(pixels).plain


def find_outline(pixels: Pixels8) -> Found:
    """The outline of what lies on the plain ground of a picture (height x width x 3, sRGB, 8 bits), holes included."""
    ground = ground_of(pixels)
    if not ground.plain:
        return Found(NO_OUTLINE, ("The ground is not plain.",))
    height, width = pixels.shape[:2]
    if (scale := LARGEST / max(height, width)) < 1:
        size = (max(1, round(width * scale)), max(1, round(height * scale)))
        pixels = np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), np.uint8)
        height, width = pixels.shape[:2]
    hue, dark, steep = _looked_at(pixels, ground.over(height, width))
    # Where an object stands on its ground, the shadow rises steeply, and has the ground's very hue.
    smooth = (steep < _STEEP) | ((hue < _CONTACT_HUE) & (steep < _CONTACT_STEEP))
    outer = _reached((hue < _HUE) & smooth & (dark < _DARK))
    holes, doubtful = _holes(outer, hue, dark, steep)
    cover = _mixed(pixels, outer | holes, hue, dark, steep)
    paths = tuple(fitted_path(each, (width, height)) for each in _edges(cover))
    if not paths:
        return Found(NO_OUTLINE, ("Nothing lies on the ground.",))
    why = list(_doubts(cover, steep, doubtful))
    return Found(Outline(paths=paths, sure=not why), tuple(why))


def _looked_at(pixels: Pixels8, ground: _Floats) -> tuple[_Floats, _Floats, _Floats]:
    """Of each pixel: levels off the ground's hue, how much darker than it (0..1), and levels a pixel it rises by.

    Made darker, encoded values of all channels go down by one factor, nearly.
    """
    soft = cv2.GaussianBlur(pixels.astype(np.float32), (0, 0), 1.0)
    channels = cv2.split(soft)
    against = [cv2.divide(channel, below) for channel, below in zip(channels, cv2.split(ground), strict=True)]
    light = cv2.addWeighted(cv2.addWeighted(against[0], 0.2126, against[1], 0.7152, 0), 1, against[2], 0.0722, 0)
    hue, steep = np.zeros_like(light), np.zeros_like(light)
    for channel, share in zip(channels, against, strict=True):
        cv2.max(hue, cv2.absdiff(share, light), dst=hue)
        across, down = (cv2.Scharr(channel, cv2.CV_32F, *way, scale=1 / 32) for way in ((1, 0), (0, 1)))
        cv2.multiply(across, across, dst=across)
        cv2.max(steep, cv2.accumulateSquare(down, across), dst=steep)
    return np.asarray(hue * 255, np.float32), np.asarray(1 - light, np.float32), np.asarray(cv2.sqrt(steep), np.float32)


def _reached(smooth: _Mask) -> _Mask:
    """What of `smooth` hangs together with the picture's border."""
    count, labels = cv2.connectedComponents(smooth.astype(np.uint8), connectivity=4)
    outside = np.zeros(count, bool)
    for edge in (labels[0], labels[-1], labels[:, 0], labels[:, -1]):
        outside[edge] = True
    outside[0] = False
    return np.asarray(outside[labels], bool)


def _holes(outer: _Mask, hue: _Floats, dark: _Floats, steep: _Floats) -> tuple[_Mask, int]:
    """Ground that no path leads to: plain patches of its color within what is of another. And how many are doubtful:
    shaded, so that they may be grey parts of the object.
    """
    patches = (hue < _HUE) & (np.abs(dark) < 1.2 * _SHADED_DARK) & (steep < _STEEP) & ~outer
    count, labels, stats, _ = cv2.connectedComponentsWithStats(patches.astype(np.uint8), connectivity=4)
    found = np.zeros(count, bool)
    doubtful = 0
    least = max(40, 1e-5 * outer.size)
    for number in np.flatnonzero(stats[:, cv2.CC_STAT_AREA] >= least):
        if number == 0:
            continue
        left, top, wide, high = stats[number, :4]
        here = np.s_[max(0, top - 8) : top + high + 8, max(0, left - 8) : left + wide + 8]
        patch = (labels[here] == number).astype(np.uint8)
        inside = patch.astype(bool)
        darkness, off = float(np.median(dark[here][inside])), float(np.median(hue[here][inside]))
        ring = (cv2.dilate(patch, np.ones((15, 15), np.uint8)) - cv2.dilate(patch, np.ones((7, 7), np.uint8))) > 0
        # What surrounds it is of another color, or far darker: not ground, as it is around a grey part.
        colored = hue[here][ring] > 10
        plain = abs(darkness) < _HOLE_DARK and off < _HOLE_HUE
        shaded = 0 <= darkness < _SHADED_DARK and off < _SHADED_HUE
        if plain and (colored | (dark[here][ring] > darkness + 0.3)).mean() > 0.6:
            found[number] = True
            doubtful += darkness > 0.1
        elif shaded and colored.mean() > 0.85:
            found[number] = True
            doubtful += 1
    return np.asarray(found[labels], bool), doubtful


def _mixed(pixels: Pixels8, ground: _Mask, hue: _Floats, dark: _Floats, steep: _Floats) -> _Floats:
    """How much of each pixel is the object, 0..1: 0 in the ground, 1 well inside, and between by its color's way from
    the ground nearby to the object nearby.
    """
    near = cv2.dilate(ground.astype(np.uint8), np.ones((2 * _BAND + 1, 2 * _BAND + 1), np.uint8)).astype(bool)
    inside = ~near | (((hue > 16) | (dark > 0.45)) & (steep < 12) & ~ground)
    between = ~ground & ~inside
    cover = inside.astype(np.float32)
    if not between.any():
        return cover
    rows, columns = (np.flatnonzero(between.any(axis=axis)) for axis in (1, 0))
    here = np.s_[max(0, rows[0] - 12) : rows[-1] + 13, max(0, columns[0] - 12) : columns[-1] + 13]
    at = between[here]
    below, _ = _nearby(pixels[here], ground[here], at)
    above, known = _nearby(pixels[here], inside[here], at)
    way, off = above - below, pixels[here][at] - below
    share = np.einsum("ij,ij->i", off, way) / np.maximum(np.einsum("ij,ij->i", way, way), 1)
    # Too thin to have an inside: by how far it is from the ground.
    thin = np.abs(off).max(axis=1) / 40
    cover[between] = np.clip(np.where(known > 2e-3, share, thin), 0, 1)
    _, labels, stats, _ = cv2.connectedComponentsWithStats((cover > 0.5).astype(np.uint8), connectivity=8)
    kept = stats[:, cv2.CC_STAT_AREA] >= max(60, _LEAST * cover.size)
    kept[0] = False
    return np.asarray(cover * cv2.dilate(kept[labels].astype(np.uint8), np.ones((3, 3), np.uint8)), np.float32)


def _nearby(pixels: Pixels8, where: _Mask, at: _Mask) -> tuple[_Floats, _Floats]:
    """The mean color of what is marked, within about three pixels of those at `at`, and how much of it there is."""
    marked = where.astype(np.uint8)
    own = cv2.bitwise_and(pixels, pixels, mask=marked)
    boxes = (cv2.boxFilter(each, cv2.CV_32F, (9, 9), normalize=False)[at] for each in (marked, own))
    amount, sums = (np.asarray(each / np.float32(81), np.float32) for each in boxes)
    return np.asarray(sums / np.maximum(amount, 1e-4)[:, None], np.float32), amount


def _edges(cover: _Floats) -> list[NDArray[np.float64]]:
    """The closed lines at which half of a pixel is covered, points x 2 in pixels, holes included."""
    rows, columns = (np.flatnonzero((cover > 0.5).any(axis=axis)) for axis in (1, 0))
    if not len(rows):
        return []
    # Around it a border of nothing, so that what touches the picture's edge is closed there.
    left, top = columns[0], rows[0]
    part = np.pad(cover[top : rows[-1] + 1, left : columns[-1] + 1], 2)
    height, width = part.shape
    large = cv2.resize(part, (width * _FINER, height * _FINER), interpolation=cv2.INTER_LINEAR)
    found, _ = cv2.findContours((large > 0.5).astype(np.uint8), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    least = max(60.0, _LEAST * cover.size) / 4
    lines = []
    for each in found:
        line = each[:, 0].astype(np.float64)
        if len(line) >= 12 and cv2.contourArea(each) / _FINER**2 >= least:
            lines.append((line + 0.5) / _FINER - 2 + (left, top))
    return lines


def _doubts(cover: _Floats, steep: _Floats, holes: int) -> list[str]:
    """What speaks against an outline, in sentences."""
    found = []
    touched = sum(float((edge > 0.5).mean()) > 0 for edge in (cover[0], cover[-1], cover[:, 0], cover[:, -1]))
    if touched:
        found.append("The object reaches the picture's edge.")
    share = float((cover > 0.5).mean())
    if share > 0.9:
        found.append("There is hardly any ground.")
    if share < 0.01:
        found.append("What was found is small: more of the object may look like its ground.")
    inside = (cover > 0.5).astype(np.uint8)
    edge = (cv2.dilate(inside, np.ones((3, 3), np.uint8)) - inside).astype(bool)
    # The steepest place within two pixels counts: the edge itself may lie beside a pixel's middle.
    weak = cv2.dilate(steep, np.ones((5, 5), np.uint8))[edge] < _WEAK
    if len(weak) and weak.mean() > _MOST_WEAK:
        found.append("Part of its edge can hardly be told from the ground, or is out of focus.")
    if holes:
        found.append("There may be a hole, or a grey part that looks like one.")
    return found
