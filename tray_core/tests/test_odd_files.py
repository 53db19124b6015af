"""Files by other writers: odd headers, profiles that do not fit, numbers of bits that are seldom."""

from __future__ import annotations

import io
import struct
import unittest
import zlib
from collections.abc import Sequence
from typing import Any
from unittest import mock

import imagecodecs
import numpy as np
from PIL import Image

from tray_core.apart.client import ask
from tray_core.coders import encode
from tray_core.errors import DamagedPhoto, RecipeError
from tray_core.fuzz.corpus import dng, scene, svg
from tray_core.photo import PhotoFacts, read_facts
from tray_core.photo.find import EXTENSIONS
from tray_core.photo.jpeg_parts import scans
from tray_core.photo.profile_files import NAMED, SHIPPED, checked_profile
from tray_core.photo.sniff import FILM, UNKNOWN, may_be_raw, sniff
from tray_core.pixels import decode as decoding
from tray_core.pixels.color import convert, target_of, to_8, to_srgb
from tray_core.pixels.decode import decode
from tray_core.pixels.picture import Picture
from tray_core.plan import plan_renditions
from tray_core.recipe.file import AvifFile, GifFile, PngFile, TiffFile, WebpFile
from tray_core.recipe.stations import Color
from tray_core.tests.samples import recipe

RGB = scene(9)
ROTATED = b"Exif\0\0MM\0*\0\0\0\x08\0\x01\x01\x12\0\x03\0\0\0\x01\0\x06\0\0\0\0\0\0"
P3 = NAMED["display-p3"]


def saved(kind: str, pixels: np.ndarray[Any, Any] = RGB, mode: str | None = None, **more: Any) -> bytes:
    file = io.BytesIO()
    Image.fromarray(pixels, mode).save(file, kind, **more)
    return file.getvalue()


def read(data: bytes) -> tuple[PhotoFacts, Picture]:
    facts = read_facts("odd", data=data)
    return facts, decode(facts, data, (facts.width, facts.height))


def app2(*parts: tuple[int, int, bytes]) -> bytes:
    """Profile parts of a JPEG: (number, of how many, bytes)."""
    bodies = [b"ICC_PROFILE\0" + bytes((number, count)) + body for number, count, body in parts]
    return b"".join(b"\xff\xe2" + struct.pack(">H", len(body) + 2) + body for body in bodies)


class Work(unittest.TestCase):
    """A JPEG of two megabytes can ask for a minute of work: such files go to the process whose time is limited."""

    def test_scans(self) -> None:
        self.assertEqual(scans(saved("JPEG", quality=90)), 1)
        self.assertEqual(scans(saved("JPEG", quality=90, progressive=True)), 10)
        self.assertEqual(scans(saved("JPEG", RGB[..., 0], progressive=True)), 6)
        self.assertEqual(scans(b"\xff\xd8nothing"), 0)

    def test_what_asks_for_much_is_decoded_apart_and_comes_out_the_same(self) -> None:
        data = saved("JPEG", quality=90, progressive=True, exif=ROTATED, icc_profile=P3)
        facts, here = read(data)
        apart = mock.Mock(side_effect=ask)
        with mock.patch.object(decoding, "_MOST_WORK", 9 * RGB.size // 3), mock.patch.object(decoding, "ask", apart):
            there = decode(facts, data, (facts.width, facts.height))
            self.assertEqual(apart.call_count, 1)
            decode(facts, saved("JPEG", quality=90), (facts.width, facts.height))
            self.assertEqual(apart.call_count, 1)
        np.testing.assert_array_equal(here.pixels, there.pixels)
        self.assertEqual((here.icc, here.space), (there.icc, there.space))

    def test_nearly_nothing_for_very_many_pixels(self) -> None:
        flat = saved("JPEG", np.zeros((6000, 9000), np.uint8), quality=50)
        facts = read_facts("flat", data=flat)
        apart = mock.Mock(side_effect=ask)
        with mock.patch.object(decoding, "ask", apart):
            decode(facts, flat, (900, 600))
        self.assertEqual(apart.call_count, 1)


class Jpeg(unittest.TestCase):
    plain = saved("JPEG", quality=95)

    def test_odd_headers_are_no_reason_to_refuse_a_picture(self) -> None:
        data = self.plain
        tables, scan = data.index(b"\xff\xdb"), data.index(b"\xff\xda")
        head, tail = P3[:300], P3[300:]
        for name, made, profile in (
            ("bytes before tables", data[:tables] + b"\0\0\0" + data[tables:], None),
            ("bytes before the scan", data[:scan] + b"\x12\x34" + data[scan:], None),
            ("bytes before the end", data[:-2] + b"\0\0\0\0" + data[-2:], None),
            ("bytes behind the end", data + b"more" * 9, None),
            ("a doubled profile", data[:2] + app2((1, 1, P3), (1, 1, P3)) + data[2:], "Display P3"),
            ("parts from 0 on", data[:2] + app2((0, 2, head), (1, 2, tail)) + data[2:], "Display P3"),
            ("a part too far", data[:2] + app2((1, 2, head), (3, 2, tail)) + data[2:], "Display P3"),
            ("a missing part", data[:2] + app2((1, 2, head)) + data[2:], None),
        ):
            with self.subTest(name):
                facts, picture = read(made)
                self.assertEqual(facts.profile, profile)
                self.assertEqual(facts.bad_profile, "is cut short" if "missing" in name else "")
                np.testing.assert_array_equal(picture.pixels, read(data)[1].pixels)

    def test_damage_behind_an_odd_header_is_damage_still(self) -> None:
        cut = self.plain[: len(self.plain) * 2 // 3]
        for data in (cut, app2((1, 2, P3[:300])).join((cut[:2], cut[2:]))):
            with self.assertRaisesRegex(DamagedPhoto, "end too early"):
                read(data)

    def test_inks_without_a_maker_s_marker_are_not_inverted(self) -> None:
        inks = np.dstack([255 - RGB, np.zeros(RGB.shape[:2], np.uint8)])
        data = saved("JPEG", inks, "CMYK", quality=95)
        _, marked = read(data)
        at = data.index(b"\xff\xee")
        (length,) = struct.unpack_from(">H", data, at + 2)
        bare = data[:at] + data[at + 2 + length :]
        # The same numbers in a file mean the opposite without the marker.
        _, plain = read(bare)
        np.testing.assert_array_equal(plain.pixels, 255 - marked.pixels)


class Profiles(unittest.TestCase):
    def test_what_does_not_fit_is_left_aside_with_a_caution(self) -> None:
        grey = RGB[..., 0]
        damaged = bytearray(P3)
        damaged[36:40] = b"junk"
        for name, data, why in (
            ("grey with RGB", saved("JPEG", grey, icc_profile=P3), "is for RGB values, not for grey"),
            ("RGB with grey", saved("PNG", icc_profile=NAMED["grey"]), "is for grey values, not for RGB"),
            ("cut", saved("JPEG", icc_profile=P3[:300]), "is cut short"),
            ("junk", saved("PNG", icc_profile=b"junk" * 90), "is not an ICC profile"),
            ("broken mark", saved("PNG", icc_profile=bytes(damaged)), "is not an ICC profile"),
        ):
            with self.subTest(name):
                facts, picture = read(data)
                self.assertEqual((facts.profile, facts.bad_profile), (None, why))
                to_srgb(picture)
                (plan,) = plan_renditions(facts, recipe(), 1, None)
                texts = [caution.text for caution in plan.warnings]
                self.assertIn(f"The photo’s color profile {why} and is taken as sRGB; check its colors.", texts)

    def test_grey_with_alpha_goes_through_its_own_profile(self) -> None:
        both = np.dstack([RGB[..., 0], np.full(RGB.shape[:2], 200, np.uint8)])
        facts, picture = read(saved("PNG", both, "LA", icc_profile=NAMED["grey"]))
        self.assertEqual(facts.bad_profile, "")
        made = to_8(to_srgb(picture)).pixels
        self.assertLessEqual(np.abs(made[..., :3].astype(int) - RGB[..., :1]).max(), 1)
        self.assertEqual(set(np.unique(made[..., 3])), {200})

    def test_a_profile_that_nothing_can_be_converted_to_is_refused_when_it_is_added(self) -> None:
        inks = (SHIPPED / "CMYK.icc").read_bytes()
        self.assertEqual(checked_profile(inks, "press"), inks)
        for data in (inks[:3000], inks[: len(inks) // 2], P3[:250]):
            with self.assertRaisesRegex(RecipeError, "cut short|cannot be used|damaged"):
                checked_profile(data, "press")


class Written(unittest.TestCase):
    def test_clear_and_opaque_stay_so_in_a_palette(self) -> None:
        alpha = np.clip(np.linspace(-200, 455, RGB.shape[1]), 0, 255).astype(np.uint8)[None].repeat(len(RGB), 0)
        picture = Picture(np.dstack([RGB, alpha]), "RGB", True, None)
        for colors in (3, 8, 64, 256):
            with Image.open(io.BytesIO(encode(picture, PngFile(format="png", colors=colors)))) as image:
                self.assertEqual(image.mode, "P")
                made = np.asarray(image.convert("RGBA"))
            self.assertLessEqual(len(np.unique(made.reshape(-1, 4), axis=0)), colors)
            if colors > 3:
                self.assertTrue((made[alpha == 0][:, 3] == 0).all() and (made[alpha == 255][:, 3] == 255).all())
                self.assertLess(np.abs(made[..., 3].astype(int) - alpha).mean(), 12 if colors > 8 else 30)

    def test_grey_is_grey_in_the_file_and_its_profile_fits(self) -> None:
        grey = convert(Picture(RGB, "RGB", False, None), target_of(Color(profile="grey")) or self.fail())
        for file in (AvifFile(format="avif"), PngFile(format="png"), TiffFile(format="tiff")):
            facts, _ = read(encode(to_8(grey), file))
            self.assertEqual(facts.bad_profile, "")
            self.assertEqual(facts.profile, "Grey, curve of sRGB")
        avif = encode(to_8(grey), AvifFile(format="avif"))
        self.assertTrue(avif[avif.index(b"av1C") + 6] & 0x10, "the file has planes for color")

    def test_deflate_has_its_number(self) -> None:
        with Image.open(io.BytesIO(encode(Picture(RGB, "RGB", False, None), TiffFile(format="tiff")))) as image:
            self.assertEqual(image.tag_v2[259], 8)  # type: ignore[attr-defined]

    def test_a_quality_beside_a_search_is_refused(self) -> None:
        for search in ({"under_kb": 90}, {"looks": 80}):
            with self.assertRaisesRegex(RecipeError, r"file\.quality"):
                recipe(file={"format": "jpeg", "quality": 80, **search})
        WebpFile(format="webp", looks=70)
        GifFile(format="gif")


class Seldom(unittest.TestCase):
    def test_bits_of_jpeg_2000(self) -> None:
        for bits in (*range(9, 17),):
            values = np.rint(RGB / 255 * ((1 << bits) - 1)).astype(np.uint16)
            for pixels in (values, values[..., 0]):
                facts, picture = read(bytes(imagecodecs.jpeg2k_encode(pixels, level=0, bitspersample=bits)))
                self.assertEqual(facts.depth, bits)
                self.assertLess(np.abs(picture.pixels / 65535 - pixels / ((1 << bits) - 1)).max(), 1e-5)

    def test_palettes_and_few_bits_of_png(self) -> None:
        few = Image.fromarray(RGB).quantize(16)
        file = io.BytesIO()
        few.save(file, "PNG", transparency=bytes(range(0, 256, 16)), bits=4)
        with Image.open(io.BytesIO(file.getvalue())) as image:
            wanted = np.asarray(image.convert("RGBA"))
        facts, picture = read(file.getvalue())
        self.assertTrue(facts.alpha)
        np.testing.assert_array_equal(picture.pixels, wanted)
        bilevel = Image.fromarray(RGB[..., 0]).convert("1")
        file = io.BytesIO()
        bilevel.save(file, "PNG")
        np.testing.assert_array_equal(read(file.getvalue())[1].pixels, np.asarray(bilevel.convert("L")))
        for depth, pixels in ((8, RGB), (16, RGB.astype(np.uint16) * 257), (8, RGB[..., 0])):
            data = bytes(imagecodecs.png_encode(np.ascontiguousarray(pixels)))
            clear = struct.pack(f">{pixels[0, 0].size}H", *np.atleast_1d(pixels[5, 5]).tolist())
            chunk = struct.pack(">I4s", len(clear), b"tRNS") + clear + struct.pack(">I", zlib.crc32(b"tRNS" + clear))
            facts, picture = read(data[:33] + chunk + data[33:])
            self.assertTrue(facts.alpha and picture.alpha, f"{depth} bits, {pixels.ndim} dimensions")
            self.assertEqual(int(picture.pixels[5, 5, 3]), 0)

    def test_an_animation_that_counts_wrong_has_a_whole_first_picture(self) -> None:
        plain = saved("PNG")
        for frames in (0, 7):
            body = struct.pack(">II", frames, 0)
            chunk = struct.pack(">I4s", 8, b"acTL") + body + struct.pack(">I", zlib.crc32(b"acTL" + body))
            _, picture = read(plain[:33] + chunk + plain[33:])
            np.testing.assert_array_equal(picture.pixels, RGB)

    def test_bmp(self) -> None:
        for mode in ("RGB", "L", "1", "P"):
            image = Image.fromarray(RGB).convert(mode)
            file = io.BytesIO()
            image.save(file, "BMP")
            facts, picture = read(file.getvalue())
            self.assertEqual(facts.format, "BMP")
            made = picture.pixels if picture.pixels.ndim == 3 else picture.pixels[..., None].repeat(3, 2)
            np.testing.assert_array_equal(made, np.asarray(image.convert("RGB")))

    def test_the_last_row_of_a_drawing_is_whole(self) -> None:
        data = svg("<rect width='90' height='60' fill='#123456'/>")
        facts = read_facts("x", data=data)
        for width in (901, 1333, 2048):
            picture = decode(facts, data, (width, round(width * 2 / 3)))
            self.assertEqual(int(picture.pixels[..., 3].min()), 255, width)


class Raw(unittest.TestCase):
    def shown(self, first: Sequence[tuple[int, int, int]], behind: bytes = b"") -> bool:
        """Whether a TIFF whose first directory has these tags is shown to the raw library."""
        rows = b"".join(struct.pack("<HHII", tag, kind, 1, value) for tag, kind, value in first)
        data = b"II*\0" + struct.pack("<I", 5000) + bytes(4992) + struct.pack("<H", len(first)) + rows + behind
        return may_be_raw(sniff(data[:4096]), data)

    def test_files_that_begin_with_a_preview_are_shown_to_the_library(self) -> None:
        make, preview, old_jpeg, below = (271, 2, 0), (254, 4, 1), (259, 3, 6), (330, 4, 9000)
        self.assertTrue(self.shown([make, preview]))
        self.assertTrue(self.shown([make, old_jpeg]))
        self.assertTrue(self.shown([make, below]))
        self.assertFalse(self.shown([make, (259, 3, 5)]))
        self.assertFalse(self.shown([preview, below]))
        self.assertTrue(may_be_raw(FILM, b"") and may_be_raw(UNKNOWN, b""))

    def test_a_raw_file_is_one_under_any_name(self) -> None:
        self.assertEqual(read_facts("card.nef", data=dng()).format, "camera raw")
        self.assertTrue({".dng", ".cr3", ".raf", ".orf", ".jpg", ".bmp"} <= EXTENSIONS)


if __name__ == "__main__":
    unittest.main()
