"""What is done with runs: stopping, holding, putting them in order, and trying again what failed."""

from __future__ import annotations

from collections.abc import Iterable

from django.db import connection, transaction
from django.db.models import Exists, OuterRef, QuerySet
from procrastinate.contrib.django import app

from server.http.problems import Problem
from server.live.hub import hint
from server.photos.models import Photo
from server.queue.deferring import MAKE, defer_all
from server.runs import tallies
from server.runs.models import Rendition, Run
from server.studios.models import Studio
from server.trays.models import TrayPhoto

APART = 50
"""Between the priorities of runs of one urgency and the next: more than the jobs of one run are apart."""
MOST_URGENT = 100


@transaction.atomic
def stop_run(run: Run) -> None:
    """Stop a run: what waits, for its turn or for an eye, is not made any more.

    A photo being worked finishes its current rendition.
    """
    tallies.lock([run.pk])
    Run.objects.filter(pk=run.pk).update(stop_asked=True, held=False)
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
    if not run.held:
        _defer(run, dict.fromkeys(row.photo_id for row in rows))
    hint(run.studio_id, "run", run.pk)
    return len(rows)


@transaction.atomic
def hold(run: Run) -> None:
    """Work on nothing of a run until it goes on. A photo being worked is finished."""
    tallies.lock([run.pk])
    if not Run.objects.filter(pk=run.pk, finished=None).update(held=True):
        raise Problem(409, "The run is over", "Expected a run that goes on, found a finished one. Nothing to hold.")
    _drop_jobs(run)
    hint(run.studio_id, "run", run.pk)


@transaction.atomic
def go_on(run: Run) -> None:
    """Go on with a run that was held."""
    tallies.lock([run.pk])
    if Run.objects.filter(pk=run.pk, held=True).update(held=False):
        waiting = run.renditions.filter(state=Rendition.State.WAITING).order_by("n", "pk")
        _defer(run, dict.fromkeys(waiting.values_list("photo_id", flat=True)))
        hint(run.studio_id, "run", run.pk)


@transaction.atomic
def put_in_order(studio: Studio, numbers: list[int]) -> None:
    """Let runs be worked on in this order; those that are not named come after them."""
    tallies.lock(numbers)
    runs = {run.pk: run for run in studio.runs.filter(pk__in=numbers, finished=None)}
    wanted = [runs[number] for number in dict.fromkeys(numbers) if number in runs]
    studio.runs.filter(finished=None).exclude(pk__in=runs).update(urgency=0)
    for place, run in enumerate(wanted):
        run.urgency = min(len(wanted) - place, MOST_URGENT)
        Run.objects.filter(pk=run.pk).update(urgency=run.urgency)
        _reorder_jobs(run)
        hint(studio.pk, "run", run.pk)


def fresh_photos(run: Run) -> QuerySet[Photo]:
    """Photos of the run's tray that came since, or could not be read then, and that it made nothing of."""
    came = TrayPhoto.objects.filter(tray=run.tray_id, pk__gt=run.last_place).values_list("photo_id", flat=True)
    # By number, so that nobody looks through a large tray for the few that came.
    numbers = {*came, *(each["photo"] for each in run.left_out if "photo" in each)}
    known = Exists(run.renditions.filter(photo=OuterRef("pk")))
    return Photo.objects.filter(~known, pk__in=numbers, places__tray=run.tray_id, state=Photo.State.READY)


def _defer(run: Run, photos: Iterable[int]) -> None:
    defer_all(MAKE, ({"run_id": run.pk, "photo_id": photo} for photo in photos), run.urgency * APART)


_JOBS = "WHERE status = 'todo' AND task_name = %s AND args->>'run_id' = %s"


def _drop_jobs(run: Run) -> None:
    with connection.cursor() as cursor:
        cursor.execute(f"DELETE FROM procrastinate_jobs {_JOBS}", [MAKE, str(run.pk)])


def _reorder_jobs(run: Run) -> None:
    """Above whatever is less urgent; the fairness within a run's own photos is for others' sake, and not needed."""
    priority = app.tasks[MAKE].priority + run.urgency * APART
    with connection.cursor() as cursor:
        cursor.execute(f"UPDATE procrastinate_jobs SET priority = %s {_JOBS}", [priority, MAKE, str(run.pk)])
