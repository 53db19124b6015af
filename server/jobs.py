"""Handing out many jobs at once."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from django.db import connection
from procrastinate.tasks import Task
from procrastinate.types import JSONValue

MANY = 100


def defer_all(task: Task[Any, Any, Any], jobs: Iterable[dict[str, JSONValue]]) -> None:
    """Defer one job of `task` for each of `jobs` (its arguments), inside the transaction around this.

    After many, the queue's table is analyzed: its planner would otherwise go on thinking it small
    and look through all jobs for every one that is fetched, half a second each.
    """
    found = list(jobs)
    task.batch_defer(*found)
    if len(found) > MANY:
        with connection.cursor() as cursor:
            cursor.execute("ANALYZE procrastinate_jobs")
