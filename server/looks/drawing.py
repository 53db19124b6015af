"""Drawing pictures for screens from working copies, as many at once as there are cores."""

from __future__ import annotations

import contextlib
import os
import threading
from collections.abc import Iterable
from concurrent.futures import ThreadPoolExecutor
from typing import Any, NamedTuple

from django.db import transaction

from server.http.connections import let_go
from server.http.problems import Problem
from server.photos.flows import have_read
from server.photos.hands import hands
from server.photos.models import Photo
from server.photos.outlines import with_curves
from server.photos.reading import check_place, copy_path, keep_copies, limits_of
from tray_core import Plan, Recipe, TrayError, plan_renditions
from tray_core.line.preview import WORKING_EDGES, copy_wanted, developed_copies, preview
from tray_core.looks import copies_of, previews
from tray_core.pixels.decode import development_of
from tray_core.tone import Development


def _come_second() -> None:
    """The board's rows, and all else that answers without drawing, come before pictures."""
    os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), os.getpriority(os.PRIO_PROCESS, 0) + 5)


_COUNT = os.cpu_count() or 1
_drawing = ThreadPoolExecutor(_COUNT, thread_name_prefix="cells", initializer=_come_second)
_cores = threading.BoundedSemaphore(_COUNT)


Meant = tuple[bytes, Plan, int, bool]
"""A cell to draw, as `preview` takes it."""


class Wanted(NamedTuple):
    """A cell to draw. chosen: for the photo, by a person, as `plan_renditions` takes it."""

    photo: Photo
    recipe: Recipe
    chosen: dict[str, Any]


def working_copy(photo: Photo, edge: int, development: Development | None = None) -> bytes:
    """The photo's working copy of `edge` pixels; made anew where the cache lost it. development: of camera raw, for a
    tone that needs another one than usual.
    """
    with contextlib.suppress(OSError):
        return copy_path(photo.digest, edge, development).read_bytes()
    file, limits = photo.file, limits_of(photo)
    let_go()
    try:
        check_place(photo)
        if development is None:
            digest, copies = hands.do(photo.name, copies_of, file, limits)
        else:
            digest, copies = hands.do(photo.name, developed_copies, file, development, limits)
    except TrayError as error:
        raise Problem(404, "No picture", f"{photo.name}: found {error.found}. {error.remedy}") from error
    if digest != photo.digest:
        with transaction.atomic():
            have_read([photo.pk])
        raise Problem(404, "No picture", f"{photo.name}: it was changed, and is being read again.")
    kept = keep_copies(digest, copies, development)
    if development is None:
        Photo.objects.filter(pk=photo.pk).update(copied=kept)
    return copies[WORKING_EDGES.index(edge)]


def draw(what: Wanted, edge: int) -> bytes:
    """What a recipe makes of a photo, `edge` pixels long; of a responsive set, the largest."""
    meant = _meant(what, edge)
    let_go()
    with _cores:  # more at once than there are cores would only be slower for all
        return preview(*meant)


def _meant(what: Wanted, edge: int) -> Meant:
    """What is to be drawn, as `preview` takes it."""
    facts = what.photo.facts()
    plan = with_curves(what.photo, plan_renditions(facts, what.recipe, 1, None, **what.chosen)[-1])
    edge = max(1, min(edge, WORKING_EDGES[0]))
    development = development_of(facts, plan.tone)
    copy = working_copy(what.photo, copy_wanted(plan.layout, edge), development)
    return copy, plan, edge, development is not None


def draw_all(wanted: Iterable[Wanted | None], edge: int) -> list[bytes]:
    """Pictures of several cells, in their order; empty ones where nothing can be shown."""
    meant: list[Meant | None] = []
    for what in wanted:
        try:
            meant.append(_meant(what, edge) if what else None)
        except (Problem, TrayError, OSError):
            meant.append(None)
    let_go()
    some = max(1, -(-len(meant) // _COUNT))
    parts = (meant[first : first + some] for first in range(0, len(meant), some))
    return [picture for part in _drawing.map(_drawn, parts) for picture in part]


def _drawn(meant: list[Meant | None]) -> list[bytes]:
    """In another process where one has nothing to do: here every few lines wait for the interpreter's lock."""
    if (found := hands.offer(previews, meant)) is not None:
        return found
    with _cores:
        return previews(meant)
