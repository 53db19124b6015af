"""Opening originals: read-only, without waiting for anybody, and below the folder that they may lie in."""

from __future__ import annotations

import errno
import os
from pathlib import Path

_FLAGS = os.O_RDONLY | os.O_CLOEXEC | os.O_NONBLOCK
"""A pipe would keep whoever opens it waiting for its other end; this way it opens, and is refused by its kind."""


def open_photo(path: Path, beneath: Path | None = None) -> int:
    """A descriptor of the file at `path`; OSError where there is none that may be read.

    beneath: the folder that it must lie below, with all links followed. What the path leads to is found out first, and
    then opened step by step, no step by way of a link: one that is put in its place meanwhile leads nowhere.
    """
    if beneath is None:
        return os.open(path, _FLAGS)
    top, target = beneath.resolve(), path.resolve(strict=True)
    if top not in target.parents:
        raise OSError(errno.EXDEV, "a link that leads out of its folder")
    *folders, name = target.relative_to(top).parts
    here = os.open(top, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    try:
        for folder in folders:
            inner = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_NOFOLLOW | os.O_CLOEXEC, dir_fd=here)
            os.close(here)
            here = inner
        return os.open(name, _FLAGS | os.O_NOFOLLOW, dir_fd=here)
    finally:
        os.close(here)
