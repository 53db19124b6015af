"""Files of ours among originals."""

from __future__ import annotations

from pathlib import Path

from server.photos.models import Written
from server.studios.models import Root


def note(root: Root, path: Path) -> None:
    """Note that the file at `path`, links resolved, is ours, before it appears there."""
    Written.objects.get_or_create(root=root, path=str(path.relative_to(root.folder)))


def is_ours(root: Root, path: Path) -> bool:
    """Whether a run put the file there."""
    return Written.objects.filter(root=root, path=str(path.relative_to(root.folder))).exists()


def ours_below(folder: Path) -> set[Path]:
    """All files of ours below a folder of some root; roots may lie in each other."""
    found: set[Path] = set()
    for root in Root.objects.filter(written__isnull=False).distinct():
        top = root.folder
        if top == folder or top in folder.parents or folder in top.parents:
            found |= {top / path for path in root.written.values_list("path", flat=True)}
    return found
