"""Putting finished files in place: whole or not at all, and never over an original."""

from __future__ import annotations

import contextlib
import errno
import itertools
import os
import secrets
from collections.abc import Callable, Collection, Iterator
from dataclasses import dataclass
from pathlib import Path

from tray_core.errors import PlaceError, TargetIsSource
from tray_core.plan.naming import numbered

FileId = tuple[int, int]
"""(device, inode): the identity of a file, whatever it is called."""

PART = ".part"
"""Ending of temporary names, where the file system makes a temporary file have one."""


@dataclass(frozen=True, slots=True)
class Claims:
    """How a rendition that is made again after its maker died gets its own file back.

    earlier: the identity that an earlier try claimed; a file of that identity may be replaced.
    claim:   called with the path and the identity of the complete file, just before it appears there.
    """

    earlier: FileId | None = None
    claim: Callable[[Path, FileId], None] = lambda path, identity: None


def file_id(path: Path | str) -> FileId | None:
    """The identity of the file at `path`, links followed; None where there is none."""
    try:
        info = os.stat(path)
    except OSError:
        return None
    return info.st_dev, info.st_ino


def put(
    data: bytes,
    folder: Path,
    name: str,
    taken: str,
    originals: Collection[FileId],
    claims: Claims = Claims(),  # frozen
) -> Path | None:
    """Write `data` as folder/name and return the path it got, or None when a taken name was kept.

    taken:     "new-name" numbers the name, "replace" replaces the file, "keep" leaves it and writes nothing, and so
               does "ask", which somebody has to answer first.
    originals: files that are sources; to replace one is TargetIsSource, whatever `taken` says.
    Raises PlaceError when the folder cannot be made or written, or the disk is full.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise _place_error(folder, error, "a folder that can be made") from error
    for target in _targets(folder, name, taken):
        identity = file_id(target)
        present = identity is not None or target.is_symlink()
        ours = identity is not None and identity == claims.earlier
        if present and not ours and taken == "new-name":
            continue
        if present and not ours and taken in ("keep", "ask"):
            return None
        if identity is not None and identity in originals:
            raise TargetIsSource(
                str(target),
                expected="a name that is no original's",
                found="an original photo",
                remedy="Choose another folder or name; originals are never replaced.",
            )
        if _write(data, target, replace=present, claim=claims.claim):
            return target
        if taken in ("keep", "ask"):
            return None
    raise AssertionError("unreachable: the names never end")


def _targets(folder: Path, name: str, taken: str) -> Iterator[Path]:
    """The path asked for, and where a new name may be given, the numbered ones behind it without end.

    The path asked for comes up again after a failed race for "replace".
    """
    stem, dot, extension = name.rpartition(".")
    yield folder / name
    for number in itertools.count(2):
        yield folder / (f"{numbered(stem, number)}{dot}{extension}" if taken == "new-name" else name)


def _write(data: bytes, target: Path, *, replace: bool, claim: Callable[[Path, FileId], None]) -> bool:
    """Write whole or not at all; False when the name was taken meanwhile and may not be replaced."""
    part = target.with_name(f".{target.name[:60]}.{secrets.token_hex(6)}{PART}")
    try:
        descriptor, named = _temporary(part)
        with open(descriptor, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(descriptor)
            info = os.fstat(descriptor)
            claim(target, (info.st_dev, info.st_ino))
            if replace:
                if not named:
                    _link(descriptor, part)
                part.replace(target)
                return True
            if not named:
                return _link(descriptor, target)
            return _link_named(part, target)
    except OSError as error:
        raise _place_error(target.parent, error, "a folder that can be written") from error
    finally:
        with contextlib.suppress(OSError):
            part.unlink(missing_ok=True)


def _temporary(part: Path) -> tuple[int, bool]:
    """Open a temporary file; without a name where possible, so that nothing is left of a killed process."""
    if hasattr(os, "O_TMPFILE"):
        try:
            return os.open(part.parent, os.O_TMPFILE | os.O_WRONLY, 0o666), False
        except OSError as error:
            if error.errno not in (errno.EISDIR, errno.ENOENT, errno.EOPNOTSUPP, errno.EINVAL):
                raise
    return os.open(part, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o666), True


def _link(descriptor: int, target: Path) -> bool:
    """Give the nameless file a name; False when it is taken."""
    try:
        # A directory descriptor makes Python call linkat, which alone follows the link in /proc.
        os.link(f"/proc/self/fd/{descriptor}", target, src_dir_fd=descriptor, follow_symlinks=True)
    except FileExistsError:
        return False
    return True


def _link_named(part: Path, target: Path) -> bool:
    try:
        os.link(part, target)
    except FileExistsError:
        return False
    except OSError as error:
        if error.errno not in (errno.EPERM, errno.ENOTSUP, errno.ENOSYS, errno.EMLINK):
            raise
        # A file system without hard links: the name is claimed by an empty file first.
        try:
            os.close(os.open(target, os.O_CREAT | os.O_EXCL | os.O_WRONLY))
        except FileExistsError:
            return False
        part.replace(target)
    return True


def _place_error(folder: Path, error: OSError, expected: str) -> PlaceError:
    full = error.errno in (errno.ENOSPC, errno.EDQUOT)
    return PlaceError(
        str(folder),
        expected="room on the disk" if full else expected,
        found="a full disk" if full else (error.strerror or "an error").lower(),
        remedy="Free some space, then make it again." if full else "Choose another folder, or change its permissions.",
    )
