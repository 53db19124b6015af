"""Having cells that people look at encoded by idle workers: the board tells their bytes exactly."""

from __future__ import annotations

import contextlib
import itertools
from collections.abc import Iterable

from django.db import connection, transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued
from procrastinate.types import JSONValue

from server.board.planning import lit, planned
from server.live.hub import hint
from server.photos.outlines import with_curves
from server.photos.reading import limits_of, unchanged
from server.queue.deferring import WEIGH
from server.runs import ahead
from server.trays.models import Tray
from tray_core.fingerprint import fingerprint
from tray_core.line import encode_ahead

PRIORITY = -10
"""Below all other work: reading has 10 to 50, making 60 to 100."""

AT_ONCE = 12

_STATES = ("planned", "outdated", "failed")


def ask(tray: Tray, cells: Iterable[tuple[int, int]]) -> None:
    """Have some cells, (photo, recipe) each, weighed when there is nothing else to do; one job a tray at a time."""
    wanted: list[JSONValue] = [list[JSONValue](each) for each in itertools.islice(cells, AT_ONCE)]
    lock = f"weigh-{tray.pk}"
    # The queue's own lock holds between two at once; asking first keeps it from being run into all the time.
    if next(iter(app.job_manager.list_jobs(queueing_lock=lock, status="todo")), None) is not None:
        return
    with contextlib.suppress(AlreadyEnqueued), transaction.atomic():
        job = app.tasks[WEIGH].configure(queueing_lock=lock, priority=PRIORITY)
        job.defer(tray_id=tray.pk, cells=wanted)


def busy() -> bool:
    """Whether real work waits for a worker."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT EXISTS (SELECT 1 FROM procrastinate_jobs WHERE status = 'todo' AND queue_name IN ('make', 'read') "
            "AND priority > %s)",
            [PRIORITY],
        )
        return bool(cursor.fetchone()[0])


def weigh(tray_id: int, cells: Iterable[tuple[int, int]]) -> None:
    """Encode these cells, photo by photo, each decoded once, until real work comes."""
    tray = Tray.objects.filter(pk=tray_id).first()
    if tray is None:
        return
    wanted = {(photo, recipe) for photo, recipe in cells}
    found = False
    for row in planned(tray, lit(tray), list(dict.fromkeys(photo for photo, _ in wanted)), names={}):
        prints = {
            printed: plan
            for cell in row.cells
            if (cell.photo.pk, cell.recipe.pk) in wanted and cell.state in _STATES
            for printed, plan in zip(cell.prints, cell.plans, strict=True)
        }
        known = ahead.known_bytes(tray.studio_id, prints)
        plans = [with_curves(row.photo, plan) for printed, plan in prints.items() if printed not in known]
        if not plans or busy() or not unchanged(row.photo):
            continue
        for plan, made in encode_ahead(row.photo.file, plans, limits=limits_of(row.photo), stopped=busy):
            ahead.keep(tray.studio_id, fingerprint(row.photo.digest, plan), made)
            found = True
    if found:
        ahead.forget(tray.studio_id)
        hint(tray.studio_id, "tray", tray.pk)
