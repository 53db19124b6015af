"""The tallies of a run, kept in step with its renditions. Every change is made by whoever has locked the run's row."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from django.db import connection
from django.db.models import BigIntegerField, Count, Q, QuerySet, Sum
from django.db.models.fields.json import KeyTextTransform
from django.db.models.functions import Cast
from django.utils import timezone

from server.photos.models import Photo
from server.queue.deferring import AFTERWARDS, defer_all
from server.recipes.models import RecipeVersion
from server.runs.models import Rendition, Run, Tally

STATES = ("open", "asking", "made", "failed", "kept", "stopped")
_BYTES = Sum(Cast(KeyTextTransform("bytes", "receipt"), BigIntegerField()))


class Weight(NamedTuple):
    """What a rendition of a recipe's version was forecast to weigh, and what it weighs, in bytes."""

    version: int
    forecast: int
    size: int


def lock(runs: Iterable[int]) -> None:
    """Before their rows, always: the last two renditions that end together would each see the other one open."""
    list(Run.objects.select_for_update().filter(pk__in=list(runs)).order_by("pk").values_list("pk"))


def lock_working(run: Run) -> bool:
    """The same, of a run in which a rendition has just ended; whether somebody wants it stopped."""
    with connection.cursor() as cursor:
        cursor.execute(f"UPDATE {Run._meta.db_table} SET last = now() WHERE id = %s RETURNING stop_asked", [run.pk])
        return bool(cursor.fetchone() != (False,))


def count_anew(run: Run) -> None:
    """Count all renditions: when a run begins, and now and then, since the rows are the truth."""
    states = {
        "open": Count("id", filter=Q(state__in=Rendition.OPEN)),
        **{state: Count("id", filter=Q(state=state)) for state in STATES[1:]},
    }
    found = run.renditions.order_by().values("recipe_id").annotate(**states, bytes=_BYTES)
    run.tallies.all().delete()
    Tally.objects.bulk_create(Tally(run=run, **{**row, "bytes": row["bytes"] or 0}) for row in found)
    photos = Photo.objects.filter(pk__in=run.renditions.values("photo"))
    Run.objects.filter(pk=run.pk).update(originals=photos.aggregate(sum=Sum("bytes"))["sum"] or 0)


def move(run: Run, recipe: int, one: str, other: str, count: int = 1, size: int = 0) -> None:
    """`count` renditions of a recipe went from one state to another. size: bytes that were made."""
    assert one in STATES and other in STATES
    with connection.cursor() as cursor:
        # With every rendition, so by hand: to put it together costs more than to do it.
        cursor.execute(
            f"UPDATE {Tally._meta.db_table} SET {one} = {one} - %s, {other} = {other} + %s, bytes = bytes + %s "
            "WHERE run_id = %s AND recipe_id = %s",
            [count, count, size, run.pk, recipe],
        )


def end_rows(run: Run, rows: QuerySet[Rendition], state: Rendition.State, error: str = "") -> None:
    """End those of `rows` that are unfinished."""
    for one, states in (("open", Rendition.OPEN), ("asking", (Rendition.State.ASKING,))):
        found = rows.filter(state__in=states)
        counts = found.order_by("recipe_id").values_list("recipe_id").annotate(Count("id"))
        for recipe, count in list(counts):
            move(run, recipe, one, state, count)
        found.update(state=state, error=error, finished=timezone.now(), maker=None)


def learn(weights: Iterable[Weight]) -> None:
    """Note what renditions weigh against their forecasts, for the next ones of the same versions."""
    # Always in the same order: two photos that end together would each wait for the other one's.
    rows = [(each.forecast, each.size, each.version) for each in sorted(weights) if each.forecast]
    if rows:
        table = RecipeVersion._meta.db_table
        with connection.cursor() as cursor:
            cursor.executemany(
                f"UPDATE {table} SET forecast = forecast + %s, weighed = weighed + %s WHERE id = %s", rows
            )


def finish_if_done(run: Run) -> None:
    """Mark the run finished once none of its renditions is open or waits for a crop; what comes afterwards begins."""
    if not run.tallies.filter(Q(open__gt=0) | Q(asking__gt=0)).exists():
        done = Run.objects.filter(pk=run.pk, finished=None).update(finished=timezone.now(), held=False)
        if done and Run.objects.exclude(afterwards=[]).filter(pk=run.pk).exists():
            defer_all(AFTERWARDS, [{"run_id": run.pk}])
