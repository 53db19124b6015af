"""Files appear whole or not at all, names that are taken are respected, originals stay."""

from __future__ import annotations

import errno
import os
import unittest
from pathlib import Path
from unittest import mock

from tray_core.errors import PlaceError, TargetIsSource
from tray_core.line.write import file_id, put
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

        def late(source: Path, target: Path) -> None:
            if not target.exists():
                target.write_bytes(b"theirs")
            real(source, target)

        for taken, wanted in (("new-name", "dial-2.jpg"), ("keep", None)):
            with mock.patch("tray_core.line.write.os.link", side_effect=[FileExistsError(), None]):
                made = self.put(taken=taken)
            self.assertEqual(made.name if made else None, wanted)
        with mock.patch("tray_core.line.write.os.link", side_effect=late):
            self.assertEqual(self.put(b"ours", "replace"), self.folder / "dial.jpg")
        self.assertEqual((self.folder / "dial.jpg").read_bytes(), b"ours")

    def test_file_systems_without_hard_links(self) -> None:
        refused = OSError(errno.EPERM, "Operation not permitted")
        with mock.patch("tray_core.line.write.os.link", side_effect=refused):
            self.assertEqual(self.put(b"one"), self.folder / "dial.jpg")
            self.assertEqual(self.put(b"two"), self.folder / "dial-2.jpg")
        self.assertEqual((self.folder / "dial.jpg").read_bytes(), b"one")

    def test_reserved_path_is_written_again(self) -> None:
        mine = self.folder / "dial-2.jpg"
        self.put(b"theirs")
        self.put(b"half of an earlier try")
        self.assertEqual(self.put(b"whole", reserve=lambda path: path == mine), mine)
        self.assertEqual(mine.read_bytes(), b"whole")

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
