"""What is done with runs: stopping, and trying again what failed."""

from __future__ import annotations

from django.db import transaction

from server.http.problems import Problem
from server.live.hub import hint
from server.queue.deferring import MAKE, defer_all
from server.runs import tallies
from server.runs.models import Rendition, Run


@transaction.atomic
def stop_run(run: Run) -> None:
    """Stop a run: what waits, for its turn or for an eye, is not made any more.

    A photo being worked finishes its current rendition.
    """
    tallies.lock([run.pk])
    Run.objects.filter(pk=run.pk).update(stop_asked=True)
    waiting = (Rendition.State.WAITING, Rendition.State.ASKING)
    tallies.end_rows(run, run.renditions.filter(state__in=waiting), Rendition.State.STOPPED)
    tallies.finish_if_done(run)
    hint(run.studio_id, "run", run.pk)


@transaction.atomic
def try_again(run: Run, renditions: list[int] | None) -> int:
    """Make again what failed in a run, by the same recipes as then; how many. renditions: these alone."""
    tallies.lock([run.pk])
    failed = run.renditions.select_for_update().filter(state=Rendition.State.FAILED)
    if renditions is not None:
        failed = failed.filter(pk__in=renditions)
    rows = list(failed.order_by("pk").only("pk", "photo_id", "recipe_id"))
    if not rows:
        raise Problem(409, "Nothing failed", "Expected renditions that failed, found none. They may be made already.")
    run.renditions.filter(pk__in=[row.pk for row in rows]).update(
        state=Rendition.State.WAITING, error="", tries=0, finished=None, maker=None
    )
    for row in rows:
        tallies.move(run, row.recipe_id, "failed", "open")
    Run.objects.filter(pk=run.pk).update(finished=None, stop_asked=False)
    defer_all(MAKE, ({"run_id": run.pk, "photo_id": photo} for photo in dict.fromkeys(row.photo_id for row in rows)))
    hint(run.studio_id, "run", run.pk)
    return len(rows)
