"""Formats that common libraries read: TIFF, WebP, AVIF, GIF, layered files, HEIC, JPEG 2000."""

from __future__ import annotations

import io
import struct
import zipfile
from dataclasses import replace
from typing import Any

import imagecodecs
import numpy as np
import pi_heif
import tifffile
from numpy.typing import NDArray
from PIL import Image

from tray_core.apart.wrong import Wrong
from tray_core.photo.facts import facts_of_image, facts_of_tiff
from tray_core.photo.profile_making import coded_profile
from tray_core.pixels.decode import from_array, from_pillow
from tray_core.pixels.picture import Picture

Facts = tuple[dict[str, Any], bytes | None]

_MERGED = "mergedimage.png"
_LARGEST_MEMBER = 2_000_000_000
_HEAD = 65_536
"""Bytes in which the boxes that describe a picture are looked for."""


def common_facts(data: bytes) -> Facts:
    """By Pillow: WebP, AVIF, GIF (its first frame), layered pictures (their flattened one)."""
    with Image.open(io.BytesIO(data)) as image:
        return facts_of_image(image)


def common(data: bytes, wanted: tuple[int, int], limit: int) -> Picture:
    """By Pillow."""
    return from_pillow(data)


def tiff_facts(data: bytes) -> Facts:
    """The first page of a TIFF."""
    return facts_of_tiff(data)


def tiff(data: bytes, wanted: tuple[int, int], limit: int) -> Picture:
    """The first page, as stored; its EXIF orientation is applied later."""
    facts, icc = facts_of_tiff(data)
    with tifffile.TiffFile(io.BytesIO(data)) as file:
        page = file.pages.first
        if page.imagewidth * page.imagelength * page.imagedepth > limit:
            raise ValueError("more pixels than its header says")
        pixels: NDArray[Any] = page.asarray(maxworkers=1)
        photometric = getattr(page.photometric, "name", "RGB")
        if pixels.ndim == 3 and page.planarconfig == 2:
            pixels = np.moveaxis(pixels, 0, -1)
        if photometric == "PALETTE":
            if page.colormap is None:
                raise ValueError("a palette picture without its palette")
            pixels = page.colormap.T[pixels]
        elif photometric == "MINISWHITE":
            pixels = np.iinfo(pixels.dtype).max - pixels if pixels.dtype.kind == "u" else ~pixels
        if pixels.dtype == np.bool_:
            pixels = pixels.astype(np.uint8) * 255
        if pixels.dtype.kind == "f":
            pixels = np.rint(np.clip(np.nan_to_num(pixels), 0, 1) * 65535).astype(np.uint16)
        if pixels.dtype not in (np.uint8, np.uint16):
            raise ValueError(f"{pixels.dtype} values, of which only 8 and 16 bits and floats are read")
        channels = 1 if pixels.ndim == 2 else pixels.shape[2]
        color = {"SEPARATED": 4, "MINISBLACK": 1, "MINISWHITE": 1}.get(photometric, 3)
        if photometric == "SEPARATED" and channels < 4:
            raise ValueError(f"{channels} inks, of which only four are read")
        keep = color + 1 if facts["alpha"] and channels > color else color
        if channels > keep:
            pixels = pixels[..., :keep]
        if keep == 1 and pixels.ndim == 3:
            pixels = pixels[..., 0]
        if photometric == "SEPARATED":
            return Picture(np.ascontiguousarray(pixels[..., :4]), "CMYK", False, icc)
    return from_array(np.ascontiguousarray(pixels), icc)


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
        facts, icc = facts_of_image(image)
    return {**facts, "depth": merged[24]}, icc


def open_raster(data: bytes, wanted: tuple[int, int], limit: int) -> Picture:
    """The flattened picture that the file carries."""
    merged = _merged(data)
    (width, height) = struct.unpack_from(">II", merged, 16)
    if width * height > limit:
        raise ValueError(f"a flattened picture of {width} x {height}")
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
        if image.width * image.height > limit:
            raise ValueError("more pixels than are allowed")
    values = imagecodecs.avif_decode(data, index=0, numthreads=1).astype(np.uint32)
    if values.ndim == 2:  # grey, which is three channels to Pillow and to the colors that are named
        values = np.repeat(values[..., None], 3, 2)
    most = (1 << depth) - 1
    return from_array(((values * 65535 + most // 2) // most).astype(np.uint16), icc)


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
    if file.size[0] * file.size[1] > limit:
        raise ValueError("more pixels than its header says")
    return from_array(np.asarray(file), _heic_icc(file, data))


def _jpeg_2000_icc(data: bytes) -> bytes | None:
    """The profile in the colr box (ISO/IEC 15444-1, annex I.5.3.3), if there is one."""
    at = data.find(b"colr", 0, _HEAD)
    if at < 4 or data[at + 4] != 2:
        return None
    (size,) = struct.unpack_from(">I", data, at - 4)
    return data[at + 7 : at - 4 + size]


def jpeg_2000_facts(data: bytes) -> Facts:
    """From the header, by Pillow."""
    with Image.open(io.BytesIO(data)) as image:
        facts, _ = facts_of_image(image)
    size = data.index(b"\xff\x51")
    # The first component's precision less one, in the SIZ marker segment (ISO/IEC 15444-1, annex A.5.1).
    return {**facts, "depth": max(8, (data[size + 40] & 0x7F) + 1)}, _jpeg_2000_icc(data)


def jpeg_2000(data: bytes, wanted: tuple[int, int], limit: int) -> Picture:
    """All of it; more than 8 bits become 16."""
    with Image.open(io.BytesIO(data)) as image:
        if image.width * image.height > limit:
            raise ValueError("more pixels than are allowed")
    return from_array(imagecodecs.jpeg2k_decode(data, numthreads=1), _jpeg_2000_icc(data))
