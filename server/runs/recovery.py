"""Nothing stays stuck: what dead or failed jobs left open is given out again. The rows are the truth.

A photo's tries count deaths of the process that worked on it, and nothing else: not errors, which are tried again as
long as they last, not a worker that was quiet for a while, not the end of the whole product in the middle of its work.
"""

from __future__ import annotations

import json
import time
from pathlib import Path
from typing import Any

from django.db import connection, transaction
from django.db.models import F, Q
from procrastinate.contrib.django import app

from server.photos.models import Photo
from server.project.conf import conf
from server.queue.deferring import AFTERWARDS, DELIVER, MAKE, READ
from server.runs import tallies
from server.runs.models import Rendition, Run, Tally

LATER = 10
"""Seconds until a job that failed is tried again: what was in its way (a full disk, a stopped database) may be gone."""

WHOLE = 60
"""Seconds between two searches through all open rows; what failed is known without."""

_UNFINISHED = Tally.objects.filter(Q(open__gt=0) | Q(asking__gt=0))
_looked = 0.0


def count_death(job: int | None, task: str, about: dict[str, Any]) -> None:
    """Count the death of the process that worked on a photo, if it did die, and while the rest of the product lived."""
    if not _started_since(job, conf.since):
        return
    if task == MAKE:
        rows = Rendition.objects.filter(
            run_id=about["run_id"], photo_id=about["photo_id"], state=Rendition.State.MAKING
        )
        if not _lives(rows.values_list("maker", flat=True).first()):
            rows.update(tries=F("tries") + 1)
    elif task == READ:
        photos = Photo.objects.filter(pk=about["photo_id"], asked__isnull=False)
        if not _lives(photos.values_list("reader", flat=True).first()):
            photos.update(tries=F("tries") + 1)


def _started_since(job: int | None, moment: float) -> bool:
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT extract(epoch FROM max(at)) >= %s FROM procrastinate_events WHERE job_id = %s AND type = 'started'",
            [moment, job],
        )
        return bool(cursor.fetchone()[0])


def _lives(process: int | None) -> bool:
    """Whether a worker of that number is there: it may be quiet because it was stopped, or its machine was asleep."""
    try:
        return process is not None and b"procrastinate" in Path(f"/proc/{process}/cmdline").read_bytes()
    except OSError:
        return False


def settle() -> None:
    """Have failed jobs done again, and end the runs that are done; now and then look through all rows that are open."""
    global _looked
    _try_again()
    for run in Run.objects.filter(finished=None).exclude(pk__in=_UNFINISHED.values("run_id")):
        with transaction.atomic():
            tallies.lock([run.pk])
            tallies.finish_if_done(run)
    if time.monotonic() - _looked > WHOLE:
        _looked = time.monotonic()
        for run in Run.objects.filter(finished=None):
            with transaction.atomic():
                tallies.lock([run.pk])
                tallies.count_anew(run)
        for number, photo in orphans():
            app.tasks[MAKE].defer(run_id=number, photo_id=photo)
        for photo in unread():
            app.tasks[READ].defer(photo_id=photo)


@transaction.atomic
def _try_again() -> None:
    with connection.cursor() as cursor:
        cursor.execute(
            "DELETE FROM procrastinate_jobs WHERE status = 'failed' AND task_name = ANY(%s) "
            "RETURNING task_name, args, priority",
            [[MAKE, READ, AFTERWARDS, DELIVER]],
        )
        failed = cursor.fetchall()
    for task, about, priority in failed:
        app.tasks[task].configure(schedule_in={"seconds": LATER}, priority=priority).defer(**json.loads(about))


def orphans() -> list[tuple[int, int]]:
    """(run, photo) of open renditions that no job, waiting or under way, will make."""
    return without_job(
        "SELECT DISTINCT r.run_id, r.photo_id FROM runs_rendition r "
        "JOIN runs_run u ON u.id = r.run_id AND u.finished IS NULL AND NOT u.held "
        "WHERE r.state IN ('waiting', 'making')",
        MAKE,
        ("run_id", "photo_id"),
    )


def unread() -> list[int]:
    """Photos that are to be read and that no job will read."""
    found = without_job("SELECT id FROM photos_photo WHERE asked IS NOT NULL", READ, ("photo_id",))
    return [photo for (photo,) in found]


def without_job(wanted: str, task: str, keys: tuple[str, ...]) -> list[Any]:
    """The rows of a query whose numbers are not those of a job of a task, waiting or under way.

    keys: the job's arguments, in the order of the query's columns.
    """
    fields = ", ".join(f"(args->>'{key}')::bigint" for key in keys)
    with connection.cursor() as cursor:
        cursor.execute(
            f"{wanted} EXCEPT SELECT {fields} FROM procrastinate_jobs "  # nothing of it is from outside
            "WHERE task_name = %s AND status IN ('todo', 'doing')",
            [task],
        )
        found: list[Any] = cursor.fetchall()
    return found
