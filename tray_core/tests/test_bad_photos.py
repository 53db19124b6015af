"""Photos that are cut off, empty, renamed, too large: a clear sentence each, and nothing else lost."""

from __future__ import annotations

import contextlib
import io
import threading

import numpy as np
import tifffile
from PIL import Image

from tray_core.errors import DamagedPhoto, EmptyPhoto, PhotoError, PhotoGone, PhotoTooLarge, UnknownFormat
from tray_core.photo import Limits, PhotoFacts, read_bytes, read_facts
from tray_core.photo.jpeg_parts import ends_early
from tray_core.pixels.decode import decode
from tray_core.tests.samples import PHOTOS, FolderCase, jpeg, scene


def encoded(kind: str) -> bytes:
    """One scene in a format."""
    file = io.BytesIO()
    if kind == "TIFF":
        tifffile.imwrite(file, scene(90, 60), photometric="rgb", compression="zlib")
    else:
        Image.fromarray(scene(90, 60)).save(file, kind)
    return file.getvalue()


def read(path: str, data: bytes) -> tuple[PhotoFacts, np.ndarray]:  # type: ignore[type-arg]
    facts = read_facts(path, data=data)
    return facts, decode(facts, data, (facts.width, facts.height)).pixels


class Refused(FolderCase):
    def test_each_names_file_expectation_finding_and_remedy(self) -> None:
        for name, kind, found in (
            ("broken/QM4_0132_empty.jpg", EmptyPhoto, "an empty file (0 bytes)"),
            ("broken/packing-list_renamed.jpg", UnknownFormat, "plain text"),
            ("not-there.jpg", PhotoGone, "no such file or directory"),
        ):
            with self.subTest(name), self.assertRaises(kind) as caught:
                read_facts(PHOTOS / name)
            self.assertEqual(caught.exception.found, found)
            self.assertEqual(caught.exception.subject, str(PHOTOS / name))
            self.assertTrue(caught.exception.remedy.endswith("."))

    def test_limits(self) -> None:
        path = self.write("wide.jpg", jpeg(scene(200, 100)))
        with self.assertRaises(PhotoTooLarge) as caught:
            read_facts(path, Limits(pixels=19_999))
        self.assertIn("200 x 100", caught.exception.found)
        with self.assertRaises(PhotoTooLarge):
            read_facts(path, Limits(bytes=100))
        self.assertEqual(read_facts(path, Limits(pixels=20_000)).width, 200)

    def test_a_bomb_is_refused_by_its_header(self) -> None:
        data = encoded("PNG")
        bomb = data[:16] + (60_000).to_bytes(4, "big") * 2 + data[24:]
        with self.assertRaises((PhotoTooLarge, DamagedPhoto)):
            read_facts("bomb.png", data=bomb)


class CutOff(FolderCase):
    def test_every_tenth_of_every_format(self) -> None:
        for kind in ("JPEG", "PNG", "TIFF", "WebP", "AVIF", "GIF"):
            data = encoded(kind)
            self.assertEqual(read("whole", data)[1].shape[:2], (60, 90), kind)
            for tenth in range(1, 10):
                with self.subTest(kind=kind, tenth=tenth), self.assertRaises(PhotoError):
                    read("cut", data[: len(data) * tenth // 10])

    def test_only_the_end_marker_missing_is_still_a_whole_picture(self) -> None:
        data = jpeg(scene(120, 80))
        facts, pixels = read("a.jpg", data[:-2])
        self.assertTrue(facts.ends_early)
        np.testing.assert_array_equal(pixels, read("a.jpg", data)[1])

    def test_progressive_without_its_end_is_refused(self) -> None:
        data = jpeg(scene(120, 80), progressive=True)
        self.assertEqual(ends_early(data), (False, True))
        with self.assertRaisesRegex(DamagedPhoto, "end too early"):
            read("a.jpg", data[:-2])

    def test_flipped_bytes_never_crash(self) -> None:
        random = np.random.default_rng(5)
        for kind in ("JPEG", "PNG", "TIFF", "WebP", "AVIF", "GIF"):
            data = np.frombuffer(encoded(kind), np.uint8)
            for _ in range(25):
                hurt = data.copy()
                hurt[random.integers(0, len(hurt), 4)] ^= random.integers(1, 255, 4).astype(np.uint8)
                try:
                    read("hurt", hurt.tobytes())
                except PhotoError as error:
                    self.assertEqual(error.subject, "hurt")


class Swapped(FolderCase):
    def test_a_link_put_in_a_files_place_leads_nowhere(self) -> None:
        """Swapped as fast as can be, file and folder, while somebody reads: what lies outside never comes."""
        inside, outside = self.folder / "root", self.folder / "outside"
        (inside / "shoot").mkdir(parents=True)
        outside.mkdir()
        (outside / "a.jpg").write_bytes(b"secret")
        own = self.folder / "own.jpg"
        target, folder = inside / "shoot" / "a.jpg", inside / "shoot"
        own.write_bytes(b"mine")
        own.replace(target)
        self.assertEqual(read_bytes(target, Limits(beneath=inside)), b"mine")
        over, swaps = threading.Event(), 0

        def swap() -> None:
            nonlocal swaps
            while not over.is_set():
                swaps += 1
                own.write_bytes(b"mine")
                own.replace(target)
                (self.folder / "link").symlink_to(outside / "a.jpg")
                (self.folder / "link").replace(target)
                folder.rename(self.folder / "aside")
                folder.symlink_to(outside)
                folder.unlink()
                (self.folder / "aside").rename(folder)

        swapping = threading.Thread(target=swap)
        swapping.start()
        read: set[bytes] = set()
        try:
            tries = 0
            while tries < 3000 or swaps < 100:
                tries += 1
                with contextlib.suppress(PhotoGone):
                    read.add(read_bytes(target, Limits(beneath=inside)))
        finally:
            over.set()
            swapping.join()
        # On a busy machine every reading may miss the moment when the file is there.
        self.assertLessEqual(read, {b"mine"})

    def test_links_inside_are_followed(self) -> None:
        (self.folder / "a").mkdir()
        (self.folder / "a" / "one.jpg").write_bytes(b"one")
        (self.folder / "b").symlink_to(self.folder / "a")
        (self.folder / "two.jpg").symlink_to(self.folder / "b" / "one.jpg")
        self.assertEqual(read_bytes(self.folder / "two.jpg", Limits(beneath=self.folder)), b"one")
        with self.assertRaisesRegex(PhotoGone, "a link that leads out of its folder"):
            read_bytes(self.folder / "two.jpg", Limits(beneath=self.folder / "b" / "c"))
