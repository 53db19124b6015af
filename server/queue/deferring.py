"""Handing out many jobs at once."""

from __future__ import annotations

from collections.abc import Iterable

from django.db import connection
from procrastinate.contrib.django import app
from procrastinate.types import JSONValue

MAKE, READ, WEIGH = "runs.make_photo", "trays.read_photo", "board.weigh"
AFTERWARDS = "runs.do_afterwards"
DELIVER = "deliveries.send"
LOOK = "inlets.look"
"""Tasks by their names: what defers work need not know what does it."""

MANY = 100
STEP, STEPS = 20, 40
"""After every so many jobs of one batch, the next have a lower priority, so many times at most."""


def defer_all(task: str, jobs: Iterable[dict[str, JSONValue]], above: int = 0) -> None:
    """Defer one job of `task`, by name, for each of `jobs` (its arguments), inside the transaction around this.

    The more there are, the lower the priority of the later ones: whoever comes with a few does not wait behind somebody
    else's thousands. above: by so much more urgent than the task usually is.

    After many, the queue's table is analyzed: its planner would otherwise go on thinking it small
    and look through all jobs for every one that is fetched, half a second each.
    """
    found = list(jobs)
    for i in range(0, len(found), STEP):
        priority = app.tasks[task].priority + above - min(i // STEP, STEPS)
        app.tasks[task].configure(priority=priority).batch_defer(*found[i : i + STEP])
    if len(found) > MANY:
        with connection.cursor() as cursor:
            cursor.execute("ANALYZE procrastinate_jobs")
