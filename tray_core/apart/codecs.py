"""Formats that common libraries read: TIFF, WebP, AVIF, GIF, layered files, HEIC, JPEG XL, JPEG 2000."""

from __future__ import annotations

import io
import struct
import zipfile
from typing import Any

import imagecodecs
import numpy as np
import pi_heif
import tifffile
from numpy.typing import NDArray
from PIL import Image

from tray_core.apart.wrong import Wrong
from tray_core.photo.facts import facts_of_image, facts_of_tiff
from tray_core.photo.profile_files import NAMED
from tray_core.pixels.decode import from_array, from_pillow
from tray_core.pixels.picture import Picture

Facts = tuple[dict[str, Any], bytes | None]

_MERGED = "mergedimage.png"
_LARGEST_MEMBER = 2_000_000_000
_P3_PRIMARIES = 12


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


def _heic_icc(file: Any) -> bytes | None:
    icc = file.info.get("icc_profile")
    if icc:
        return bytes(icc)
    nclx = file.info.get("nclx_profile") or {}
    return NAMED["display-p3"] if nclx.get("color_primaries") == _P3_PRIMARIES else None


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
    return {"width": width, "height": height, "depth": depth, "alpha": alpha, "taken": taken}, _heic_icc(file)


def heic(data: bytes, wanted: tuple[int, int], limit: int) -> Picture:
    """The primary picture; more than 8 bits become 16."""
    file = pi_heif.open_heif(io.BytesIO(data), convert_hdr_to_8bit=False)
    if file.size[0] * file.size[1] > limit:
        raise ValueError("more pixels than its header says")
    return from_array(np.asarray(file), _heic_icc(file))


def jpeg_xl_facts(data: bytes) -> Facts:
    """Decodes it: the header says only the size, which is checked first."""
    picture = jpeg_xl(data, (0, 0), _most_pixels(data))
    width, height = picture.size
    depth = 16 if picture.pixels.dtype == np.uint16 else 8
    return {"width": width, "height": height, "depth": depth, "alpha": picture.alpha, "mode": picture.space}, None


def _most_pixels(data: bytes) -> int:
    width, height = jpeg_xl_size(data)
    if width * height > 500_000_000:
        raise Wrong(
            expected="at most 500 megapixels", found=f"{width} x {height}", remedy="Save a smaller copy.", large=True
        )
    return width * height


def jpeg_xl(data: bytes, wanted: tuple[int, int], limit: int) -> Picture:
    """The first frame; taken as sRGB, in which the library gives it."""
    width, height = jpeg_xl_size(data)
    if width * height > limit:
        raise ValueError("more pixels than are allowed")
    pixels = imagecodecs.jpegxl_decode(data, index=0, numthreads=1)
    if pixels.dtype.kind == "f":
        pixels = np.rint(np.clip(np.nan_to_num(pixels), 0, 1) * 65535).astype(np.uint16)
    return from_array(pixels, None)


def jpeg_xl_size(data: bytes) -> tuple[int, int]:
    """(width, height) as stored, from the SizeHeader of the codestream (ISO/IEC 18181-1, annex D)."""
    start = 2 if data[:2] == b"\xff\x0a" else _codestream(data) + 2
    bits = int.from_bytes(data[start : start + 16], "little")

    def take(count: int) -> int:
        nonlocal bits
        value, bits = bits & ((1 << count) - 1), bits >> count
        return value

    def edge(small: int) -> int:
        return (take(5) + 1) * 8 if small else take((9, 13, 18, 30)[take(2)]) + 1

    small = take(1)
    height = edge(small)
    ratio = take(3)
    shares = ((1, 1), (12, 10), (4, 3), (3, 2), (16, 9), (5, 4), (2, 1))
    width = edge(small) if ratio == 0 else height * shares[ratio - 1][0] // shares[ratio - 1][1]
    return width, height


def _codestream(data: bytes) -> int:
    """Where the codestream begins in the container (ISO/IEC 18181-2)."""
    at = 0
    while at + 8 <= len(data):
        size, name = struct.unpack_from(">I4s", data, at)
        head = 8
        if size == 1:
            (size,) = struct.unpack_from(">Q", data, at + 8)
            head = 16
        if name == b"jxlc":
            return at + head
        if name == b"jxlp":
            return at + head + 4
        if size < head:
            break
        at += size
    raise ValueError("no codestream in it")


def _jpeg_2000_icc(data: bytes) -> bytes | None:
    """The profile in the colr box (ISO/IEC 15444-1, annex I.5.3.3), if there is one."""
    at = data.find(b"colr", 0, 65_536)
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
