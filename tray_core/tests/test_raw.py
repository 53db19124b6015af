"""Camera raw for a tone: all of its light, other lights, noise, what a lens did, and the camera's own first look."""

from __future__ import annotations

import io
import struct
import unittest
from typing import Any

import numpy as np
import rawpy
import simplejpeg
from numpy.typing import NDArray

from tray_core.fuzz.corpus import dng
from tray_core.line.toning import apply_tone
from tray_core.looks import first_look
from tray_core.photo import read_facts
from tray_core.pixels.decode import decode, development_of
from tray_core.readers.noise import without_noise
from tray_core.tests.samples import PHOTOS, FolderCase, raw_with_preview, scene
from tray_core.tone import Development, Tone
from tray_core.tone.model import Balance

GAMMA = 563 / 256
WHITE = 65535


def flat(red: int, green: int, blue: int, width: int = 240, height: int = 160) -> NDArray[np.uint16]:
    return np.full((height, width, 3), (red, green, blue), np.uint16)


def opcodes(*each: tuple[int, bytes]) -> bytes:
    """A list of opcodes as it stands in a file."""
    parts = [struct.pack(">4I", number, 0x01030000, 0, len(data)) + data for number, data in each]
    return struct.pack(">I", len(each)) + b"".join(parts)


def with_opcodes(tag: int, data: bytes, rgb: NDArray[np.uint16]) -> NDArray[np.float64]:
    """What is developed of a file with opcodes, in linear light, 0..1."""
    raw = dng(rgb.shape[1], rgb.shape[0], rgb, [(tag, "B", len(data), tuple(data), True)])
    facts = read_facts("lens.dng", data=raw)
    return linear(decode(facts, raw, (facts.width, facts.height)).pixels)


def linear(pixels: NDArray[Any]) -> NDArray[np.float64]:
    return (pixels.astype(np.float64) / WHITE) ** GAMMA


def toned(raw: bytes, tone: Tone) -> NDArray[np.float64]:
    """The whole picture as a rendition has it, in linear light."""
    facts = read_facts("some.dng", data=raw)
    how = development_of(facts, tone)
    picture = decode(facts, raw, (facts.width, facts.height), how)
    return linear(apply_tone(picture, tone, max(picture.size), developed=how is not None).pixels)


class Light(unittest.TestCase):
    def test_a_tone_that_changes_little_changes_little(self) -> None:
        raw = (PHOTOS / "bench-raw" / "QM4_0203.dng").read_bytes()
        plain, nearly = toned(raw, Tone()), toned(raw, Tone(muted=1))
        dull = plain.max(axis=2) < 0.8
        self.assertLess(np.quantile(np.abs(plain - nearly)[dull], 0.999), 0.02)
        self.assertLess(np.abs(plain - nearly)[dull].mean(), 0.0005)

    def test_what_is_lighter_than_white_is_there_for_exposure_and_recovery(self) -> None:
        # The camera's balance takes red twice: both halves are white by it, and differ in truth.
        rgb = flat(36000, 36000, 36000)
        rgb[:, 120:] = 50000
        rgb[:8] = WHITE  # without it, the raw library takes the lightest value for the sensor's white
        raw = dng(240, 160, rgb)
        ends = [np.s_[60:100, 20:80], np.s_[60:100, 160:220]]
        plain = toned(raw, Tone())
        one, other = (float(plain[end][..., 0].mean()) for end in ends)
        self.assertAlmostEqual(one, other, places=3)
        darker = toned(raw, Tone(exposure=-2.0))
        one, other = (float(darker[end][..., 0].mean()) for end in ends)
        self.assertAlmostEqual(other / one, 50000 / 36000, delta=0.03)
        soft = toned(raw, Tone(recover=100))
        one, other = (float(soft[end][..., 0].mean()) for end in ends)
        self.assertLess(one + 0.05, other)
        self.assertLessEqual(float(soft.max()), 1)

    def test_recovery_leaves_the_dark_and_never_falls(self) -> None:
        ramp = np.arange(240, dtype=np.uint16) * 270
        raw = dng(240, 160, np.repeat(np.tile(ramp, (160, 1))[..., None], 3, axis=2))
        before, after = (toned(raw, tone)[80, 8:-8, 1] for tone in (Tone(muted=1), Tone(recover=80)))
        self.assertGreaterEqual(np.diff(after).min(), -0.002)
        self.assertLess(np.abs(before - after)[before < 0.25].max(), 0.006)

    def test_a_grey_in_another_light_is_grey_by_its_balance(self) -> None:
        with rawpy.imread(io.BytesIO(dng())) as raw:
            to_srgb, daylight = np.asarray(raw.color_matrix)[:, :3], np.array(raw.daylight_whitebalance[:3])

        def seen(balance: Balance, light: NDArray[np.float64] | None = None) -> NDArray[np.float64]:
            # What a sensor sees of a grey: what its balance for daylight undoes, by a light of these shares.
            sensor = 12000 / daylight * (1 if light is None else light)
            made = toned(dng(240, 160, flat(*(int(each) for each in sensor))), Tone(balance=balance, muted=1))
            return np.asarray(made[40:-40, 40:-40].mean(axis=(0, 1)))

        grey = seen("daylight")
        self.assertLess(grey.max() / grey.min(), 1.02)
        self.assertGreater(seen("shade")[0] / seen("shade")[2], 1.1)
        self.assertLess(seen("lamp")[0] / seen("lamp")[2], 0.5)
        # Lamp light to linear sRGB (IEC 61966-2-1), and from there to this sensor by its matrix in the file.
        x, y = 0.4476, 0.4074
        from_xyz = np.array([[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]])
        lamp = np.linalg.solve(to_srgb, from_xyz @ np.array([x / y, 1, (1 - x - y) / y]))
        found = seen("lamp", lamp / lamp.max())
        self.assertLess(found.max() / found.min(), 1.02)

    def test_files_without_a_development_have_no_use_for_it(self) -> None:
        facts = read_facts(PHOTOS / "shop-stock" / "QM4_0117.jpg")
        self.assertIsNone(development_of(facts, Tone(balance="lamp", noise=40)))
        raw = read_facts("some.dng", data=dng())
        self.assertIsNone(development_of(raw, Tone()))
        self.assertIsNone(development_of(raw, Tone(mirror=True)))
        self.assertEqual(development_of(raw, Tone(exposure=1.0, noise=3)), Development("shot", 3, 0))


class Noise(unittest.TestCase):
    def setUp(self) -> None:
        random = np.random.default_rng(5)
        light = np.where(np.arange(400) < 200, 0.35, 0.7)[None, :, None] + np.zeros((300, 400, 3))
        self.clean = light
        self.noisy = np.rint(np.clip(light + random.normal(0, 0.02, light.shape), 0, 1) * WHITE).astype(np.uint16)

    def test_grain_goes_and_edges_stay(self) -> None:
        found = without_noise(self.noisy, 60, 0, 2) / WHITE
        before, after = (np.std((each - self.clean)[:, :180].mean(axis=2)) for each in (self.noisy / WHITE, found))
        self.assertLess(after, 0.5 * before)
        edge = found[..., 1].mean(axis=0)
        self.assertGreater(edge[201] - edge[198], 0.9 * 0.35)

    def test_colored_spots_go_and_lightness_stays(self) -> None:
        found = without_noise(self.noisy, 0, 80, 2).astype(np.float64) / WHITE
        noisy = self.noisy / WHITE
        for channel in (0, 2):
            before, after = (np.std((each[..., channel] - each[..., 1])[:, :180]) for each in (noisy, found))
            self.assertLess(after, 0.35 * before)
        weights = np.array([0.25, 0.5, 0.25])
        self.assertLess(np.abs(noisy @ weights - found @ weights).max(), 0.001)

    def test_strips_meet(self) -> None:
        tall = np.tile(self.noisy, (8, 1, 1))
        once = without_noise(tall, 50, 50, 2)[900:1200]
        other = without_noise(tall[600:1500], 50, 50, 2)[300:600]
        self.assertLessEqual(int(np.abs(once.astype(int) - other).max()), 2)


class Lens(unittest.TestCase):
    def test_light_that_falls_towards_the_corners(self) -> None:
        height, width, k = 160, 240, (0.5, 0.2, -0.05, 0.01, 0.0)
        y, x = np.mgrid[0:height, 0:width]
        r2 = ((x - 119.5) ** 2 + (y - 79.5) ** 2) / (119.5**2 + 79.5**2)
        gain = 1 + sum(each * r2 ** (i + 1) for i, each in enumerate(k))
        fallen = np.repeat(np.rint(12000 / gain)[..., None], 3, axis=2).astype(np.uint16)
        made = with_opcodes(51022, opcodes((3, struct.pack(">7d", *k, 0.5, 0.5))), fallen)[4:-4, 4:-4, 1]
        self.assertLess(float(made.max() / made.min()), 1.015)
        self.assertGreater(float(12000 / fallen.min()), 1.5)

    def test_lines_that_bend(self) -> None:
        height, width, k = 300, 400, (0.9, 0.08, 0.0, 0.0, 0.0, 0.0)
        cx, cy, m = 199.5, 149.5, float(np.hypot(199.5, 149.5))
        rgb = flat(3000, 3000, 3000, width, height)
        y, x = np.mgrid[0:height, 0:width]
        wanted = [(80.0, 60.0), (300.0, 90.0), (200.0, 220.0)]
        for to_x, to_y in wanted:
            r2 = ((to_x - cx) ** 2 + (to_y - cy) ** 2) / m**2
            f = k[0] + k[1] * r2
            spot = np.exp(-((x - cx - f * (to_x - cx)) ** 2 + (y - cy - f * (to_y - cy)) ** 2) / 18)
            rgb += np.rint(20000 * spot)[..., None].astype(np.uint16)
        made = with_opcodes(51022, opcodes((1, struct.pack(">I8d", 1, *k, 0.5, 0.5))), rgb)[..., 1]
        for to_x, to_y in wanted:
            part = np.s_[int(to_y) - 15 : int(to_y) + 16, int(to_x) - 15 : int(to_x) + 16]
            weight = np.clip(made[part] - made[part].min() * 1.5, 0, None)
            self.assertAlmostEqual(float((weight * y[part]).sum() / weight.sum()), to_y, delta=0.6)
            self.assertAlmostEqual(float((weight * x[part]).sum() / weight.sum()), to_x, delta=0.6)

    def test_a_map_of_gains_for_the_sensor_s_own_values(self) -> None:
        height, width = 160, 240
        fall = 1 + 0.8 * np.linspace(0, 1, width)
        fallen = np.repeat(np.tile(np.rint(12000 / fall), (height, 1))[..., None], 3, axis=2).astype(np.uint16)
        gains = np.tile(np.linspace(1, 1.8, 9), (2, 1)).astype(">f4")
        head = struct.pack(">10I", 0, 0, height, width, 0, 1, 1, 1, 2, 9) + struct.pack(">4d", 1, 1 / 8, 0, 0)
        data = opcodes((9, head + struct.pack(">I", 1) + gains.tobytes()))
        made = with_opcodes(51009, data, fallen)[4:-4, 4:-4, 1]
        self.assertLess(float(made.max() / made.min()), 1.02)

    def test_what_makes_no_sense_is_passed_over(self) -> None:
        rgb = flat(9000, 9000, 9000)
        plain = linear(decode(read_facts("a.dng", data=dng(240, 160, rgb)), dng(240, 160, rgb), (240, 160)).pixels)
        for data in (
            b"\xff\xff\xff\xff1234",
            opcodes((3, b"short")),
            opcodes((1, struct.pack(">I", 7) + bytes(64))),
            opcodes((77, bytes(20))),
            opcodes((9, bytes(76))),
        ):
            for tag in (51009, 51022):
                np.testing.assert_allclose(with_opcodes(tag, data, rgb), plain, atol=1e-6)


class FirstLook(FolderCase):
    def test_the_camera_s_own_picture_is_there_at_once_and_upright(self) -> None:
        for turned, size in ((1, (96, 64)), (6, (64, 96)), (8, (64, 96)), (3, (96, 64))):
            with self.subTest(turned):
                path = self.write(f"{turned}.dng", raw_with_preview(turned))
                self.assertEqual(read_facts(path).format, "camera raw")
                made = first_look(path, 320)
                assert made is not None
                found = simplejpeg.decode_jpeg(made).astype(float)
                self.assertEqual(found.shape[1::-1], size)
                turns = {1: 0, 6: 3, 8: 1, 3: 2}[turned]
                self.assertLess(np.abs(np.rot90(scene(96, 64), turns) - found).mean(), 4)
                self.assertEqual(read_facts(path).width, size[0] * 4)

    def test_a_turned_half_lies_where_the_whole_does(self) -> None:
        light = np.full((61, 91, 3), 3000, np.uint16)
        light[:20, :30] = 30000
        for turned, extent, corner in (
            (1, (0.0, 0.0, 45.5, 30.5), (4, 4)),
            (3, (0.5, 0.5, 46.0, 31.0), (-4, -4)),
            (6, (0.5, 0.0, 31.0, 45.5), (4, -4)),
            (8, (0.0, 0.5, 30.5, 46.0), (-4, 4)),
        ):
            raw = dng(91, 61, light, [(274, "H", 1, turned, True)])
            facts = read_facts("odd.dng", data=raw)
            self.assertEqual((facts.width, facts.height), (91, 61) if turned in (1, 3) else (61, 91))
            half = decode(facts, raw, (10, 10))
            self.assertEqual(half.extent, extent)
            self.assertGreater(int(half.pixels[corner][1]), 2 * int(half.pixels[..., 1].min()))
            self.assertIsNone(decode(facts, raw, (91, 91)).extent)

    def test_files_without_one(self) -> None:
        self.assertIsNone(first_look(self.write("none.dng", dng()), 320))
