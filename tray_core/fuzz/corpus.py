"""What the fuzzing begins with: one small sound file of every kind."""

from __future__ import annotations

import io
import struct
import zipfile
from collections.abc import Sequence
from typing import Any

import cv2
import imagecodecs
import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image

from tray_core.fuzz.heics import heic_file
from tray_core.fuzz.tiffs import tiff_file
from tray_core.photo.profile_files import NAMED

_WIDTH, _HEIGHT = 90, 60


def scene(seed: int = 1, width: int = _WIDTH, height: int = _HEIGHT) -> NDArray[np.uint8]:
    """Smooth shapes with grain, height x width x 3."""
    random = np.random.default_rng(seed)
    coarse = random.integers(0, 255, (5, 7, 3)).astype(np.float32)
    smooth = cv2.resize(coarse, (width, height), interpolation=cv2.INTER_CUBIC)
    made: NDArray[np.uint8] = np.clip(smooth + random.normal(0, 3, smooth.shape), 0, 255).astype(np.uint8)
    return made


def saved(kind: str, pixels: NDArray[np.uint8] | Image.Image, **more: Any) -> bytes:
    file = io.BytesIO()
    image = pixels if isinstance(pixels, Image.Image) else Image.fromarray(pixels)
    image.save(file, kind, **more)
    return file.getvalue()


def _tiff(pixels: NDArray[np.generic], **more: Any) -> bytes:
    file = io.BytesIO()
    tifffile.imwrite(file, pixels, **more)
    return file.getvalue()


def open_raster(pixels: NDArray[np.uint8]) -> bytes:
    """A layered file with one layer and its flattened picture."""
    png, file = saved("PNG", pixels, compress_level=1), io.BytesIO()
    with zipfile.ZipFile(file, "w", zipfile.ZIP_STORED) as made:
        for name, data in (
            ("mimetype", b"image/openraster"),
            ("stack.xml", b"<image><stack><layer src='data/a.png'/></stack></image>"),
            ("data/a.png", png),
            ("mergedimage.png", png),
        ):
            made.writestr(zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0)), data)
    return file.getvalue()


def layered(pixels: NDArray[np.uint8]) -> bytes:
    """A layered file that is no zip, with nothing in it but its flattened picture, planes one after the other."""
    height, width = pixels.shape[:2]
    head = b"8BPS" + struct.pack(">H6xHIIHH", 1, 3, height, width, 8, 3)
    return head + bytes(12) + struct.pack(">H", 0) + np.moveaxis(pixels, 2, 0).tobytes()


def svg(body: str = "", head: str = "") -> bytes:
    """A drawing of 90 x 60."""
    shapes = "<rect width='50' height='30' fill='#aa5500'/><circle cx='60' cy='30' r='20' fill='teal'/>"
    return f"{head}<svg xmlns='http://www.w3.org/2000/svg' xmlns:xlink='http://www.w3.org/1999/xlink' width='90' height='60'>{shapes}{body}</svg>".encode()  # noqa: E501


def pdf(more: str = "", content: str = "0.8 0.3 0.1 rg 10 10 40 20 re f") -> bytes:
    """A document of one page. more: keys for its catalog."""
    bodies = [
        f"<</Type/Catalog/Pages 2 0 R{more}>>",
        "<</Type/Pages/Kids[3 0 R]/Count 1>>",
        "<</Type/Page/Parent 2 0 R/MediaBox[0 0 90 60]/Contents 4 0 R>>",
        f"<</Length {len(content)}>>\nstream\n{content}\nendstream",
    ]
    made = "%PDF-1.4\n" + "".join(f"{n} 0 obj\n{body}\nendobj\n" for n, body in enumerate(bodies, 1))
    return (made + "trailer\n<</Size 5/Root 1 0 R>>\n%%EOF\n").encode()


def dng(
    width: int = _WIDTH,
    height: int = _HEIGHT,
    rgb: NDArray[np.uint16] | None = None,
    more: Sequence[tuple[int, str, int, Any, bool]] = (),
) -> bytes:
    """A raw file with a Bayer mosaic (DNG specification). rgb: what the sensor saw, or a scene. more: further tags."""
    if rgb is None:
        rgb = scene(3, width, height).astype(np.uint16) * 150
    mosaic = rgb[..., 1].copy()
    mosaic[::2, ::2], mosaic[1::2, 1::2] = rgb[::2, ::2, 0], rgb[1::2, 1::2, 2]
    matrix = [(9, 10), (-2, 10), (-1, 10), (-5, 10), (13, 10), (2, 10), (-1, 10), (2, 10), (6, 10)]
    flat = [value for pair in matrix for value in pair]
    tags = [
        (50706, "B", 4, (1, 4, 0, 0), True),
        (50708, "s", 0, "Quillmarsh bench camera", True),
        (33421, "H", 2, (2, 2), True),
        (33422, "B", 4, (0, 1, 1, 2), True),
        (50721, "2i", 9, flat, True),
        (50728, "2I", 3, (1, 2, 1, 1, 2, 3), True),
        (50714, "H", 1, 0, True),
        (50717, "H", 1, 65535, True),
        (50778, "H", 1, 21, True),
    ]
    return _tiff(mosaic, photometric=32803, extratags=[*tags, *more], metadata=None, subfiletype=0)


def sound_files(width: int = _WIDTH, height: int = _HEIGHT) -> dict[str, bytes]:
    """One sound file of every kind that can be made here, by name; drawings and pages have the usual small size."""
    rgb = scene(1, width, height)
    rgba = np.dstack([rgb, np.linspace(0, 255, width, dtype=np.uint8)[None].repeat(height, 0)])
    wide = rgb.astype(np.uint16) * 257
    cmyk = np.dstack([255 - rgb, np.zeros((height, width), np.uint8)])
    icc = NAMED["display-p3"]
    colors = [int(each) for each in np.random.default_rng(2).integers(0, 256, 48)]
    few = Image.fromarray(rgb[..., 0] >> 4, "P")
    few.putpalette(colors)
    palette = [each * 257 for each in colors]
    return {
        "jpeg": saved("JPEG", rgb, quality=88, icc_profile=icc),
        "jpeg-progressive": saved("JPEG", rgb, quality=80, progressive=True),
        "jpeg-inks": saved("JPEG", Image.fromarray(cmyk, "CMYK"), quality=88),
        "png": saved("PNG", rgba, icc_profile=icc, compress_level=1),
        "png-16": bytes(imagecodecs.png_encode(wide, level=1)),
        "png-palette": saved("PNG", few, transparency=3, compress_level=1),
        "tiff-lzw": _tiff(rgb, photometric="rgb", compression="lzw", iccprofile=icc),
        "tiff-deflate-16": _tiff(
            wide, photometric="rgb", compression="zlib", compressionargs={"level": 1}, predictor=True
        ),
        "tiff-inks": _tiff(cmyk, photometric="separated"),
        "tiff-12": tiff_file(wide[..., :1] >> 4, bits=12, photometric=0, compression="lzw"),
        "tiff-4-palette": tiff_file(rgb[..., :1] >> 4, bits=4, photometric=3, more=[(320, 3, palette)]),
        "tiff-lab": tiff_file(rgb, bits=8, photometric=8, compression="packbits", order=">"),
        "tiff-color-apart": tiff_file(rgb, bits=8, photometric=6, more=[(530, 3, [1, 1])]),
        "tiff-half-floats": tiff_file((rgb / 255).astype(np.float16), bits=16, photometric=2, format=3, planar=2),
        "tiff-carried-alpha": tiff_file(np.minimum(rgba, rgba[..., 3:]), bits=8, photometric=2, extras=[1]),
        "webp": saved("WEBP", rgba, quality=80),
        "avif": saved("AVIF", rgb, quality=70, speed=10),
        "gif": saved("GIF", few),
        "bmp": saved("BMP", rgb),
        "heic": heic_file(width, height),
        "jpeg-xl": bytes(imagecodecs.jpegxl_encode(rgb, level=80, effort=3)),
        "jpeg-2000": bytes(imagecodecs.jpeg2k_encode(rgb, level=40)),
        "jpeg-2000-12": bytes(imagecodecs.jpeg2k_encode(wide >> 4, level=40, bitspersample=12)),
        "open-raster": open_raster(rgba),
        "layered": layered(rgb),
        "svg": svg(),
        "pdf": pdf(),
        "dng": dng(width, height),
    }
