"""Encoding: from an 8-bit picture to the bytes of a file, with its profile inside."""

from __future__ import annotations

import struct
import zlib

import imagecodecs
import numpy as np

from tray_core.errors import LineError
from tray_core.line.picture import Picture
from tray_core.recipe.stations import JpegFile, PngFile

_ICC_LEAD = b"ICC_PROFILE\0"
_SEGMENT = 65_533 - len(_ICC_LEAD) - 2


def subsampling_for(quality: int) -> str:
    """Chroma subsampling by quality: 4:2:0 below 90, where it cannot be told from 4:4:4 in use."""
    return "444" if quality >= 90 else "420"


def encode(picture: Picture, file: JpegFile | PngFile, ppi: int | None = None) -> bytes:
    """Encode an 8-bit grey, RGB or (PNG only) RGBA picture; same picture, same bytes.

    ppi: pixels an inch, written as a tag; it changes no pixel.
    """
    try:
        if isinstance(file, JpegFile):
            return _with_jpeg_ppi(_encode_jpeg(picture, file.quality), ppi)
        data = imagecodecs.png_encode(np.ascontiguousarray(picture.pixels), level=6)
        return _with_png_ppi(_with_png_profile(bytes(data), picture.icc), ppi)
    except (ValueError, RuntimeError, MemoryError) as error:
        raise LineError(
            file.format.upper(),
            expected="a picture that can be encoded",
            found=str(error) or type(error).__name__,
            remedy="Make the rendition smaller, or choose another format.",
        ) from error


def _encode_jpeg(picture: Picture, quality: int) -> bytes:
    if picture.space == "grey":
        data = imagecodecs.jpeg8_encode(picture.pixels, level=quality, optimize=True)
    else:
        data = imagecodecs.jpeg8_encode(
            np.ascontiguousarray(picture.pixels),
            level=quality,
            optimize=True,
            subsampling=subsampling_for(quality),
        )
    return _with_jpeg_profile(bytes(data), picture.icc)


def _with_jpeg_profile(data: bytes, icc: bytes | None) -> bytes:
    """Put `icc` into APP2 segments behind the JFIF header (ICC.1:2022, Annex B.4)."""
    if icc is None:
        return data
    chunks = [icc[i : i + _SEGMENT] for i in range(0, len(icc), _SEGMENT)]
    segments = b"".join(
        b"\xff\xe2"
        + struct.pack(">H", 2 + len(_ICC_LEAD) + 2 + len(chunk))
        + _ICC_LEAD
        + bytes((number, len(chunks)))
        + chunk
        for number, chunk in enumerate(chunks, 1)
    )
    end = 2
    if data[2:4] == b"\xff\xe0":
        end = 4 + struct.unpack_from(">H", data, 4)[0]
    return data[:end] + segments + data[end:]


def _with_png_profile(data: bytes, icc: bytes | None) -> bytes:
    """Put `icc` into an iCCP chunk behind IHDR (PNG specification, 11.3.2.3)."""
    if icc is None:
        return data
    body = b"iCCP" + b"ICC profile\0\0" + zlib.compress(icc, 9)
    chunk = struct.pack(">I", len(body) - 4) + body + struct.pack(">I", zlib.crc32(body))
    return data[:33] + chunk + data[33:]


def _with_jpeg_ppi(data: bytes, ppi: int | None) -> bytes:
    """Set the density of the JFIF header (ITU-T T.871, 10.1): unit 1 is dots an inch."""
    if ppi is None or data[2:4] != b"\xff\xe0" or data[6:11] != b"JFIF\0":
        return data
    return data[:13] + struct.pack(">BHH", 1, ppi, ppi) + data[18:]


def _with_png_ppi(data: bytes, ppi: int | None) -> bytes:
    """Put a pHYs chunk behind IHDR (PNG specification, 11.3.4.3); its unit is the meter."""
    if ppi is None:
        return data
    meter = round(ppi / 0.0254)
    body = b"pHYs" + struct.pack(">IIB", meter, meter, 1)
    return data[:33] + struct.pack(">I", 9) + body + struct.pack(">I", zlib.crc32(body)) + data[33:]
