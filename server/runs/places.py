"""Where the files of runs go: below the studio's output folder, beside their originals, or to be downloaded."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from server.photos.models import Photo
from server.project.conf import conf
from server.runs.models import Rendition, Run
from server.studios.models import Root
from tray_core import PlaceError
from tray_core.plan.naming import safe_text


def base_of(run: Run, photo: Photo, row: Rendition) -> Path:
    """The folder that a rendition's own subfolder begins in."""
    to = row.version.content["place"]["to"]
    if to == "download":
        return run.downloads / str(row.recipe_id)
    # Each studio has a folder of its own: nobody meets another one's files.
    return photo.file.parent if to == "beside" else conf.output_root.resolve() / run.studio.folder


def checked_base(run: Run, photo: Photo, row: Rendition, roots: Sequence[Root]) -> Path:
    """The same; PlaceError where a rendition may not go. roots: all of this machine, of whatever studio."""
    base = base_of(run, photo, row)
    to = row.version.content["place"]["to"]
    if to == "beside":
        _check_beside(photo, (base / row.folder).resolve(), row.folder, roots)
    elif to == "output":
        _check_output(base, (base / row.folder).resolve(), row.folder, roots)
    return base


def _check_output(own: Path, target: Path, subfolder: str, roots: Sequence[Root]) -> None:
    if not conf.output_root.is_dir():
        raise PlaceError(
            "the output folder",
            expected="the folder that renditions go to",
            found="nothing there",
            remedy="Is its drive connected? Bring the folder back, then make it again.",
        )
    if target != own and own not in target.parents:
        raise PlaceError(
            subfolder,
            expected="a folder below the studio's output folder",
            found="a link out of it",
            remedy="Remove the link.",
        )
    for root in _around(target, roots):
        raise PlaceError(
            subfolder,
            expected="a folder without originals",
            found=f"the folder {root.name} of originals",
            remedy="Choose another subfolder; originals are never touched.",
        )


def _check_beside(photo: Photo, target: Path, subfolder: str, roots: Sequence[Root]) -> None:
    if photo.root is None:
        raise PlaceError(
            subfolder,
            expected="a photo that lies in a folder of the studio",
            found="an uploaded one",
            remedy="Choose the output folder, or download only.",
        )
    if photo.root.folder not in target.parents:
        raise PlaceError(
            subfolder,
            expected=f"a folder below {photo.root.name}",
            found="a link out of it",
            remedy="Remove the link.",
        )
    for root in _around(target, roots):
        if not root.writable:
            raise PlaceError(
                subfolder,
                expected="a folder that is marked as writable",
                found=f"{root.name}, which may only be read",
                remedy="Choose the output folder, or ask who runs the server to mark it.",
            )


def _around(target: Path, roots: Sequence[Root]) -> list[Root]:
    return [root for root in roots if target == root.folder or root.folder in target.parents]


def shown_place(row: Rendition) -> str:
    """Where a rendition goes, for people."""
    to = row.version.content["place"]["to"]
    if to == "beside":
        return f"{row.folder} beside the original"
    return "for download" if to == "download" else row.folder or "output folder"


def folder_in_zip(row: Rendition) -> str:
    """The folder of a rendition in a run's zip: the one that it lies in, told from the studio's own folders."""
    to = row.version.content["place"]["to"]
    if to == "beside":
        return f"{row.photo.folder}/{row.folder}".strip("/")
    return safe_text(row.recipe.title) if to == "download" else row.folder
