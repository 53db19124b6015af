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
from tray_core import Recipe, TrayError, plan_renditions
from tray_core.line.preview import WORKING_EDGES, copy_wanted, developed_copies, preview
from tray_core.looks import copies_of
from tray_core.pixels.decode import development_of
from tray_core.tone import Development


def _come_second() -> None:
    """The board's rows, and all else that answers without drawing, come before pictures."""
    os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), os.getpriority(os.PRIO_PROCESS, 0) + 5)


_drawing = ThreadPoolExecutor(os.cpu_count() or 1, thread_name_prefix="cells", initializer=_come_second)
_cores = threading.BoundedSemaphore(os.cpu_count() or 1)


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
    plan = with_curves(what.photo, plan_renditions(what.photo.facts(), what.recipe, 1, None, **what.chosen)[-1])
    edge = max(1, min(edge, WORKING_EDGES[0]))
    development = development_of(what.photo.facts(), plan.tone)
    copy = working_copy(what.photo, copy_wanted(plan.layout, edge), development)
    let_go()
    with _cores:  # more at once than there are cores would only be slower for all
        return preview(copy, plan, edge, development is not None)


def draw_all(wanted: Iterable[Wanted | None], edge: int) -> list[bytes]:
    """Pictures of several cells, in their order; empty ones where nothing can be shown."""

    def drawn(what: Wanted | None) -> bytes:
        try:
            return draw(what, edge) if what else b""
        except (Problem, TrayError, OSError):
            return b""
        finally:
            let_go()  # a lost copy is made anew in this thread, which no request ends for

    let_go()
    return list(_drawing.map(drawn, wanted))
