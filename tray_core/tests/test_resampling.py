"""Resampling against Lanczos-3 in floating point: boxes with fractions, linear light, a zone plate."""

from __future__ import annotations

import io
import itertools
import unittest
from typing import Any

import cv2
import imagecodecs
import numpy as np
from hypothesis import given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from PIL import Image

from bench.accuracy import reference, resampling
from bench.accuracy.pictures import large, photograph
from tray_core.line.framing import Source, shown_part
from tray_core.line.resample import resampled
from tray_core.line.resize import resize
from tray_core.line.taps import Taps, taps
from tray_core.line.working import decoded_for
from tray_core.photo import read_facts
from tray_core.pixels.picture import Picture
from tray_core.plan import Framing, plan_renditions
from tray_core.tests.samples import PHOTOS, jpeg, recipe, scene

Values = NDArray[np.float64]
DARK = PHOTOS / "autumn-rehang" / "2031-10-14_02_lark-and-drum-clock.jpg"
FINE = PHOTOS / "autumn-rehang" / "2031-10-17_08_dial-detail.jpg"


def lanczos(pixels: NDArray[Any], size: tuple[int, int], box: tuple[float, float, float, float]) -> Values:
    """Lanczos-3 of each channel in 32-bit floats."""
    channels = [Image.fromarray(pixels[..., c].astype(np.float32)) for c in range(pixels.shape[2])]
    made = [np.asarray(channel.resize(size, Image.Resampling.LANCZOS, box=box)) for channel in channels]
    return np.stack(made, -1).astype(np.float64)


def psnr(one: NDArray[Any], other: NDArray[Any], top: float = 255) -> float:
    error = float(np.mean((one.astype(np.float64) - other) ** 2))
    return 10 * np.log10(top**2 / error) if error else 99.0


def to_linear(values: Values) -> Values:
    return np.where(values <= 0.04045, values / 12.92, ((values + 0.055) / 1.055) ** 2.4)


def to_encoded(values: Values) -> Values:
    values = np.clip(values, 0, 1)
    return np.where(values <= 0.0031308, values * 12.92, 1.055 * values ** (1 / 2.4) - 0.055)


class Boxes(unittest.TestCase):
    pixels = cv2.GaussianBlur(scene(500, 400, seed=3), (0, 0), 0.8)

    @hypothesis_settings(max_examples=60)
    @given(
        st.floats(0, 200), st.floats(0, 150), st.floats(40, 300), st.floats(40, 250), st.floats(0.3, 8), st.booleans()
    )
    def test_a_box_with_fractions_is_resampled_where_it_lies(
        self, left: float, top: float, width: float, height: float, scale: float, wide: bool
    ) -> None:
        box = (left, top, left + width, top + height)
        size = (max(4, round(width / scale)), max(4, round(height / scale)))
        picture = Picture(self.pixels.astype(np.uint16) * 257 if wide else self.pixels, "RGB", False, None)
        made = resize(picture, *size, box).pixels / (257 if wide else 1)
        wanted = np.clip(lanczos(self.pixels, size, box), 0, 255)
        # The outermost pixels may lean on what lies beyond the picture, where the two differ by design.
        self.assertGreaterEqual(psnr(made[1:-1, 1:-1], wanted[1:-1, 1:-1]), 45)

    def test_crop_then_scale_and_scale_then_crop_are_one_picture(self) -> None:
        picture = Picture(self.pixels, "RGB", False, None)
        whole = resize(picture, 250, 200).pixels
        part = resize(picture, 100, 80, (120, 60, 320, 220)).pixels
        self.assertLessEqual(np.abs(whole[30:110, 60:160].astype(int) - part).max(), 1)
        third = resize(picture, 90, 60, (51.5, 33.25, 231.5, 153.25)).pixels
        self.assertGreater(
            psnr(third, np.clip(lanczos(self.pixels, (90, 60), (51.5, 33.25, 231.5, 153.25)), 0, 255)), 48
        )

    def test_framed_photographs_are_close_to_lanczos_on_the_whole(self) -> None:
        """From the scaled decoding: at every size, the framed part is what the full picture would have given."""
        for path in (DARK, FINE):
            data = path.read_bytes()
            facts = read_facts(path)
            full = np.asarray(Image.open(path))
            framing = Framing(name="part", x=0.1234, y=0.0777, width=0.6, height=0.9 * facts.width / facts.height * 0.6)
            for width in (1100, 640, 333, 150):
                made = recipe(frame={"way": "keep"}, size={"by": "width", "pixels": width})
                tied = Framing(**{**{n: getattr(framing, n) for n in framing.__slots__}, "recipe": 1})
                (plan,) = plan_renditions(facts, made, 1, None, framings=(tied,), number=1)
                source = decoded_for(facts, data, made, plan.layout)
                part, _ = shown_part(source, plan.layout)
                wanted = np.clip(lanczos(full, part.size, plan.layout.box), 0, 255)
                with self.subTest(path.name, width=width):
                    self.assertGreaterEqual(psnr(part.pixels, wanted), 45)


class CompiledCode(unittest.TestCase):
    """Every kind of picture, down to single pixels and up to long reductions, against sums in double precision."""

    @hypothesis_settings(max_examples=120)
    @given(
        st.tuples(st.integers(1, 70), st.integers(1, 500)),
        st.tuples(st.integers(1, 90), st.integers(1, 90)),
        st.sampled_from([(1, np.uint8), (3, np.uint8), (4, np.uint8), (1, np.uint16), (3, np.uint16), (4, np.uint16)]),
        st.tuples(st.floats(0, 0.4), st.floats(0.6, 1)),
        st.integers(0, 99),
    )
    def test_the_sums_are_what_they_should_be(
        self, shape: tuple[int, int], size: tuple[int, int], kind: Any, part: tuple[float, float], seed: int
    ) -> None:
        channels, dtype = kind
        top = np.iinfo(dtype).max
        pixels = np.random.default_rng(seed).integers(0, top, (*shape, channels), dtype, endpoint=True)
        pixels[:, : shape[1] // 2] = seed * top // 99  # flat on one side
        pixels.flags.writeable = False
        (start, stop), (high, wide) = part, shape
        box = start * wide, start * high, stop * wide, stop * high
        picture = Picture(pixels if channels > 1 else pixels[..., 0], "CMYK" if channels == 4 else "RGB", False, None)
        made = resize(picture, *size, box).pixels.reshape(size[1], size[0], channels)
        down, across = (_weights(shape[i], box[1 - i], box[3 - i], size[1 - i]) for i in (0, 1))
        wanted = np.clip(_resampled(pixels.astype(np.float64), down, across), 0, top)
        # Half a level is rounding; integers leave up to a 64th of a level behind for every tap and edge.
        self.assertLessEqual(np.abs(made - wanted).max(), 1.0)

    def test_flat_areas_stay_exactly_what_they_are(self) -> None:
        for value in (0, 1, 127, 128, 254, 255):
            flat = np.full((211, 307, 3), value, np.uint8)
            for size in ((300, 200), (151, 100), (20, 14), (600, 400)):
                made = resize(Picture(flat, "RGB", False, None), *size).pixels
                self.assertEqual((made.min(), made.max()), (value, value))

    def test_colors_are_weighted_by_their_cover(self) -> None:
        """Against the same sums in double precision, at 8 and 16 bits."""
        pixels = np.random.default_rng(5).integers(0, 255, (60, 80, 4), np.uint8)
        cover = pixels[..., 3:] / 255
        down, across = _weights(60, 0, 60, 33), _weights(80, 0, 80, 41)
        weighted = np.concatenate([pixels[..., :3] * cover, cover], 2)
        sums = _resampled(weighted, down, across)
        wanted = np.clip(sums[..., :3] / np.maximum(sums[..., 3:], 1e-6), 0, 255)
        for factor in (1, 257):
            wide = pixels if factor == 1 else pixels.astype(np.uint16) * np.uint16(257)
            made = resize(Picture(wide, "RGB", True, None), 41, 33).pixels / factor
            seen = sums[..., 3] > 0.05
            self.assertLessEqual(np.abs(made[..., :3] - wanted)[seen].max(), 0.51)
            self.assertLessEqual(np.abs(made[..., 3] - np.clip(sums[..., 3] * 255, 0, 255)).max(), 0.51)


def _resampled(pixels: Values, down: Values, across: Values) -> Values:
    columns = np.tensordot(down, pixels, 1)
    return np.asarray(np.moveaxis(np.tensordot(across, columns, ((1,), (1,))), 0, 1), np.float64)


def _weights(length: int, start: float, stop: float, count: int) -> Values:
    """Lanczos-3 as a matrix, count x length; the outermost pixels go on beyond the edge."""
    scale = (stop - start) / count
    wide = max(1.0, scale)
    reach = int(3 * wide) + 2
    index = np.arange(-reach, length + reach)
    center = start + (np.arange(count) + 0.5) * scale
    distance = (index + 0.5 - center[:, None]) / wide
    values = np.where(np.abs(distance) < 3, np.sinc(distance) * np.sinc(distance / 3), 0)
    values /= values.sum(1, keepdims=True)
    made = np.zeros((count, length))
    for column, i in enumerate(np.clip(index, 0, length - 1)):
        made[:, i] += values[:, column]
    return made


class LinearLight(unittest.TestCase):
    def test_photographs_against_a_linear_reference(self) -> None:
        for path in (DARK, FINE):
            data, facts = path.read_bytes(), read_facts(path)
            full = to_linear(np.asarray(Image.open(path)) / 255)
            for width in (1440, 700, 180):
                made = recipe(size={"by": "width", "pixels": width, "light": "linear"})
                (plan,) = plan_renditions(facts, made, 1, None)
                source = decoded_for(facts, data, made, plan.layout)
                part, _ = shown_part(source, plan.layout, linear=True)
                wanted = to_encoded(lanczos(full, part.size, (0, 0, facts.width, facts.height)))
                with self.subTest(path.name, width=width):
                    self.assertGreaterEqual(psnr(part.pixels / 65535, wanted, top=1), 60)

    def test_a_fine_checker_keeps_its_light(self) -> None:
        """Black and white dots give half the light: 188 in sRGB, not the 128 of averaged codes."""
        checker = np.indices((400, 400)).sum(0) % 2 * 255
        picture = Picture(np.repeat(checker[..., None], 3, 2).astype(np.uint8), "RGB", False, None)
        for light, value in (("linear", 188), ("gamma", 128)):
            made = recipe(size={"by": "width", "pixels": 50, "light": light})
            facts = read_facts("x.jpg", data=jpeg(scene(400, 400)))
            (plan,) = plan_renditions(facts, made, 1, None)
            part, _ = shown_part(Source(picture, (400, 400)), plan.layout, linear=light == "linear")
            top = 257 if part.pixels.dtype == np.uint16 else 1
            self.assertLess(abs(part.pixels[5:-5, 5:-5].mean() / top - value), 1)


class SharpPhotographs(unittest.TestCase):
    """Photographs that are sharp to the pixel, against references of the bench that share no code with the core."""

    def test_every_ratio_in_both_lights(self) -> None:
        for name in ("astronaut.png", "motorcycle_left.png", "grass.png"):
            pixels = photograph(name)
            data = bytes(imagecodecs.png_encode(pixels))
            for linear, ratio in itertools.product((False, True), (1.1, 2.8, 4.1, 8, 16)):
                made = resampling.ours(data, round(pixels.shape[1] / ratio), linear)
                wanted = reference.resized(pixels, made.shape[1], made.shape[0], linear)
                with self.subTest(name, ratio=ratio, linear=linear):
                    self.assertGreaterEqual(psnr(made, wanted), 70 if linear else 58)
                    self.assertLess(abs(made.mean() - wanted.mean()), 0.1)

    def test_large_jpegs_are_decoded_small_only_where_nothing_is_lost(self) -> None:
        sharp = large(photograph("motorcycle_left.png"), 5760, 1200)
        soft = cv2.GaussianBlur(sharp, (0, 0), 3)
        for pixels, halved in ((sharp, False), (soft, True)):
            data = jpeg(pixels.astype(np.uint8), 92)
            facts = read_facts("large.jpg", data=data)
            made = recipe(size={"by": "width", "pixels": 2048})
            (plan,) = plan_renditions(facts, made, 1, None)
            source = decoded_for(facts, data, made, plan.layout)
            self.assertEqual(source.picture.size[0], 2880 if halved else 5760)
            part, _ = shown_part(source, plan.layout)
            full = np.asarray(Image.open(io.BytesIO(data)))
            wanted = reference.resized(full, part.size[0], part.size[1], False)
            self.assertGreaterEqual(psnr(part.pixels, wanted), 49)


class ZonePlate(unittest.TestCase):
    def test_no_coarse_moire(self) -> None:
        """Rings up to the finest that pixels can carry: what must vanish may leave no coarse pattern behind.

        In the zone beyond what the rendition can show, patterns coarser than 2 pixels' deviation are compared
        with what Lanczos-3 on the whole picture leaves; a fifth of an 8-bit level more is allowed for rounding.
        """
        edge = 2400
        y, x = np.mgrid[0:edge, 0:edge] - (edge - 1) / 2
        rings = np.rint(127.5 + 110 * np.cos(np.pi * (x * x + y * y) / edge)).astype(np.uint8)
        data = jpeg(np.repeat(rings[..., None], 3, 2), 95)
        facts = read_facts("rings.jpg", data=data)
        full = np.asarray(Image.open(io.BytesIO(data)))
        for pixels in (1100, 860, 600, 430, 300, 200):
            made = recipe(size={"by": "width", "pixels": pixels})
            (plan,) = plan_renditions(facts, made, 1, None)
            part, _ = shown_part(decoded_for(facts, data, made, plan.layout), plan.layout)
            wanted = lanczos(full, part.size, (0, 0, edge, edge))
            steps = (np.mgrid[0:pixels, 0:pixels] + 0.5) * edge / pixels - edge / 2
            radius = np.hypot(*steps)
            zone = (radius / edge > 0.5 * pixels / edge * 1.35) & (radius < edge / 2)
            left = [_coarse(values[..., 1].astype(np.float64))[zone].std() for values in (part.pixels, wanted)]
            with self.subTest(pixels=pixels):
                self.assertLessEqual(left[0], left[1] + 0.2)


def _coarse(values: Values) -> Values:
    return np.asarray(cv2.GaussianBlur(values - values.mean(), (0, 0), 2), np.float64)


if __name__ == "__main__":
    unittest.main()


def by_taps(pixels: NDArray[Any], across: Taps, down: Taps) -> NDArray[Any]:
    """What the vectors compute, tap by tap in whole numbers: height x width x channels."""

    def summed(values: NDArray[Any], taps: Taps, lost: int) -> NDArray[Any]:
        weights = taps.integers.reshape(len(taps.first), -1).astype(np.int64)
        parts = (values[first : first + len(w)] for first, w in zip(taps.first, weights, strict=True))
        each = zip(parts, weights, taps.lost, strict=True)
        return np.stack([lost + off + ((part * w[:, None, None]) >> 16).sum(axis=0) for part, w, off in each])

    rows = summed(pixels.astype(np.int64) << 7, down, 0)
    sums = summed(rows.swapaxes(0, 1), across, 16) >> 5
    levels: NDArray[Any] = np.clip(sums.swapaxes(0, 1), 0, 255).astype(np.uint8)
    return levels


class Vectors(unittest.TestCase):
    """Strips, blocks and what is left over at their ends: the same numbers at any size."""

    def test_equal_to_sums_of_taps(self) -> None:
        rng = np.random.default_rng(20311126)
        seen = 0
        for turn in range(160):
            height, width = (int(edge) for edge in rng.integers(1, (40, 300, 1300)[turn % 3], 2))
            channels = (1, 3, 3, 4)[turn % 4]
            pixels = rng.integers(0, 256, (height, width, channels), np.uint8)
            wanted = [max(1, round(edge * rng.uniform(0.16, 1.5))) for edge in (width, height)]
            box = (0.0, 0.0, width, height) if turn % 2 else (0.21 * width, 0.13 * height, 0.9 * width, 0.95 * height)
            edges = [(size, box[i], box[i + 2], wanted[i]) for i, size in enumerate((width, height))]
            across, down = (taps(*edge) for edge in edges)
            if across.short and down.short:
                seen += 1
                made = resampled(pixels, edges[0], edges[1])
                np.testing.assert_array_equal(made, by_taps(pixels, across, down))
        self.assertGreater(seen, 100)
