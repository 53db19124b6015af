"""Finding photos below files and folders."""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator
from pathlib import Path

from tray_core.errors import PhotoGone

_RAW = (
    *("3fr", "ari", "arw", "bay", "cap", "cr2", "cr3", "crw", "dcr", "dcs", "dng", "drf", "eip", "erf", "fff", "gpr"),
    *("iiq", "k25", "kdc", "mdc", "mef", "mos", "mrw", "nef", "nrw", "orf", "pef", "ptx", "pxn", "raf", "raw", "rw2"),
    *("rwl", "rwz", "sr2", "srf", "srw", "sti", "x3f"),
)
"""What the raw library opens, by its list of cameras."""

EXTENSIONS = frozenset(
    f".{name}"
    for name in (
        *("jpg", "jpeg", "jpe", "jfif", "mpo", "png", "apng", "tif", "tiff", "webp", "avif", "gif", "bmp", "dib"),
        *("heic", "heif", "hif", "jxl", "jp2", "j2k", "jpf", "jpx", "j2c", "psd", "ora", "svg", "pdf"),
        *_RAW,
    )
)
"""Names taken for pictures when a folder is read, dropped or chosen. What is in them is decided by content."""


def named_as_raw(name: str) -> bool:
    """Whether a file's name is one of camera raw; what is in it may be something else."""
    return name.rpartition(".")[2].lower() in _RAW


def find_photos(paths: Iterable[Path | str], leave_out: Path | None = None) -> Iterator[tuple[Path, PhotoGone | None]]:
    """Yield every photo below `paths` once, in a steady order: as given, folders by name, hidden ones left out.

    A file named outright is always yielded. A path that is not there, or a folder that cannot be
    read, is yielded with its error, and the walk goes on. leave_out: a folder that is not searched,
    for renditions that lie below their own originals.
    """
    seen: set[Path] = set()
    outside = leave_out.resolve() if leave_out else None
    for path, error in _found(paths, outside):
        if (resolved := path.absolute()) not in seen:
            seen.add(resolved)
            yield path, error


def _found(paths: Iterable[Path | str], outside: Path | None) -> Iterator[tuple[Path, PhotoGone | None]]:
    for given in map(Path, paths):
        if given.is_dir():
            yield from _walk(given, outside)
        elif given.exists():
            yield given, None
        else:
            yield (
                given,
                PhotoGone(
                    str(given),
                    expected="a file or a folder",
                    found="nothing there",
                    remedy="Check the path; is its drive connected?",
                ),
            )


def _walk(folder: Path, outside: Path | None) -> Iterator[tuple[Path, PhotoGone | None]]:
    if outside is not None and folder.resolve() == outside:
        return
    try:
        with os.scandir(folder) as entries:
            found = sorted(entries, key=lambda entry: entry.name)
    except OSError as error:
        yield folder, _gone(folder, "a folder that can be read", error)
        return
    for entry in found:
        if entry.name.startswith("."):
            continue
        if entry.is_dir(follow_symlinks=False):
            yield from _walk(Path(entry.path), outside)
        elif Path(entry.name).suffix.lower() in EXTENSIONS:
            try:
                if entry.is_file():
                    yield Path(entry.path), None
            except OSError as error:
                yield Path(entry.path), _gone(Path(entry.path), "a file, or a link to one", error)


def _gone(path: Path, expected: str, error: OSError) -> PhotoGone:
    found = (error.strerror or "an error").lower()
    return PhotoGone(str(path), expected=expected, found=found, remedy="Bring it back, or check its permissions.")
