"""Lens corrections that a DNG file describes: opcodes of its lists 2 and 3.

Source: Adobe Digital Negative (DNG) Specification 1.7, chapter 7: FixVignetteRadial, WarpRectilinear, WarpFisheye and
GainMap. What else may stand there (bad pixels, tables) is passed over.
"""

from __future__ import annotations

import io
import struct
from collections.abc import Iterator
from typing import Any, NamedTuple

import cv2
import numpy as np
import tifffile
from numpy.typing import NDArray

from tray_core.pixels.picture import Pixels16

_LISTS = {2: 51009, 3: 51022}
_WARP, _FISHEYE, _VIGNETTE, _GAIN = 1, 2, 3, 9
_LONGEST = 32_000
"""OpenCV's geometric transforms count pixels in 16 bits."""

_ROWS = 512
_BYTES = 64 << 20

Values = NDArray[np.float64]


class Opcode(NamedTuple):
    """number: what is to be done. data: its parameters, as they stand in the file."""

    number: int
    data: bytes


def opcodes_of(data: bytes) -> dict[int, list[Opcode]]:
    """The opcodes of a file's lists 2 and 3; none where it is no DNG, or what stands there makes no sense."""
    try:
        with tifffile.TiffFile(io.BytesIO(data)) as file:
            first = file.pages.first
            pages = [first, *(first.pages or ())]
            return {
                number: list(_parsed(bytes(value)))
                for number, tag in _LISTS.items()
                if (value := next((v for page in pages if (v := page.tags.valueof(tag))), None))
            }
    except Exception:  # not every raw file is built like a TIFF
        return {}


def _parsed(data: bytes) -> Iterator[Opcode]:
    (count,) = struct.unpack_from(">I", data)
    at = 4
    for _ in range(min(count, 100)):
        number, _, _, size = struct.unpack_from(">4I", data, at)
        yield Opcode(number, data[at + 16 : at + 16 + size])
        at += 16 + size


def gain_maps(opcodes: list[Opcode], mosaic: Pixels16, black: Values, white: int) -> None:
    """Multiply what lies above black in the sensor's own values, in place, by the maps that list 2 has.

    mosaic: height x width. black: height x width, or what numpy takes for it.
    """
    height, width = mosaic.shape
    for opcode in opcodes:
        if opcode.number != _GAIN:
            continue
        top, left, bottom, right, _, _, down, across, rows, columns = struct.unpack_from(">10I", opcode.data)
        spacing_v, spacing_h, origin_v, origin_h = struct.unpack_from(">4d", opcode.data, 40)
        (planes,) = struct.unpack_from(">I", opcode.data, 72)
        if not (down and across and rows * columns * planes * 4 == len(opcode.data) - 76 and planes):
            continue
        gains = np.frombuffer(opcode.data, ">f4", offset=76).reshape(rows, columns, planes)[..., 0].astype(np.float32)
        y = np.arange(top, min(bottom, height), down)
        x = np.arange(left, min(right, width), across)
        if not (len(y) and len(x)):
            continue
        at_y = np.clip(((y + 0.5) / height - origin_v) / (spacing_v or 1), 0, rows - 1).astype(np.float32)
        at_x = np.clip(((x + 0.5) / width - origin_h) / (spacing_h or 1), 0, columns - 1).astype(np.float32)
        for start in range(0, len(y), _ROWS):
            some = slice(start, start + _ROWS)
            grid = (
                np.broadcast_to(at_x, (len(at_y[some]), len(x))),
                np.broadcast_to(at_y[some][:, None], (len(at_y[some]), len(x))),
            )
            gain = cv2.remap(gains, np.ascontiguousarray(grid[0]), np.ascontiguousarray(grid[1]), cv2.INTER_LINEAR)
            here = np.ix_(y[some], x)
            dark = np.broadcast_to(black, mosaic.shape)[here]
            mosaic[here] = np.clip(np.rint((mosaic[here] - dark) * gain + dark), 0, white).astype(np.uint16)


def corrected(opcodes: list[Opcode], pixels: Pixels16, gamma: float) -> Pixels16:
    """A developed picture, not yet turned upright, with the corrections of list 3, in their order.

    pixels: height x width x 3 of encoded values, the power 1 / gamma of light.
    """
    for opcode in opcodes:
        if opcode.number == _VIGNETTE and len(opcode.data) == 56:
            pixels = _lighter(pixels, struct.unpack(">7d", opcode.data), gamma)
        elif opcode.number in (_WARP, _FISHEYE) and max(pixels.shape[:2]) <= _LONGEST:
            pixels = _warped(pixels, opcode)
    return pixels


def _middle(shape: tuple[int, ...], cx: float, cy: float) -> tuple[float, float, float]:
    """(x, y, m): the optical middle in pixels, and how far the farthest corner is from it."""
    height, width = shape[:2]
    x, y = cx * (width - 1), cy * (height - 1)
    return x, y, max(1.0, float(np.hypot(max(x, width - 1 - x), max(y, height - 1 - y))))


def _lighter(pixels: Pixels16, numbers: tuple[float, ...], gamma: float) -> Pixels16:
    *k, cx, cy = numbers
    x, y, m = _middle(pixels.shape, cx, cy)
    made = np.empty_like(pixels)
    across = ((np.arange(pixels.shape[1]) - x) / m) ** 2
    for top in range(0, len(pixels), _ROWS):
        rows = pixels[top : top + _ROWS]
        r2 = across + (((np.arange(len(rows)) + top - y) / m) ** 2)[:, None]
        gain = 1 + r2 * (k[0] + r2 * (k[1] + r2 * (k[2] + r2 * (k[3] + r2 * k[4]))))
        gain = np.maximum(gain, 0) ** (1 / gamma)
        made[top : top + _ROWS] = np.minimum(np.rint(rows * gain[..., None]), 65535)
    return made


def _warped(pixels: Pixels16, opcode: Opcode) -> Pixels16:
    (planes,) = struct.unpack_from(">I", opcode.data)
    each = 6 if opcode.number == _WARP else 4
    if planes not in (1, 3) or len(opcode.data) != 4 + 8 * (planes * each + 2):
        return pixels
    *numbers, cx, cy = struct.unpack_from(f">{planes * each + 2}d", opcode.data, 4)
    x, y, m = _middle(pixels.shape, cx, cy)
    made = np.empty_like(pixels)
    dx = (np.arange(pixels.shape[1]) - x) / m
    for top in range(0, len(pixels), _ROWS):
        dy = ((np.arange(min(_ROWS, len(pixels) - top)) + top - y) / m)[:, None]
        for plane in range(planes):
            k = numbers[plane * each : plane * each + each]
            to_x, to_y = _straight(dx, dy, k) if each == 6 else _from_fisheye(dx, dy, k)
            maps = (x + m * to_x).astype(np.float32), (y + m * to_y).astype(np.float32)
            part = pixels if planes == 1 else np.ascontiguousarray(pixels[..., plane])
            found = cv2.remap(part, *maps, cv2.INTER_LANCZOS4, borderMode=cv2.BORDER_REPLICATE)
            made[top : top + _ROWS, :, slice(None) if planes == 1 else plane] = found
    return made


def _straight(dx: Any, dy: Any, k: list[float]) -> tuple[Any, Any]:
    r2 = dx * dx + dy * dy
    f = k[0] + r2 * (k[1] + r2 * (k[2] + r2 * k[3]))
    both = 2 * dx * dy
    return f * dx + k[4] * both + k[5] * (r2 + 2 * dx * dx), f * dy + k[5] * both + k[4] * (r2 + 2 * dy * dy)


def _from_fisheye(dx: Any, dy: Any, k: list[float]) -> tuple[Any, Any]:
    r = np.sqrt(dx * dx + dy * dy)
    angle = np.arctan(r)
    a2 = angle * angle
    f = angle * (k[0] + a2 * (k[1] + a2 * (k[2] + a2 * k[3]))) / np.maximum(r, 1e-12)
    return f * dx, f * dy
