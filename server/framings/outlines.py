"""What is done with the outlines of photos."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from server.framings import keeping
from server.framings.flows import placed
from server.framings.keeping import Edit
from server.photos.models import Photo
from server.photos.outlines import curves_of, keep_curves
from server.trays.models import Tray
from tray_core import RecipeError
from tray_core.outline import check_outline


def _put(photo: Photo, values: dict[str, Any]) -> bool:
    try:
        traced = keep_curves(photo, check_outline(values))
    except RecipeError as error:
        raise keeping.wrong("outline", error) from error
    before, photo.traced, photo.outlined = photo.traced, traced, True
    return bool(traced != before)


# Runs may wait for an outline as they do for a crop.
_KIND = keeping.Kind(
    "outline",
    "outline_version",
    ("traced", "outlined"),
    curves_of,
    _put,
    lambda photos: placed.send(Photo, photos=photos),
)


def keep(tray: Tray, edits: Iterable[Edit]) -> list[Edit]:
    """Give photos of a tray these outlines: all, or where one was changed meanwhile, none. Gives what they had."""
    return keeping.keep(_KIND, tray, edits)
