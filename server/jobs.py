"""Handing out many jobs at once."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from django.db import connection
from procrastinate.tasks import Task
from procrastinate.types import JSONValue

MANY = 100
STEP, STEPS = 20, 40
"""After every so many jobs of one batch, the next have a lower priority, so many times at most."""


def defer_all(task: Task[Any, Any, Any], jobs: Iterable[dict[str, JSONValue]]) -> None:
    """Defer one job of `task` for each of `jobs` (its arguments), inside the transaction around this.

    The more there are, the lower the priority of the later ones: whoever comes with a few does not wait behind somebody
    else's thousands.

    After many, the queue's table is analyzed: its planner would otherwise go on thinking it small
    and look through all jobs for every one that is fetched, half a second each.
    """
    found = list(jobs)
    for i in range(0, len(found), STEP):
        task.configure(priority=task.priority - min(i // STEP, STEPS)).batch_defer(*found[i : i + STEP])
    if len(found) > MANY:
        with connection.cursor() as cursor:
            cursor.execute("ANALYZE procrastinate_jobs")
