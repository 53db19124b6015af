"""Formats that common libraries read: WebP, AVIF, GIF, layered files, HEIC, JPEG 2000."""

from __future__ import annotations

import io
import struct
import zipfile
from dataclasses import replace
from typing import Any

import imagecodecs
import numpy as np
import pi_heif
from numpy.typing import NDArray
from PIL import Image

from tray_core.photo.damage import SAVE_ANEW, Wrong, check_pixels
from tray_core.photo.facts import facts_of_image
from tray_core.photo.profile_making import coded_profile
from tray_core.pixels.decode import from_array, from_pillow
from tray_core.pixels.picture import Picture

Facts = tuple[dict[str, Any], bytes | None]

_MERGED = "mergedimage.png"
_LARGEST_MEMBER = 500_000_000
_HEAD = 65_536
"""Bytes in which the boxes that describe a picture are looked for."""


def common_facts(data: bytes) -> Facts:
    """By Pillow: WebP, AVIF, GIF (its first frame), layered pictures (their flattened one)."""
    with Image.open(io.BytesIO(data)) as image:
        return facts_of_image(image)


def common(data: bytes, wanted: tuple[int, int], limit: int) -> Picture:
    """By Pillow."""
    return from_pillow(data)


def _merged(data: bytes) -> bytes:
    """The flattened picture inside a layered file that is a zip."""
    with zipfile.ZipFile(io.BytesIO(data)) as file:
        info = file.getinfo(_MERGED)
        if info.file_size > _LARGEST_MEMBER:
            raise Wrong(
                expected="a flattened picture of usual size in it",
                found=f"{info.file_size:,} bytes",
                remedy="Save a smaller copy.",
                large=True,
            )
        return file.read(info)


def open_raster_facts(data: bytes) -> Facts:
    """Of the flattened picture."""
    merged = _merged(data)
    with Image.open(io.BytesIO(merged)) as image:
        facts, icc = facts_of_image(image, merged)
    return {**facts, "depth": merged[24]}, icc


def open_raster(data: bytes, wanted: tuple[int, int], limit: int) -> Picture:
    """The flattened picture that the file carries."""
    merged = _merged(data)
    (width, height) = struct.unpack_from(">II", merged, 16)
    check_pixels(width, height, limit)
    return from_array(imagecodecs.png_decode(merged), open_raster_facts(data)[1])


def coded_color(data: bytes) -> bytes | None:
    """The profile for the code points in the first colr box that has some (ISO/IEC 14496-12, 12.1.5); None without."""
    at = data.find(b"colrnclx", 0, _HEAD)
    if at < 0 or at + 12 > len(data):
        return None
    return coded_profile(*struct.unpack_from(">HH", data, at + 8))


def _avif_depth(data: bytes) -> int:
    """Bits a channel, from the AV1 configuration (AV1 in ISO media files, 2.3.3)."""
    at = data.find(b"av1C", 0, _HEAD)
    flags = data[at + 6] if 0 <= at < len(data) - 6 else 0
    return (12 if flags & 0x20 else 10) if flags & 0x40 else 8


def avif_facts(data: bytes) -> Facts:
    """By Pillow, but for its colors and depth."""
    facts, icc = common_facts(data)
    depth = _avif_depth(data)
    return {**facts, "depth": depth}, icc or coded_color(data)


def avif(data: bytes, wanted: tuple[int, int], limit: int) -> Picture:
    """By Pillow, which knows 8 bits, or by libavif alone; more than 8 bits become 16."""
    _, icc = avif_facts(data)
    depth = _avif_depth(data)
    if depth == 8:
        return replace(from_pillow(data), icc=icc)
    with Image.open(io.BytesIO(data)) as image:
        check_pixels(image.width, image.height, limit)
    values = imagecodecs.avif_decode(data, index=0, numthreads=1)
    if values.ndim == 2:  # grey, which is three channels to Pillow and to the colors that are named
        values = np.repeat(values[..., None], 3, 2)
    return from_array(_stretched(values, depth, depth), icc)


def _heic_icc(file: Any, data: bytes) -> bytes | None:
    icc = file.info.get("icc_profile")
    if icc:
        return bytes(icc)
    # Code points speak of three colors; a grey picture has none of them.
    return None if file.mode.startswith("L") else coded_color(data)


def heic_facts(data: bytes) -> Facts:
    """Of the primary picture, upright: its turns are part of it."""
    file = pi_heif.open_heif(io.BytesIO(data), convert_hdr_to_8bit=False)
    width, height = file.size
    taken = None
    if file.info.get("exif"):
        exif = Image.Exif()
        exif.load(file.info["exif"])
        taken = exif.get_ifd(0x8769).get(36867)
    depth = int(file.info.get("bit_depth", 8))
    alpha = "A" in file.mode
    return {"width": width, "height": height, "depth": depth, "alpha": alpha, "taken": taken}, _heic_icc(file, data)


def heic(data: bytes, wanted: tuple[int, int], limit: int) -> Picture:
    """The primary picture; more than 8 bits become 16."""
    file = pi_heif.open_heif(io.BytesIO(data), convert_hdr_to_8bit=False)
    width, height = file.size
    check_pixels(width, height, limit)
    # The library lends its memory, rows of it wider than the picture: a copy is made while it is still there.
    values = np.array(np.asarray(file)[:, :width])
    if values.dtype == np.uint16:
        values = _stretched(values, 16, int(file.info.get("bit_depth", 16)))
    return from_array(values, _heic_icc(file, data))


def _stretched(values: NDArray[Any], lowest_of: int, bits: int) -> NDArray[np.uint16]:
    """Values of `bits` bits, which are the upper ones of `lowest_of`, in proportion on all of 0..65535."""
    most = (1 << bits) - 1
    table = (np.arange(most + 1, dtype=np.int64) * 65535 + most // 2) // most
    return np.asarray(table.astype(np.uint16)[np.minimum(values >> (lowest_of - bits), most)])


def _jpeg_2000_icc(data: bytes) -> bytes | None:
    """The profile in the colr box (ISO/IEC 15444-1, annex I.5.3.3), if there is one."""
    at = data.find(b"colr", 0, _HEAD)
    if at < 4 or data[at + 4] != 2:
        return None
    (size,) = struct.unpack_from(">I", data, at - 4)
    return data[at + 7 : at - 4 + size]


def _jpeg_2000_depth(data: bytes) -> int:
    """Bits of every component, from the SIZ marker segment (ISO/IEC 15444-1, annex A.5.1)."""
    size = data.index(b"\xff\x51")
    (count,) = struct.unpack_from(">H", data, size + 38)
    rows = [struct.unpack_from("3B", data, size + 40 + 3 * i) for i in range(count)]
    depths: set[int] = {(precision & 0x7F) + 1 for precision, _, _ in rows}
    if len(depths) > 1 or any(precision & 0x80 for precision, _, _ in rows) or max(depths) > 16:
        found = "signed ones" if len(depths) == 1 and max(depths) <= 16 else f"{sorted(depths)} bits"
        raise Wrong(expected="a JPEG 2000 of up to 16 bits a channel, all alike", found=found, remedy=SAVE_ANEW)
    return depths.pop()


def jpeg_2000_facts(data: bytes) -> Facts:
    """From the header, by Pillow."""
    with Image.open(io.BytesIO(data)) as image:
        facts, _ = facts_of_image(image)
    return {**facts, "depth": max(8, _jpeg_2000_depth(data))}, _jpeg_2000_icc(data)


def jpeg_2000(data: bytes, wanted: tuple[int, int], limit: int) -> Picture:
    """All of it; more than 8 bits become 16, fewer 8."""
    with Image.open(io.BytesIO(data)) as image:
        check_pixels(image.width, image.height, limit)
    depth = _jpeg_2000_depth(data)
    values = imagecodecs.jpeg2k_decode(data, numthreads=1)
    if depth not in (8, 16):
        wide = _stretched(values, depth, depth)
        values = wide if depth > 8 else (wide >> 8).astype(np.uint8)
    return from_array(values, _jpeg_2000_icc(data))
