"""Files appear whole or not at all, names that are taken are respected, originals stay."""

from __future__ import annotations

import errno
import os
import subprocess
import sys
import unittest
from pathlib import Path
from unittest import mock

from tray_core.errors import PlaceError, TargetIsSource
from tray_core.line.write import Claims, file_id, put
from tray_core.tests.samples import FolderCase


class Put(FolderCase):
    def put(self, data: bytes = b"new", taken: str = "new-name", **more: object) -> Path | None:
        return put(data, self.folder, "dial.jpg", taken, more.pop("originals", ()), **more)  # type: ignore[arg-type]

    def tearDown(self) -> None:
        self.assertEqual(list(self.folder.rglob(".*.part")), [])

    def test_taken_names(self) -> None:
        self.assertEqual(self.put(b"one"), self.folder / "dial.jpg")
        self.assertEqual(self.put(b"two"), self.folder / "dial-2.jpg")
        self.assertEqual(self.put(b"three"), self.folder / "dial-3.jpg")
        self.assertIsNone(self.put(b"four", "keep"))
        self.assertEqual((self.folder / "dial.jpg").read_bytes(), b"one")
        self.assertEqual(self.put(b"five", "replace"), self.folder / "dial.jpg")
        self.assertEqual((self.folder / "dial.jpg").read_bytes(), b"five")

    def test_an_original_is_never_replaced_under_any_name(self) -> None:
        original = self.write("card/IMG.jpg", b"original")
        identity = file_id(original)
        assert identity is not None
        for link in (os.link, os.symlink):
            link(original, self.folder / "dial.jpg")
            with self.assertRaises(TargetIsSource):
                self.put(taken="replace", originals={identity})
            self.assertEqual(self.put(originals={identity}, taken="keep"), None)
            self.assertEqual(original.read_bytes(), b"original")
            (self.folder / "dial.jpg").unlink()

    def test_full_disk_leaves_nothing(self) -> None:
        full = OSError(errno.ENOSPC, "No space left on device")
        with mock.patch("tray_core.line.write.os.fsync", side_effect=full), self.assertRaises(PlaceError) as caught:
            self.put()
        self.assertEqual(caught.exception.found, "a full disk")
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_name_taken_by_another_program_in_the_last_moment(self) -> None:
        real = os.link

        def late(source: object, target: Path, **more: object) -> None:
            if target.name == "dial.jpg":
                target.write_bytes(b"theirs")
            real(source, target, **more)  # type: ignore[arg-type]

        for taken, wanted in (("new-name", "dial-2.jpg"), ("keep", None), ("replace", "dial.jpg")):
            with mock.patch("tray_core.line.write.os.link", side_effect=late):
                made = self.put(b"ours", taken)
            self.assertEqual(made.name if made else None, wanted)
            self.assertEqual((self.folder / "dial.jpg").read_bytes(), b"ours" if taken == "replace" else b"theirs")
            (self.folder / "dial.jpg").unlink()

    def test_file_systems_without_nameless_files_and_without_hard_links(self) -> None:
        named = mock.patch(
            "tray_core.line.write._temporary", lambda part: (os.open(part, os.O_CREAT | os.O_RDWR), True)
        )
        refused = OSError(errno.EPERM, "Operation not permitted")
        with named:
            self.assertEqual(self.put(b"one"), self.folder / "dial.jpg")
            self.assertEqual(self.put(b"two"), self.folder / "dial-2.jpg")
            self.assertEqual(self.put(b"three", "replace"), self.folder / "dial.jpg")
            with mock.patch("tray_core.line.write.os.link", side_effect=refused):
                self.assertEqual(self.put(b"four"), self.folder / "dial-3.jpg")
                self.assertIsNone(self.put(b"five", "keep"))
        found = {path.name: path.read_bytes() for path in self.folder.iterdir()}
        self.assertEqual(found, {"dial.jpg": b"three", "dial-2.jpg": b"two", "dial-3.jpg": b"four"})

    def test_made_again_after_its_maker_died(self) -> None:
        """Killed after the file appeared and before anyone heard of it: the second try gets the same path."""
        claimed: list[tuple[Path, tuple[int, int]]] = []
        self.put(b"theirs")
        first = self.put(b"ours", claims=Claims(claim=lambda *claim: claimed.append(claim)))
        self.assertEqual(claimed, [(first, file_id(self.folder / "dial-2.jpg"))])
        self.assertEqual(self.put(b"ours", claims=Claims(earlier=claimed[0][1])), first)
        self.assertEqual(len(list(self.folder.iterdir())), 2)
        self.assertEqual((self.folder / "dial.jpg").read_bytes(), b"theirs")

    def test_killed_while_writing_leaves_nothing(self) -> None:
        code = (
            "import os, sys; from pathlib import Path; from tray_core.line.write import Claims, put\n"
            "claims = Claims(claim=lambda *_: os.kill(os.getpid(), 9))\n"
            "put(b'x' * 9999, Path(sys.argv[1]), 'dial.jpg', 'new-name', (), claims)"
        )
        done = subprocess.run(
            [sys.executable, "-c", code, str(self.folder)], check=False, cwd=Path(__file__).parents[2]
        )
        self.assertEqual(done.returncode, -9)
        self.assertEqual(list(self.folder.iterdir()), [])

    @unittest.skipIf(os.geteuid() == 0, "root may write everywhere")
    def test_folder_that_may_not_be_written(self) -> None:
        self.folder.chmod(0o500)
        self.addCleanup(self.folder.chmod, 0o700)
        with self.assertRaisesRegex(PlaceError, "permission denied"):
            self.put()

    def test_folder_that_cannot_be_made(self) -> None:
        blocked = self.write("file", b"")
        with self.assertRaisesRegex(PlaceError, "not a directory|file exists"):
            put(b"x", blocked / "below", "dial.jpg", "new-name", ())
