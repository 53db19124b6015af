"""Every format that is read, in its varieties: the same scene comes out, upright, in its own colors."""

from __future__ import annotations

import io
import struct
import unittest
import zlib
from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image

from tray_core.errors import DamagedPhoto
from tray_core.fuzz import fuzz
from tray_core.fuzz.corpus import dng, layered, open_raster, pdf, scene, svg
from tray_core.fuzz.hostile import hostile_files
from tray_core.fuzz.run import read_one
from tray_core.photo import Limits, PhotoFacts, read_facts
from tray_core.photo.profile_files import NAMED
from tray_core.pixels.color import to_8, to_srgb
from tray_core.pixels.decode import decode
from tray_core.pixels.picture import Picture
from tray_core.pixels.scale import standard_size
from tray_core.tests.samples import PHOTOS

DATA = Path(__file__).parent / "data"
RGB = scene(9)


def saved(kind: str, image: Image.Image, **more: Any) -> bytes:
    file = io.BytesIO()
    image.save(file, kind, **more)
    return file.getvalue()


def tiff(pixels: NDArray[np.generic], **more: Any) -> bytes:
    file = io.BytesIO()
    tifffile.imwrite(file, pixels, **more)
    return file.getvalue()


def read(data: bytes, name: str = "a file with the wrong name.txt") -> tuple[PhotoFacts, Picture]:
    facts = read_facts(name, data=data)
    return facts, decode(facts, data, (facts.width, facts.height))


def shown(picture: Picture) -> NDArray[np.int64]:
    made = to_8(to_srgb(picture)).pixels.astype(np.int64)
    return made[..., :3]


class Varieties(unittest.TestCase):
    def near(self, data: bytes, format: str, within: float, wanted: NDArray[np.uint8] = RGB) -> PhotoFacts:
        facts, picture = read(data)
        self.assertEqual((facts.format, facts.width, facts.height), (format, wanted.shape[1], wanted.shape[0]))
        error = np.abs(shown(picture) - wanted.astype(np.int64)).mean()
        self.assertLess(error, within, format)
        return facts

    def test_jpeg(self) -> None:
        image = Image.fromarray(RGB)
        for sampling in (0, 1, 2):
            for progressive in (False, True):
                data = saved("JPEG", image, quality=95, subsampling=sampling, progressive=progressive)
                self.near(data, "JPEG", 3)
        grey = image.convert("L")
        self.near(saved("JPEG", grey, quality=95), "JPEG", 2, np.repeat(np.asarray(grey)[..., None], 3, 2))
        inks = Image.fromarray(np.dstack([255 - RGB, np.zeros(RGB.shape[:2], np.uint8)]), "CMYK")
        facts, picture = read(saved("JPEG", inks, quality=95))
        self.assertEqual((facts.mode, picture.space), ("CMYK", "CMYK"))
        self.assertLess(np.abs(picture.pixels.astype(int) - np.asarray(inks)).mean(), 3)
        several = saved("MPO", image, save_all=True, append_images=[grey.convert("RGB")], quality=95)
        self.near(several, "JPEG", 3)

    def test_the_eight_orientations(self) -> None:
        upright = Image.fromarray(RGB)
        turns = {
            2: Image.Transpose.FLIP_LEFT_RIGHT,
            3: Image.Transpose.ROTATE_180,
            4: Image.Transpose.FLIP_TOP_BOTTOM,
            5: Image.Transpose.TRANSPOSE,
            6: Image.Transpose.ROTATE_90,
            7: Image.Transpose.TRANSVERSE,
            8: Image.Transpose.ROTATE_270,
        }
        for number, turn in turns.items():
            exif = Image.Exif()
            exif[274] = number
            stored = upright.transpose(turn)
            for kind, more in (("JPEG", {"quality": 95, "subsampling": 0}), ("WEBP", {"quality": 95})):
                with self.subTest(kind, number=number):
                    self.near(saved(kind, stored, exif=exif.tobytes(), **more), {"WEBP": "WebP"}.get(kind, kind), 4)

    def test_png(self) -> None:
        image = Image.fromarray(RGB)
        self.near(saved("PNG", image), "PNG", 0.01)
        palette = image.quantize(256)
        self.near(saved("PNG", palette), "PNG", 0.01, np.asarray(palette.convert("RGB")))
        wide = RGB.astype(np.uint16) * 257
        facts = self.near(bytes(imagecodecs.png_encode(wide)), "PNG", 0.01)
        self.assertEqual(facts.depth, 16)
        both = np.dstack([RGB[..., 0], np.full(RGB.shape[:2], 128, np.uint8)])
        facts, picture = read(saved("PNG", Image.fromarray(both, "LA")))
        self.assertTrue(facts.alpha and picture.alpha)
        np.testing.assert_array_equal(picture.pixels[..., 3], 128)

    def test_png_without_a_profile_says_its_colors_otherwise(self) -> None:
        plain = saved("PNG", Image.fromarray(RGB))

        def with_chunk(name: bytes, body: bytes) -> bytes:
            chunk = struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))
            return plain[:33] + chunk + plain[33:]

        facts, picture = read(with_chunk(b"cICP", bytes((12, 13, 0, 1))))
        self.assertEqual(facts.profile, "Display P3")
        tagged = Picture(picture.pixels, "RGB", False, NAMED["display-p3"])
        np.testing.assert_array_equal(shown(picture), shown(tagged))
        facts, picture = read(with_chunk(b"gAMA", struct.pack(">I", 100_000)))
        linear = RGB / 255
        encoded = np.where(linear <= 0.0031308, 12.92 * linear, 1.055 * linear ** (1 / 2.4) - 0.055)
        self.assertLess(np.abs(shown(picture) - 255 * encoded).max(), 0.6)
        self.assertIsNone(read(with_chunk(b"gAMA", struct.pack(">I", 45_455)))[0].profile)
        self.assertEqual(read(with_chunk(b"sRGB", b"\0"))[0].profile, "sRGB")

    def test_tiff(self) -> None:
        wide = RGB.astype(np.uint16) * 257
        for pixels, more in (
            (RGB, {"compression": "lzw"}),
            (RGB, {"compression": "zlib", "predictor": True}),
            (RGB, {"compression": "jpeg", "compressionargs": {"level": 97}}),
            (np.moveaxis(RGB, 2, 0), {"planarconfig": "separate"}),
            (wide, {"compression": "lzw", "predictor": True}),
            ((RGB / 255).astype(np.float32), {}),
        ):
            with self.subTest(str(more), dtype=str(pixels.dtype)):
                self.near(tiff(pixels, photometric="rgb", **more), "TIFF", 3)
        pages = io.BytesIO()
        with tifffile.TiffWriter(pages) as writer:
            writer.write(RGB, photometric="rgb")
            writer.write(255 - RGB, photometric="rgb")
        self.near(pages.getvalue(), "TIFF", 0.01)
        facts, picture = read(tiff(np.dstack([255 - RGB, RGB[..., 0]]), photometric="separated"))
        self.assertEqual((facts.mode, picture.space), ("CMYK", "CMYK"))

    def test_newer_formats(self) -> None:
        image = Image.fromarray(RGB)
        self.near(saved("WEBP", image, lossless=True), "WebP", 0.01)
        self.near(saved("AVIF", image, quality=95, speed=8), "AVIF", 3)
        few = image.quantize(64)
        frames = saved("GIF", few, save_all=True, append_images=[Image.new("P", image.size)])
        self.near(frames, "GIF", 0.01, np.asarray(few.convert("RGB")))
        self.near(bytes(imagecodecs.jpegxl_encode(RGB, lossless=True)), "JPEG XL", 0.01)
        self.near(bytes(imagecodecs.jpeg2k_encode(RGB, level=0)), "JPEG 2000", 0.01)
        deep = self.near(bytes(imagecodecs.jpeg2k_encode(RGB.astype(np.uint16) * 257, level=0)), "JPEG 2000", 0.01)
        self.assertEqual(deep.depth, 16)
        y, x = np.mgrid[0:60, 0:90].astype(float)
        waves = [128 + 60 * np.sin(x / 9), 128 + 60 * np.sin(y / 7), 128 + 40 * np.sin((x + y) / 11)]
        self.near((DATA / "scene.heic").read_bytes(), "HEIC", 3, np.stack(waves, -1).astype(np.uint8))

    def test_colors_that_are_named_without_a_profile(self) -> None:
        """Code points in the boxes of AVIF and in the header of JPEG XL."""
        plain = saved("AVIF", Image.fromarray(RGB), quality=95, speed=8)
        at = plain.index(b"colrnclx") + 8
        facts, picture = read(plain[:at] + struct.pack(">HH", 12, 13) + plain[at + 4 :])
        self.assertEqual(facts.profile, "Display P3")
        np.testing.assert_array_equal(picture.pixels, read(plain)[1].pixels)

        given = np.array([(250, 30, 20), (40, 240, 30), (128, 128, 128)], np.uint8)
        for name, space, profile in (
            ("p3.jxl", "display-p3", "Display P3"),
            ("with-icc.jxl", "adobe-rgb", "Rec. 709, linear"),
        ):
            facts, picture = read((DATA / name).read_bytes())
            self.assertEqual((facts.format, facts.profile), ("JPEG XL", profile))
            fields = shown(picture)[8, [4, 12, 20]]
            wanted = shown(Picture(given[None], "RGB", False, NAMED[space]))[0]
            # Lossy files of three flat fields, the first of which lies outside of sRGB and is clipped by the decoder.
            self.assertLessEqual(np.abs(fields[0] - wanted[0]).max(), 25, name)
            self.assertLessEqual(np.abs(fields[1:] - wanted[1:]).max(), 3, name)

    def test_ten_bits_of_avif_are_kept(self) -> None:
        ramp = np.repeat(np.linspace(0, 1023, 256).round().astype(np.uint16)[None, :, None], 64, 0).repeat(3, 2)
        data = bytes(imagecodecs.avif_encode(ramp, level=100, bitspersample=10, speed=8))
        facts, picture = read(data)
        self.assertEqual((facts.format, facts.depth, picture.pixels.dtype), ("AVIF", 10, np.uint16))
        self.assertLess(np.abs(picture.pixels / 65535 - ramp / 1023).max(), 2 / 1023)
        grey = bytes(imagecodecs.avif_encode(ramp[..., 0], level=100, bitspersample=10, speed=8))
        at = grey.index(b"colrnclx") + 8
        made = shown(read(grey[:at] + struct.pack(">HH", 12, 13) + grey[at + 4 :])[1])
        self.assertEqual(made.shape, ramp.shape)
        self.assertLess(np.abs(made / 255 - ramp / 1023).max(), 3 / 255)

    def test_layered_files_give_their_flattened_picture(self) -> None:
        self.near(open_raster(RGB), "OpenRaster", 0.01)
        self.near(layered(RGB), "layered", 0.01)
        facts, _ = read((PHOTOS / "mixed" / "clock-label.ora").read_bytes())
        self.assertEqual((facts.width, facts.height, facts.alpha), (1200, 960, True))


class Pages(unittest.TestCase):
    def test_drawings_and_pages_are_rendered_at_the_size_wanted(self) -> None:
        for data, format in ((svg(), "SVG"), (pdf(), "PDF")):
            facts = read_facts("x", data=data)
            self.assertEqual((facts.format, facts.width, facts.height), (format, 4000, 2667))
            small = decode(facts, data, (300, 200))
            self.assertEqual(small.size, (300, 200))
            large = decode(facts, data, standard_size(facts))
            self.assertIn(max(large.size), (2048, 2049))
        facts = read_facts("x", data=svg())
        made = decode(facts, svg(), (900, 600)).pixels
        np.testing.assert_array_equal(made[100, 100], (0xAA, 0x55, 0, 255))
        self.assertEqual(made[590, 890, 3], 0)

    def test_nothing_outside_a_drawing_is_read(self) -> None:
        """A reference to a file of this machine gives the same picture as none at all."""
        picture = PHOTOS / "mixed" / "singing-bird_cutout.png"
        body = f"<image xlink:href='file://{picture}' width='90' height='60'/>"
        _, plain = read(svg())
        _, referring = read(svg(body))
        np.testing.assert_array_equal(plain.pixels, referring.pixels)

    def test_entities_and_scripts(self) -> None:
        hostile = hostile_files()
        self.assertEqual(read_one("svg-entities", hostile["svg-entities"]), "DamagedPhoto")
        self.assertEqual(read_one("pdf-script", hostile["pdf-script"]), "read")


class Raw(unittest.TestCase):
    def test_developed_by_the_camera_s_white_and_halved_where_that_is_enough(self) -> None:
        data = (PHOTOS / "bench-raw" / "QM4_0203.dng").read_bytes()
        facts = read_facts("bench", data=data)
        self.assertEqual((facts.format, facts.width, facts.height, facts.depth), ("camera raw", 1800, 1198, 16))
        whole, half = (decode(facts, data, size) for size in ((1800, 1198), (600, 399)))
        self.assertEqual((whole.size, half.size), ((1800, 1198), (900, 599)))
        self.assertEqual(str(whole.pixels.dtype), "uint16")
        averages = [each.pixels.reshape(-1, 3).mean(axis=0) for each in (whole, half)]
        np.testing.assert_allclose(averages[0], averages[1], rtol=0.02)
        facts, picture = read(dng())
        self.assertEqual((facts.format, picture.size), ("camera raw", (90, 60)))


class Apart(unittest.TestCase):
    def test_a_decoder_that_takes_too_long_is_ended_and_the_next_photo_is_read(self) -> None:
        slow = hostile_files()["svg-filter"]
        facts = read_facts("slow.svg", data=slow)
        with self.assertRaisesRegex(DamagedPhoto, "longer than 1 s"):
            decode(facts, slow, (4000, 2667), limits=Limits(seconds=1))
        self.assertEqual(read_one("fine", svg()), "read")

    def test_two_thousand_hostile_files(self) -> None:
        report = fuzz(2000, seed=20311014)
        self.assertEqual(report.broken, [])
        self.assertEqual(report.files, 2000)
        self.assertGreater(report.outcomes["read"], 200)
        self.assertGreater(report.outcomes["DamagedPhoto"], 800)
