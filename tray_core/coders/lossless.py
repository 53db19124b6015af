"""PNG, whole and with a palette; TIFF; GIF."""

from __future__ import annotations

import io
import struct
import zlib

import imagecodecs
import numpy as np
import tifffile
from PIL import Image

from tray_core.pixels.color import to_rgb_channels
from tray_core.pixels.picture import Picture
from tray_core.recipe.file import GifFile, PngFile, TiffFile

_SMALL = 640
"""Long edge of the copy in which a palette is looked for: what is rarer needs no color of its own."""


def encode_png(picture: Picture, file: PngFile, ppi: int | None) -> bytes:
    """A grey, RGB or RGBA picture of 8 or 16 bits."""
    if file.colors is not None and picture.pixels.dtype == np.uint8:
        made = io.BytesIO()
        _with_palette(picture, file.colors, dither=True).save(made, "PNG", compress_level=max(1, file.effort))
        data = made.getvalue()
    else:
        data = bytes(imagecodecs.png_encode(np.ascontiguousarray(picture.pixels), level=file.effort))
    return _with_chunks(data, picture.icc, ppi)


def _with_palette(picture: Picture, colors: int, dither: bool) -> Image.Image:
    """Median cut (Heckbert, 1982), then error diffusion (Floyd and Steinberg, 1976); by octree where there is alpha."""
    pixels = np.ascontiguousarray(to_rgb_channels(picture).pixels)
    image = Image.fromarray(pixels)
    if picture.alpha:
        return image.quantize(colors, Image.Quantize.FASTOCTREE)
    small = image.copy()
    small.thumbnail((_SMALL, _SMALL), Image.Resampling.NEAREST)
    palette = small.quantize(colors, Image.Quantize.MEDIANCUT)
    return image.quantize(palette=palette, dither=Image.Dither.FLOYDSTEINBERG if dither else Image.Dither.NONE)


def _chunk(name: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))


def _with_chunks(data: bytes, icc: bytes | None, ppi: int | None) -> bytes:
    """Put iCCP and pHYs behind IHDR (PNG specification, 11.3.2.3 and 11.3.4.3); pHYs counts pixels a meter."""
    made = _chunk(b"iCCP", b"ICC profile\0\0" + zlib.compress(icc, 9)) if icc is not None else b""
    if ppi is not None:
        meter = round(ppi / 0.0254)
        made += _chunk(b"pHYs", struct.pack(">IIB", meter, meter, 1))
    return data[:33] + made + data[33:]


def encode_tiff(picture: Picture, file: TiffFile, ppi: int | None) -> bytes:
    """A grey, RGB, RGBA or CMYK picture of 8 or 16 bits, its lines differenced before they are compressed."""
    made = io.BytesIO()
    photometric = {"grey": "minisblack", "RGB": "rgb", "CMYK": "separated"}[picture.space]
    packed = file.compression != "none"
    tifffile.imwrite(
        made,
        np.ascontiguousarray(picture.pixels),
        photometric=photometric,
        extrasamples=["unassalpha"] if picture.alpha else None,
        compression=file.compression if packed else None,
        predictor=True if packed else None,
        iccprofile=picture.icc,
        resolution=(ppi, ppi) if ppi else None,
        resolutionunit="inch" if ppi else None,
        rowsperstrip=max(1, (1 << 20) // max(1, picture.pixels.nbytes // picture.size[1])),
        metadata=None,
        software=False,
        maxworkers=1,
    )
    return made.getvalue()


def encode_gif(picture: Picture, file: GifFile) -> bytes:
    """A grey, RGB or RGBA picture of 8 bits; what is less than half opaque becomes transparent."""
    made = io.BytesIO()
    if not picture.alpha:
        _with_palette(picture, file.colors, file.dither).save(made, "GIF", optimize=True)
        return made.getvalue()
    color = Picture(np.ascontiguousarray(picture.pixels[..., :3]), "RGB", False, None)
    image = _with_palette(color, max(2, file.colors - 1), file.dither)
    clear = len(image.getpalette() or []) // 3
    values = np.asarray(image).copy()
    clear = min(clear, 255)
    values[picture.pixels[..., 3] < 128] = clear
    indexed = Image.fromarray(values, "P")
    indexed.putpalette([*(image.getpalette() or [])[: 3 * clear], 255, 255, 255])
    indexed.save(made, "GIF", optimize=False, transparency=clear)
    return made.getvalue()
