"""JPEG: the quick coder is libjpeg-turbo; progressive scans, inks and trellis are mozjpeg's, through libvips."""

from __future__ import annotations

import io
import struct

import imagecodecs
import numpy as np
import pyvips
from PIL import Image, ImageFile

from tray_core.pixels.picture import Picture
from tray_core.recipe.file import JpegFile

# One process a core is how the product scales; libvips threads beside it would only fight over cores.
pyvips.vips_lib.vips_concurrency_set(1)
# Every picture passes once; the operation cache would hold on to it.
pyvips.cache_set_max(0)

_ICC_LEAD = b"ICC_PROFILE\0"
_SEGMENT = 65_533 - len(_ICC_LEAD) - 2
_TABLE = 2
"""mozjpeg's table for multi-scale structural similarity: of its nine the lightest at equal perceptual score here."""


FINE_COLOR_FROM = 90
"""The quality from which color is kept as fine as lightness, unless the recipe says otherwise."""


def chroma_for(chroma: str, quality: int) -> str:
    """Chroma subsampling: as asked for, or 4:2:0 below a quality of 90, where it cannot be told from 4:4:4 in use."""
    if chroma != "auto":
        return chroma
    return "444" if quality >= FINE_COLOR_FROM else "420"


def encode_jpeg(picture: Picture, file: JpegFile, quality: int, ppi: int | None) -> bytes:
    """A grey, RGB or CMYK picture of 8 bits."""
    # Inks are stored as they are: there is no chroma among them, and a coarser black plate would show.
    chroma = "444" if picture.space == "CMYK" else chroma_for(file.chroma, quality)
    if file.progressive and chroma == "422" and picture.space == "RGB":
        data = _by_pillow(picture, quality)
    elif picture.space == "CMYK" or file.progressive or file.coder == "thorough":
        data = _by_vips(picture, file, quality, chroma)
    else:
        pixels = np.ascontiguousarray(picture.pixels)
        sampling = None if picture.space == "grey" else chroma
        data = bytes(imagecodecs.jpeg8_encode(pixels, level=quality, optimize=True, subsampling=sampling))
    return _with_ppi(_with_profile(data, picture.icc), ppi)


def _by_pillow(picture: Picture, quality: int) -> bytes:
    """Progressive scans of 4:2:2, which libvips does not offer."""
    image, made = Image.fromarray(np.ascontiguousarray(picture.pixels)), io.BytesIO()
    # The room for a file is guessed by Pillow, too small for noise; more than the pixels themselves it never is.
    ImageFile.MAXBLOCK = max(ImageFile.MAXBLOCK, picture.pixels.nbytes + 65_536)
    image.save(made, "JPEG", quality=quality, optimize=True, progressive=True, subsampling="4:2:2")
    return made.getvalue()


def _by_vips(picture: Picture, file: JpegFile, quality: int, chroma: str) -> bytes:
    """Progressive scans; inks, written inverted, and saying so, as all readers expect; trellis quantization."""
    thorough = file.coder == "thorough" and picture.space != "CMYK"
    kind = {"grey": "b-w", "RGB": "srgb", "CMYK": "cmyk"}[picture.space]
    image = pyvips.Image.new_from_array(np.ascontiguousarray(picture.pixels), interpretation=kind)
    made: bytes = image.jpegsave_buffer(
        Q=quality,
        optimize_coding=True,
        interlace=file.progressive,
        trellis_quant=thorough,
        overshoot_deringing=thorough,
        optimize_scans=file.progressive and thorough,
        quant_table=_TABLE if thorough else 0,
        subsample_mode="off" if chroma == "444" else "on",
        keep="none",
    )
    return made


def _with_profile(data: bytes, icc: bytes | None) -> bytes:
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


def _with_ppi(data: bytes, ppi: int | None) -> bytes:
    """Set the density of the JFIF header (ITU-T T.871, 10.1): unit 1 is dots an inch."""
    if ppi is None:
        return data
    if data[2:4] == b"\xff\xe0" and data[6:11] == b"JFIF\0":
        return data[:13] + struct.pack(">BHH", 1, ppi, ppi) + data[18:]
    head = b"\xff\xe0" + struct.pack(">H5sHBHHBB", 16, b"JFIF\0", 0x0101, 1, ppi, ppi, 0, 0)
    return data[:2] + head + data[2:]
