"""TIFF in every kind of sample: what the specification says comes out, and what is not understood is named."""

from __future__ import annotations

import io
import itertools
import unittest
from typing import Any

import cv2
import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image

from bench.accuracy.reference import to_encoded
from tray_core.errors import DamagedPhoto
from tray_core.fuzz.tiffs import COMPRESSIONS, tiff_file
from tray_core.photo import PhotoFacts, read_facts
from tray_core.pixels.color import to_16, to_srgb
from tray_core.pixels.decode import decode
from tray_core.pixels.picture import Picture
from tray_core.tests.samples import scene

WIDTH, HEIGHT = 37, 23
SHADES = scene(WIDTH, HEIGHT) / 255
COVER = np.linspace(0, 1, WIDTH)[None, :, None].repeat(HEIGHT, 0)
WHITE_IS_ZERO, BLACK_IS_ZERO, RGB, PALETTE, CMYK, YCBCR, CIE_LAB, ICC_LAB = 0, 1, 2, 3, 5, 6, 8, 9
ASSOCIATED, UNASSOCIATED = 1, 2


def read(data: bytes) -> tuple[PhotoFacts, Picture]:
    facts = read_facts("sheet.tif", data=data)
    return facts, decode(facts, data, (facts.width, facts.height))


def numbers(shares: NDArray[np.float64], bits: int) -> NDArray[Any]:
    """Shares of 1 as whole numbers of so many bits."""
    return np.rint(shares * ((1 << bits) - 1)).astype(np.uint32 if bits > 16 else np.uint16 if bits > 8 else np.uint8)


def shown(picture: Picture) -> NDArray[np.float64]:
    """On [0, 1], with three dimensions."""
    values = picture.pixels / np.iinfo(picture.pixels.dtype).max
    return values[..., None] if values.ndim == 2 else values


class Matrix(unittest.TestCase):
    def check(self, wanted: NDArray[np.float64], within: float, **kind: Any) -> None:
        facts, picture = read(tiff_file(**kind))
        with self.subTest(**{key: value for key, value in kind.items() if key not in ("samples", "raw")}):
            self.assertEqual((facts.width, facts.height, facts.alpha), (WIDTH, HEIGHT, picture.alpha))
            self.assertEqual(shown(picture).shape, wanted.shape)
            self.assertLess(np.abs(shown(picture) - wanted).max(), within)

    def test_whole_numbers_of_every_size(self) -> None:
        ways = itertools.product((1, 2), COMPRESSIONS, "<>")
        for bits, (planar, compression, order) in itertools.product((1, 2, 4, 8, 12, 16, 32), ways):
            half = 0.5 / 255 if bits == 8 else 0.51 / 255 if bits < 8 else 0.6 / 65535
            how = {"bits": bits, "planar": planar, "compression": compression, "order": order}
            for photometric, channels in ((WHITE_IS_ZERO, 1), (BLACK_IS_ZERO, 1), (RGB, 3)):
                samples = numbers(SHADES[..., :channels], bits)
                exact = samples / ((1 << bits) - 1)
                wanted = 1 - exact if photometric == WHITE_IS_ZERO else exact
                self.check(wanted, half, samples=samples, photometric=photometric, **how)

    def test_transparency_straight_and_carried(self) -> None:
        for bits, photometric, planar in itertools.product((8, 16), (BLACK_IS_ZERO, RGB), (1, 2)):
            color = SHADES[..., : 3 if photometric == RGB else 1]
            how: dict[str, Any] = {"bits": bits, "photometric": photometric, "planar": planar}
            wanted = np.dstack([color if photometric == RGB else color.repeat(3, 2), COVER])
            straight = numbers(np.dstack([color, COVER]), bits)
            self.check(wanted, 0.51 / 255, samples=straight, extras=[UNASSOCIATED], **how)
            first = numbers(np.dstack([color, SHADES[..., :1], COVER]), bits)
            self.check(wanted, 0.51 / 255, samples=first, extras=[0, UNASSOCIATED], **how)
            self.check(
                wanted[..., :3] if photometric == RGB else color, 0.51 / 255, samples=straight, extras=[0], **how
            )
            carried = numbers(np.dstack([color * COVER, COVER]), bits)
            _, picture = read(tiff_file(carried, extras=[ASSOCIATED], **how))
            seen = shown(picture)
            # What comes of a few levels is coarse; what is seen of it is not.
            self.assertLess(np.abs(seen[..., :3] * COVER - wanted[..., :3] * COVER).max(), 1.01 / 255)

    def test_palettes(self) -> None:
        random = np.random.default_rng(4)
        for bits, scale in itertools.product((1, 2, 4, 8), (257, 1, 256)):
            colors = random.integers(0, 256, (1 << bits, 3))
            colors[0] = 255
            table = [int(v) * scale for v in colors.T.ravel()]
            index = random.integers(0, 1 << bits, (HEIGHT, WIDTH, 1)).astype(np.uint8)
            how: dict[str, Any] = {"bits": bits, "photometric": PALETTE, "more": [(320, 3, table)]}
            self.check(colors[index[..., 0]] / 255, 1e-6, samples=index, **how)
            if bits == 8:
                both = np.dstack([index, numbers(COVER, 8)])
                wanted = np.dstack([colors[index[..., 0]] / 255, numbers(COVER, 8) / 255])
                self.check(wanted, 1e-6, samples=both, extras=[UNASSOCIATED], **how)

    def test_signed_and_floating_numbers(self) -> None:
        for bits in (8, 16, 32):
            most = (1 << (bits - 1)) - 1
            samples = np.rint((SHADES * 1.5 - 0.5) * most).astype(f"i{bits // 8}")
            wanted = np.clip(SHADES * 1.5 - 0.5, 0, 1)
            self.check(wanted, 1.01 / 127 if bits == 8 else 1e-4, samples=samples, bits=bits, photometric=RGB, format=2)
        for bits, photometric in itertools.product((16, 32, 64), (BLACK_IS_ZERO, RGB)):
            values = SHADES[..., : 3 if photometric == RGB else 1]
            samples = (values * 1.2 - 0.1).astype(f"f{bits // 8}")
            wanted = np.clip(values * 1.2 - 0.1, 0, 1)
            self.check(wanted, 1e-3, samples=samples, bits=bits, photometric=photometric, format=3)

    def test_inks(self) -> None:
        inks = np.dstack([SHADES, SHADES[..., :1] / 2])
        for bits, planar in itertools.product((8, 16), (1, 2)):
            how = {"bits": bits, "photometric": CMYK, "planar": planar}
            self.check(inks, 0.51 / 255, samples=numbers(inks, bits), **how)
            cover = numbers(np.dstack([inks, COVER]), bits)
            self.check(inks * COVER, 1.01 / 255, samples=cover, extras=[UNASSOCIATED], **how)

    def test_lightness_and_color_apart(self) -> None:
        r, g, b = np.moveaxis(SHADES, -1, 0)
        y = 0.299 * r + 0.587 * g + 0.114 * b
        for bits, compression in itertools.product((8, 16), COMPRESSIONS):
            most = (1 << bits) - 1
            half = (most + 1) // 2
            # Full range, which the reference values 0..most, half..most are (TIFF 6.0, section 21).
            chroma = [(each - y) / span * (most - half) * 2 / 2 + half for each, span in ((b, 0.886), (r, 0.701))]
            samples = np.rint(np.clip(np.stack([y * most, *chroma], -1), 0, most)).astype(f"u{bits // 8}")
            reference = [each for value in (0, most, half, most, half, most) for each in (value, 1)]
            more = [(530, 3, [1, 1]), (532, 5, reference)]
            how: dict[str, Any] = {"bits": bits, "photometric": YCBCR, "compression": compression, "more": more}
            near = 2.0 / 255 if bits == 8 else 0.01
            _, picture = read(tiff_file(samples, **how))
            chroma_b = samples[..., 1].astype(float) - half
            chroma_r = samples[..., 2].astype(float) - half
            spans = 2 * (most - half)
            red = samples[..., 0] / most + chroma_r / spans * 1.402
            blue = samples[..., 0] / most + chroma_b / spans * 1.772
            green = (samples[..., 0] / most - 0.299 * red - 0.114 * blue) / 0.587
            self.assertLess(np.abs(shown(picture) - np.clip(np.stack([red, green, blue], -1), 0, 1)).max(), near)

    def test_color_coarser_than_lightness(self) -> None:
        """As libtiff's own tools write it: units of four values of lightness and one of each color."""
        even = cv2.resize(scene(40, 24), (40, 24))
        coarse = cv2.resize(
            cv2.resize(even, (20, 12), interpolation=cv2.INTER_AREA), (40, 24), interpolation=cv2.INTER_NEAREST
        )
        y, cr, cb = np.moveaxis(cv2.cvtColor(coarse, cv2.COLOR_RGB2YCrCb), -1, 0)
        units = bytearray()
        for top, left in itertools.product(range(0, 24, 2), range(0, 40, 2)):
            units += y[top : top + 2, left : left + 2].tobytes() + bytes((cb[top, left], cr[top, left]))
        for compression in ("none", "lzw", "deflate"):
            data = tiff_file(
                np.zeros((24, 40, 3), np.uint8),
                bits=8,
                photometric=YCBCR,
                compression=compression,
                raw=bytes(units),
                more=[(530, 3, [2, 2])],
            )
            _, picture = read(data)
            self.assertLess(np.abs(picture.pixels.astype(int) - coarse).max(), 5)

    def test_lab_is_what_the_eye_sees(self) -> None:
        """The same colors as by published numbers, in both ways to write a and b, 8 and 16 bits."""
        lab = np.asarray(cv2.cvtColor((SHADES * 0.6 + 0.2).astype(np.float32), cv2.COLOR_RGB2Lab), np.float64)
        for bits, photometric in itertools.product((8, 16), (CIE_LAB, ICC_LAB)):
            unit = 1 << (bits - 8)
            most = (1 << bits) - 1 if photometric == CIE_LAB else 255 * unit
            lightness = np.rint(lab[..., 0] / 100 * most)
            ab = np.rint(lab[..., 1:] * unit) + (128 * unit if photometric == ICC_LAB else 0)
            samples = np.dstack([lightness, ab]).astype(np.int32).astype(f"u{bits // 8}")
            facts, picture = read(tiff_file(samples, bits=bits, photometric=photometric))
            self.assertEqual(facts.mode, "RGB")
            near = np.dstack([lightness / most * 100, (ab - (128 * unit if photometric == ICC_LAB else 0)) / unit])
            wanted = _lab_to_srgb(near)
            self.assertLess(np.abs(to_16(to_srgb(picture)).pixels / 65535 - wanted).max(), 1.5 / 255)

    def test_a_jpeg_inside_is_decoded_with_its_colors(self) -> None:
        file = io.BytesIO()
        tifffile.imwrite(file, scene(64, 48), photometric="ycbcr", compression="jpeg", compressionargs={"level": 97})
        _, picture = read(file.getvalue())
        with Image.open(io.BytesIO(file.getvalue())) as image:
            wanted = np.asarray(image.convert("RGB")).astype(int)
        self.assertLess(np.abs(picture.pixels.astype(int) - wanted).mean(), 0.5)

    def test_what_is_not_understood_is_named(self) -> None:
        grey = np.zeros((HEIGHT, WIDTH, 1), np.uint8)
        for words, kind in (
            ("mask", {"photometric": 4, "bits": 8}),
            ("LOGL|logl", {"photometric": 32844, "bits": 16, "format": 2}),
            ("complex", {"photometric": BLACK_IS_ZERO, "bits": 64, "format": 6}),
            ("1 channel of RGB", {"photometric": RGB, "bits": 8}),
            ("inks other", {"photometric": CMYK, "bits": 8, "more": [(332, 3, [2])], "samples": grey.repeat(4, 2)}),
            ("several sizes", {"photometric": RGB, "bits": 8, "samples": grey.repeat(3, 2), "patch": True}),
        ):
            with self.subTest(words):
                given: dict[str, Any] = {"samples": grey, **kind}
                patch = given.pop("patch", False)
                data = tiff_file(**given)
                if patch:
                    at = data.index(np.array([8, 8, 8], "<u2").tobytes())
                    data = data[:at] + np.array([5, 6, 5], "<u2").tobytes() + data[at + 6 :]
                with self.assertRaisesRegex(DamagedPhoto, words):
                    read(data)


def _lab_to_srgb(lab: NDArray[np.float64]) -> NDArray[np.float64]:
    """CIE 15 to XYZ under D50, by the D50 matrix of sRGB (published rounded, IEC 61966-2-1 adapted by Bradford)."""
    y = (lab[..., 0] + 16) / 116
    roots = np.stack([y + lab[..., 1] / 500, y, y - lab[..., 2] / 200], -1)
    xyz = np.where(roots > 6 / 29, roots**3, (roots - 4 / 29) * 108 / 841) * (0.96422, 1, 0.82521)
    matrix = np.array(
        [(3.1338561, -1.6168667, -0.4906146), (-0.9787684, 1.9161415, 0.0334540), (0.0719453, -0.2289914, 1.4052427)]
    )
    return to_encoded(xyz @ matrix.T)


if __name__ == "__main__":
    unittest.main()
