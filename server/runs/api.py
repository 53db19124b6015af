"""Runs and renditions over the API."""

from __future__ import annotations

import datetime as dt
from typing import Any

from django.db.models import Exists, OuterRef, Q
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Router, Schema, Status
from pydantic import Field

from server.runs import flows, tallies
from server.runs.models import Rendition, Run, Tally
from server.studios.visitors import studio_of

router = Router(tags=["runs"])
CARDS = 30


class CountsOut(Schema):
    total: int
    made: int
    failed: int
    kept: int
    stopped: int
    asking: int
    open: int


class RecipeCountsOut(CountsOut):
    recipe: int
    title: str
    seconds_left: int | None
    per_minute: float | None


class LeftOutOut(Schema):
    name: str
    reason: str


class AfterwardsOut(Schema):
    """do: zip, markup, sheets or path. paths: on the server; none before it was done."""

    do: str
    paths: list[str] = []
    error: str = ""


class PictureOut(Schema):
    photo: int
    version: int
    key: str


class RunOut(Schema):
    id: int
    tray: int | None
    tray_name: str
    started: dt.datetime
    finished: dt.datetime | None
    stop_asked: bool
    held: bool
    urgency: int
    counts: CountsOut
    bytes: int
    seconds_left: int | None
    per_minute: float | None


class RunDetailOut(RunOut):
    """lost: files that were made and are changed or gone, as far as somebody looked. differs: that are not as planned.

    originals: bytes of the photos. fresh: photos that came into the tray since, once the run is over. afterwards: what
    is done once all is made, and what came of it.
    """

    lost: int
    differs: int
    originals: int
    fresh: int
    recipes: list[RecipeCountsOut]
    afterwards: list[AfterwardsOut]
    left_out: list[LeftOutOut]


class CardOut(RunOut):
    """A run as the list shows it. recipes: their names. pictures: the first of it."""

    recipes: list[str]
    pictures: list[PictureOut]


class CardsOut(Schema):
    total: int
    runs: list[CardOut]


class RunsOrderIn(Schema):
    runs: list[int] = Field(max_length=200)


class AgainIn(Schema):
    """renditions: None for all that failed."""

    renditions: list[int] | None = None


def find_run(request: HttpRequest, number: int) -> Run:
    return get_object_or_404(studio_of(request).runs, pk=number)


def seconds_left(run: Run, total: int, still: int) -> int | None:
    """How long the rest takes at the pace so far; None until there is one."""
    done, last = total - still, run.last
    if not still or run.held or run.finished or not done or last is None:
        return None
    now = timezone.now()
    # From the start to the newest result, not to now: a long photo must not make the estimate jump.
    pace = max((last - run.started).total_seconds(), 0.001) / done
    return max(1, round(pace * still - (now - last).total_seconds()))


def per_minute(run: Run, done: int) -> float | None:
    """Renditions a minute, from the start to the newest one; None where nothing is done yet."""
    if not done or run.last is None:
        return None
    return round(60 * done / max((run.last - run.started).total_seconds(), 0.1), 1)


def run_out(run: Run) -> dict[str, Any]:
    """A RunOut as plain values."""
    each = list(run.tallies.all())
    counts = {state: sum(getattr(tally, state) for tally in each) for state in tallies.STATES}
    total = sum(counts.values())
    return {
        "id": run.pk,
        "tray": run.tray_id,
        "tray_name": run.tray_name,
        "started": run.started,
        "finished": run.finished,
        "stop_asked": run.stop_asked,
        "held": run.held,
        "urgency": run.urgency,
        "bytes": sum(tally.bytes for tally in each),
        "counts": {"total": total, **counts},
        **_pace(run, total - counts["asking"], counts["open"]),
    }


def _pace(run: Run, total: int, still: int) -> dict[str, float | None]:
    return {"seconds_left": seconds_left(run, total, still), "per_minute": per_minute(run, total - still)}


def _recipe_out(run: Run, tally: Tally) -> dict[str, Any]:
    counts = {state: getattr(tally, state) for state in tallies.STATES}
    total = sum(counts.values())
    told = {"recipe": tally.recipe_id, "title": tally.recipe.title, "total": total, **counts}
    return told | _pace(run, total - counts["asking"], counts["open"])


@router.get("/runs", response=list[RunOut])
def list_runs(request: HttpRequest) -> list[dict[str, Any]]:
    return [run_out(run) for run in studio_of(request).runs.prefetch_related("tallies")[:50]]


@router.get("/run-cards", response=CardsOut)
def list_cards(request: HttpRequest, find: str = "", start: int = 0) -> dict[str, Any]:
    """The studio's runs, the newest first. find: in the names of trays, photos and files."""
    runs = studio_of(request).runs.all()
    if find:
        named = Q(photo__name__icontains=find) | Q(name__icontains=find)
        within = Rendition.objects.filter(named, run=OuterRef("pk"))
        runs = runs.filter(Q(tray_name__icontains=find) | Exists(within))
    start = min(max(0, start), 2**31)
    shown = runs.prefetch_related("tallies__recipe")[start : start + CARDS]
    return {"total": runs.count(), "runs": [_card(run) for run in shown]}


def _card(run: Run) -> dict[str, Any]:
    names = [tally.recipe.title for tally in sorted(run.tallies.all(), key=lambda each: each.recipe.position)]
    return run_out(run) | {"recipes": names, "pictures": run.cover}


@router.get("/runs/{number}", response=RunDetailOut)
def get_run(request: HttpRequest, number: int) -> dict[str, Any]:
    run = find_run(request, number)
    rows = run.tallies.select_related("recipe").order_by("recipe__position", "recipe")
    recipes = [_recipe_out(run, row) for row in rows]
    more = {
        "lost": run.renditions.exclude(lost="").count(),
        "differs": run.renditions.filter(differs=True).count(),
        "originals": run.originals,
        "fresh": flows.fresh_photos(run).count() if run.finished else 0,
    }
    return run_out(run) | {"recipes": recipes, "left_out": run.left_out, "afterwards": run.afterwards, **more}


@router.post("/runs/{number}/stop", response=RunOut)
def stop_run(request: HttpRequest, number: int) -> dict[str, Any]:
    flows.stop_run(find_run(request, number))
    return run_out(find_run(request, number))


@router.post("/runs/{number}/hold", response=RunOut)
def hold_run(request: HttpRequest, number: int) -> dict[str, Any]:
    """Work on nothing of the run until it goes on."""
    flows.hold(find_run(request, number))
    return run_out(find_run(request, number))


@router.post("/runs/{number}/go-on", response=RunOut)
def go_on(request: HttpRequest, number: int) -> dict[str, Any]:
    flows.go_on(find_run(request, number))
    return run_out(find_run(request, number))


@router.put("/run-order", response={204: None})
def order_runs(request: HttpRequest, body: RunsOrderIn) -> Status[None]:
    """Work on runs in this order."""
    flows.put_in_order(studio_of(request), body.runs)
    return Status(204, None)


@router.post("/runs/{number}/again", response=RunOut)
def try_again(request: HttpRequest, number: int, body: AgainIn) -> dict[str, Any]:
    """Try again what failed: all, or one by one."""
    flows.try_again(find_run(request, number), body.renditions)
    return run_out(find_run(request, number))
