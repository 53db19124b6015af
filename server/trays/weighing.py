"""Renditions that people look at, encoded by idle workers: the board tells their bytes exactly, and a run uses them."""

from __future__ import annotations

import contextlib
import itertools
import secrets
from collections.abc import Callable, Iterable

from django.db import connection, transaction
from django.db.models import Sum
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued
from procrastinate.types import JSONValue

from server.jobs import WEIGH
from server.live.hub import hint
from server.trays.board import board, lit
from server.trays.models import Photo, Tray, Weighed
from server.trays.reading import LIMITS, unchanged
from tray_core import Plan
from tray_core.coders import Encoded
from tray_core.fingerprint import fingerprint
from tray_core.line import encode_ahead

PRIORITY = -10
"""Below all other work: reading has 10 to 50, making 60 to 100."""

AT_ONCE = 12
MOST_BYTES = 2_000_000_000
"""Of what is kept for a studio; the oldest goes first."""

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
    for row in board(tray, lit(tray), list(dict.fromkeys(photo for photo, _ in wanted))):
        plans = [
            plan
            for cell in row.cells
            if (cell.photo.pk, cell.recipe.pk) in wanted and cell.state in _STATES
            for plan in cell.plans
        ]
        known = known_bytes(tray.studio_id, [fingerprint(row.photo.digest, plan) for plan in plans])
        plans = [plan for plan in plans if fingerprint(row.photo.digest, plan) not in known]
        if not plans or busy() or not unchanged(row.photo):
            continue
        for plan, made in encode_ahead(row.photo.file, plans, limits=LIMITS, stopped=busy):
            _keep(tray.studio_id, fingerprint(row.photo.digest, plan), made)
            found = True
    if found:
        _forget(tray.studio_id)
        hint(tray.studio_id, "tray", tray.pk)


def known_bytes(studio: int, fingerprints: Iterable[str]) -> dict[str, int]:
    """The exact bytes of those that were weighed."""
    rows = Weighed.objects.filter(studio_id=studio, fingerprint__in=list(fingerprints))
    return dict(rows.values_list("fingerprint", "bytes"))


def made_ahead(studio: int, photo: Photo) -> Callable[[Plan], Encoded | None]:
    """What `make_renditions` asks for bytes that are there already."""

    def ready(plan: Plan) -> Encoded | None:
        row = Weighed.objects.filter(studio_id=studio, fingerprint=fingerprint(photo.digest, plan)).first()
        if row is None:
            return None
        try:
            data = row.file.read_bytes()
        except OSError:
            return None  # the cache may be emptied at any time
        return Encoded(data, **row.about) if len(data) == row.bytes else None

    return ready


def _keep(studio: int, name: str, made: Encoded) -> None:
    about = {"quality": made.quality, "score": made.score, "tries": made.tries}
    row = Weighed(studio_id=studio, fingerprint=name, bytes=len(made.data), about=about)
    row.file.parent.mkdir(parents=True, exist_ok=True)
    part = row.file.with_name(f".{name}.{secrets.token_hex(4)}.part")
    part.write_bytes(made.data)
    part.replace(row.file)
    Weighed.objects.bulk_create([row], ignore_conflicts=True)


def _forget(studio: int) -> None:
    """Make room once there is more than may be: a tenth at a time, until the rest may stay."""
    rows = Weighed.objects.filter(studio_id=studio)
    while (rows.aggregate(Sum("bytes"))["bytes__sum"] or 0) > MOST_BYTES:
        for row in rows.order_by("made", "pk")[: max(1, rows.count() // 10)]:
            row.file.unlink(missing_ok=True)
            row.delete()
