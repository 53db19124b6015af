"""The tallies of a run, kept in step with its renditions. Every change is made by whoever has locked the run's row."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from django.db.models import BigIntegerField, Count, F, Q, QuerySet, Sum
from django.db.models.fields.json import KeyTextTransform
from django.db.models.functions import Cast
from django.utils import timezone

from server.queue.deferring import AFTERWARDS, defer_all
from server.recipes.models import RecipeVersion
from server.runs.models import Rendition, Run, Tally

STATES = ("open", "asking", "made", "failed", "kept", "stopped")
_BYTES = Sum(Cast(KeyTextTransform("bytes", "receipt"), BigIntegerField()))


def lock(runs: Iterable[int]) -> None:
    """Before their rows, always: the last two renditions that end together would each see the other one open."""
    list(Run.objects.select_for_update().filter(pk__in=list(runs)).order_by("pk").values_list("pk"))


def count_anew(run: Run) -> None:
    """Count all renditions: when a run begins, and now and then, since the rows are the truth."""
    states = {
        "open": Count("id", filter=Q(state__in=Rendition.OPEN)),
        **{state: Count("id", filter=Q(state=state)) for state in STATES[1:]},
    }
    found = run.renditions.order_by().values("recipe_id").annotate(**states, bytes=_BYTES)
    run.tallies.all().delete()
    Tally.objects.bulk_create(Tally(run=run, **{**row, "bytes": row["bytes"] or 0}) for row in found)


def move(run: Run, recipe: int, one: str, other: str, count: int = 1, size: int = 0) -> None:
    """`count` renditions of a recipe went from one state to another. size: bytes that were made."""
    change: dict[str, Any] = {one: F(one) - count, other: F(other) + count, "bytes": F("bytes") + size}
    run.tallies.filter(recipe_id=recipe).update(**change)


def end_rows(run: Run, rows: QuerySet[Rendition], state: Rendition.State, error: str = "") -> None:
    """End those of `rows` that are unfinished."""
    for one, states in (("open", Rendition.OPEN), ("asking", (Rendition.State.ASKING,))):
        found = rows.filter(state__in=states)
        counts = found.order_by("recipe_id").values_list("recipe_id").annotate(Count("id"))
        for recipe, count in list(counts):
            move(run, recipe, one, state, count)
        found.update(state=state, error=error, finished=timezone.now(), maker=None)


def learn(version: int, forecast: int, size: int) -> None:
    """Note what a rendition weighs against its forecast, for the next ones of the same version."""
    if forecast:
        RecipeVersion.objects.filter(pk=version).update(forecast=F("forecast") + forecast, weighed=F("weighed") + size)


def finish_if_done(run: Run) -> None:
    """Mark the run finished once none of its renditions is open or waits for a crop; what comes afterwards begins."""
    if not run.tallies.filter(Q(open__gt=0) | Q(asking__gt=0)).exists():
        done = Run.objects.filter(pk=run.pk, finished=None).update(finished=timezone.now(), held=False)
        if done and Run.objects.exclude(afterwards=[]).filter(pk=run.pk).exists():
            defer_all(AFTERWARDS, [{"run_id": run.pk}])
