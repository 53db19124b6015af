"""TIFF files of every kind of sample, written bit by bit from the specification (TIFF 6.0)."""

from __future__ import annotations

import struct
import zlib
from collections.abc import Sequence
from typing import Any

import imagecodecs
import numpy as np
from numpy.typing import NDArray

COMPRESSIONS = {"none": 1, "lzw": 5, "deflate": 8, "packbits": 32773}
_SIZES = {1: "B", 2: "s", 3: "H", 4: "I", 5: "I"}


def _packed(rows: NDArray[Any], bits: int, order: str) -> bytes:
    """Rows of samples as bytes: whole numbers of up to 16 bits side by side, the highest bit first; others as they are.

    Sizes of 8, 16, 32 and 64 bits follow the byte order of the file, all others do not (TIFF 6.0, section 3).
    """
    if bits in (8, 16, 32, 64):
        return rows.astype(rows.dtype.newbyteorder("<" if order == "<" else ">")).tobytes()
    shifts = np.arange(bits - 1, -1, -1)
    spread = ((rows[..., None].astype(np.uint32) >> shifts) & 1).astype(np.uint8)
    return np.packbits(spread.reshape(len(rows), -1), axis=1).tobytes()


def _squeezed(data: bytes, compression: str) -> bytes:
    match compression:
        case "lzw":
            return bytes(imagecodecs.lzw_encode(data))
        case "deflate":
            return zlib.compress(data)
        case "packbits":
            return bytes(imagecodecs.packbits_encode(data))
    return data


def tiff_file(
    samples: NDArray[Any],
    *,
    bits: int,
    photometric: int,
    format: int = 1,
    extras: Sequence[int] = (),
    planar: int = 1,
    compression: str = "none",
    order: str = "<",
    rows_a_strip: int = 7,
    more: Sequence[tuple[int, int, Sequence[int]]] = (),
    raw: bytes | None = None,
) -> bytes:
    """height x width x channels of numbers as a TIFF. more: tags (number, type, values). raw: the strip's bytes."""
    height, width, channels = samples.shape
    planes = [samples.reshape(height, -1)] if planar == 1 else [samples[..., c] for c in range(channels)]
    if raw is not None:
        planes, rows_a_strip, strips = [], height, [_squeezed(raw, compression)]
    else:
        strips = [
            _squeezed(_packed(plane[at : at + rows_a_strip], bits, order), compression)
            for plane in planes
            for at in range(0, height, rows_a_strip)
        ]
    places = [8 + sum(map(len, strips[:i])) + i for i in range(len(strips))]
    body = b"".join(strip + b"\0" for strip in strips)
    tags: list[tuple[int, int, Sequence[int]]] = [
        (256, 4, [width]),
        (257, 4, [height]),
        (258, 3, [bits] * channels),
        (259, 3, [COMPRESSIONS[compression]]),
        (262, 3, [photometric]),
        (273, 4, places),
        (277, 3, [channels]),
        (278, 4, [rows_a_strip]),
        (279, 4, [len(strip) for strip in strips]),
        (284, 3, [planar]),
        (339, 3, [format] * channels),
        *([(338, 3, list(extras))] if extras else []),
        *more,
    ]
    start = 8 + len(body) + len(body) % 2
    directory, behind = b"", b""
    after = start + 2 + 12 * len(tags) + 4
    for tag, kind, values in sorted(tags, key=lambda each: each[0]):
        data = struct.pack(f"{order}{len(values)}{_SIZES[kind]}", *values)
        count = len(values) // (2 if kind == 5 else 1)
        if len(data) > 4:
            place = struct.pack(order + "I", after + len(behind))
            behind += data + b"\0" * (len(data) % 2)
        else:
            place = data.ljust(4, b"\0")
        directory += struct.pack(order + "HHI", tag, kind, count) + place
    mark = b"II*\0" if order == "<" else b"MM\0*"
    head = mark + struct.pack(order + "I", start) + body + bytes(len(body) % 2)
    return head + struct.pack(order + "H", len(tags)) + directory + bytes(4) + behind
