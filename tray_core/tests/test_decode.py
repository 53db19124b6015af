"""Every kind of file that is read gives the picture that went in."""

from __future__ import annotations

import io
from collections.abc import Callable

import imagecodecs
import numpy as np
import tifffile
from PIL import Image

from tray_core.photo import PhotoFacts, read_facts
from tray_core.pixels.color import to_8
from tray_core.pixels.decode import decode
from tray_core.pixels.picture import Picture
from tray_core.tests.samples import FolderCase, scene

RGB = scene(60, 40)
GREY = RGB[..., 0]
ALPHA = np.repeat(np.arange(60, dtype=np.uint8)[None] * 4, 40, 0)


def pillow(kind: str, mode: str = "RGB", pixels: np.ndarray = RGB, **save: object) -> Callable[[], bytes]:  # type: ignore[type-arg]
    def encode() -> bytes:
        file = io.BytesIO()
        Image.fromarray(pixels).convert(mode).save(file, kind, **save)
        return file.getvalue()

    return encode


def tiff(pixels: np.ndarray, **write: object) -> Callable[[], bytes]:  # type: ignore[type-arg]
    def encode() -> bytes:
        file = io.BytesIO()
        tifffile.imwrite(file, pixels, **write)  # type: ignore[arg-type]
        return file.getvalue()

    return encode


def png16(pixels: np.ndarray) -> Callable[[], bytes]:  # type: ignore[type-arg]
    return lambda: bytes(imagecodecs.png_encode(pixels.astype(np.uint16) * 257))


class Kinds(FolderCase):
    def read(self, data: bytes) -> tuple[PhotoFacts, Picture]:
        facts = read_facts("some", data=data)
        return facts, decode(facts, data, (facts.width, facts.height))

    def check(self, name: str, data: bytes, wanted: np.ndarray, mode: str, depth: int, within: int = 0) -> None:  # type: ignore[type-arg]
        facts, picture = self.read(data)
        with self.subTest(name):
            self.assertEqual((facts.mode, facts.depth, (facts.width, facts.height)), (mode, depth, (60, 40)))
            self.assertEqual(picture.pixels.shape, wanted.shape)
            self.assertEqual(facts.alpha, picture.alpha)
            error = np.abs(to_8(picture).pixels.astype(int) - wanted.astype(int))
            self.assertLessEqual(float(np.quantile(error, 0.99)), within)

    def test_lossless_kinds_exactly(self) -> None:
        clear = np.dstack([RGB, ALPHA])
        for name, encode, wanted, mode, depth in (
            ("png", pillow("PNG"), RGB, "RGB", 8),
            ("png grey", pillow("PNG", "L", GREY), GREY, "grey", 8),
            ("png with alpha", pillow("PNG", "RGBA", clear), clear, "RGB", 8),
            ("png 16", png16(RGB), RGB, "RGB", 16),
            ("png 16 with alpha", png16(clear), clear, "RGB", 16),
            ("png 16 grey", png16(GREY), GREY, "grey", 16),
            ("webp", pillow("WEBP", lossless=True), RGB, "RGB", 8),
            ("tiff", tiff(RGB, photometric="rgb"), RGB, "RGB", 8),
            ("tiff lzw", tiff(RGB, photometric="rgb", compression="lzw"), RGB, "RGB", 8),
            ("tiff planes", tiff(np.moveaxis(RGB, -1, 0), photometric="rgb", planarconfig="separate"), RGB, "RGB", 8),
            ("tiff 16", tiff(RGB.astype(np.uint16) * 257, photometric="rgb"), RGB, "RGB", 16),
            ("tiff float", tiff((RGB / 255).astype(np.float32), photometric="rgb"), RGB, "RGB", 32),
            ("tiff white is zero", tiff(255 - GREY, photometric="miniswhite"), GREY, "grey", 8),
            ("tiff pages", tiff(np.stack([RGB, 255 - RGB]), photometric="rgb"), RGB, "RGB", 8),
            ("tiff with alpha", tiff(clear, photometric="rgb", extrasamples=["unassalpha"]), clear, "RGB", 8),
        ):
            self.check(name, encode(), wanted, mode, depth)

    def test_palettes_and_lossy_kinds_nearly(self) -> None:
        palette = Image.fromarray(RGB).quantize(64)
        colors = np.asarray(palette.convert("RGB"))
        for kind in ("PNG", "TIFF", "GIF"):
            file = io.BytesIO()
            palette.save(file, kind)
            self.check(f"palette {kind}", file.getvalue(), colors, "palette", 8, within=1)
        for name, encode, mode, wanted in (
            ("jpeg", pillow("JPEG", quality=95, subsampling=0), "RGB", RGB),
            ("jpeg progressive", pillow("JPEG", quality=95, subsampling=0, progressive=True), "RGB", RGB),
            ("jpeg grey", pillow("JPEG", "L", GREY, quality=95), "grey", GREY),
            ("avif", pillow("AVIF", quality=95, subsampling="4:4:4"), "RGB", RGB),
        ):
            self.check(name, encode(), wanted, mode, 8, within=8)

    def test_cmyk_values_are_ink(self) -> None:
        inks = np.asarray(Image.fromarray(RGB).convert("CMYK"))
        for data in (pillow("JPEG", "CMYK", quality=100)(), pillow("TIFF", "CMYK")()):
            facts, picture = self.read(data)
            self.assertEqual((facts.mode, picture.space), ("CMYK", "CMYK"))
            self.assertLess(np.abs(picture.pixels.astype(int) - inks.astype(int)).mean(), 2)
