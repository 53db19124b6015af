"""Runs and renditions over the API."""

from __future__ import annotations

import datetime as dt
from pathlib import Path
from typing import Any, Literal
from urllib.parse import quote

from django.db.models import BigIntegerField, F, Q, Sum
from django.db.models.fields.json import KT
from django.db.models.functions import Abs, Cast
from django.http import HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Query, Router, Schema
from pydantic import Field

from server.http.problems import Problem
from server.http.streams import stream, stream_file
from server.photos.models import Photo
from server.runs import files, flows, manifest, tallies
from server.runs.models import Rendition, Run, Tally
from server.studios.visitors import studio_of
from tray_core.plan.naming import safe_text

router = Router(tags=["runs"])
PAGE = 200


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


class LeftOutOut(Schema):
    name: str
    reason: str


class RunOut(Schema):
    id: int
    tray: int | None
    tray_name: str
    started: dt.datetime
    finished: dt.datetime | None
    stop_asked: bool
    counts: CountsOut
    bytes: int
    seconds_left: int | None


class RunDetailOut(RunOut):
    """lost: files that were made and are changed or gone, as far as somebody looked. differs: that are not as planned.

    originals: bytes of the photos.
    """

    lost: int
    differs: int
    originals: int
    recipes: list[RecipeCountsOut]
    left_out: list[LeftOutOut]


class RenditionOut(Schema):
    id: int
    photo: int
    photo_name: str
    photo_digest: str
    recipe: int
    recipe_title: str
    version: int
    n: int
    part: int
    parts: int
    state: str
    width: int
    height: int
    name: str
    place: str
    about: int
    receipt: dict[str, Any] | None
    error: str
    lost: str


class AgainIn(Schema):
    """renditions: None for all that failed."""

    renditions: list[int] | None = None


class MarkupIn(Schema):
    """kind: the elements alone, a page that shows them, or JSON. recipes: those of one set; none for all."""

    kind: Literal["html", "page", "json"] = "html"
    sizes: str = Field("", max_length=500)
    recipes: list[int] = []


class PageOut(Schema):
    total: int
    renditions: list[RenditionOut]


def _find_run(request: HttpRequest, number: int) -> Run:
    return get_object_or_404(studio_of(request).runs, pk=number)


def seconds_left(run: Run, total: int, still: int) -> int | None:
    """How long the rest takes at the pace so far; None until there is one."""
    done, last = total - still, run.last
    if not still or run.finished or not done or last is None:
        return None
    now = timezone.now()
    # From the start to the newest result, not to now: a long photo must not make the estimate jump.
    pace = max((last - run.started).total_seconds(), 0.001) / done
    return max(1, round(pace * still - (now - last).total_seconds()))


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
        "bytes": sum(tally.bytes for tally in each),
        "counts": {"total": total, **counts},
        "seconds_left": seconds_left(run, total - counts["asking"], counts["open"]),
    }


def _recipe_out(tally: Tally) -> dict[str, Any]:
    counts = {state: getattr(tally, state) for state in tallies.STATES}
    return {"recipe": tally.recipe_id, "title": tally.recipe.title, "total": sum(counts.values()), **counts}


def _rendition_out(row: Rendition) -> RenditionOut:
    place = row.version.content["place"]
    return RenditionOut(
        id=row.pk,
        photo=row.photo_id,
        photo_name=row.photo.name,
        photo_digest=row.photo.digest,
        recipe=row.recipe_id,
        recipe_title=row.recipe.title,
        version=row.version_id,
        n=row.n,
        part=row.part,
        parts=row.parts,
        state=row.state,
        width=row.width,
        height=row.height,
        name=Path(row.path).name if row.path else row.name,
        place="for download" if place["to"] == "download" else row.folder or "output folder",
        about=row.about,
        receipt=row.receipt,
        error=row.error or (files.TEXTS[Rendition.Lost(row.lost)] if row.lost else ""),
        lost=row.lost,
    )


@router.get("/runs", response=list[RunOut])
def list_runs(request: HttpRequest) -> list[dict[str, Any]]:
    return [run_out(run) for run in studio_of(request).runs.prefetch_related("tallies")[:50]]


@router.get("/runs/{number}", response=RunDetailOut)
def get_run(request: HttpRequest, number: int) -> dict[str, Any]:
    run = _find_run(request, number)
    rows = run.tallies.select_related("recipe").order_by("recipe__position", "recipe")
    recipes = [_recipe_out(row) for row in rows]
    more = {
        "lost": run.renditions.exclude(lost="").count(),
        "differs": run.renditions.exclude(receipt=None).exclude(receipt__differences=[]).count(),
        "originals": Photo.objects.filter(pk__in=run.renditions.values("photo")).aggregate(sum=Sum("bytes"))["sum"]
        or 0,
    }
    return run_out(run) | {"recipes": recipes, "left_out": run.left_out, **more}


@router.post("/runs/{number}/stop", response=RunOut)
def stop_run(request: HttpRequest, number: int) -> dict[str, Any]:
    flows.stop_run(_find_run(request, number))
    return run_out(_find_run(request, number))


@router.post("/runs/{number}/again", response=RunOut)
def try_again(request: HttpRequest, number: int, body: AgainIn) -> dict[str, Any]:
    """Try again what failed: all, or one by one."""
    flows.try_again(_find_run(request, number), body.renditions)
    return run_out(_find_run(request, number))


@router.get("/runs/{number}/renditions", response=PageOut)
def list_renditions(
    request: HttpRequest, number: int, start: int = 0, state: str = "", find: str = "", sort: str = ""
) -> PageOut:
    """state: also differs, for files that are not as planned. find: in the names of photos and files.

    sort: bytes, pixels or planned (how far bytes are from their forecast), the largest first; else as planned.
    """
    run = _find_run(request, number)
    rows = run.renditions.select_related("photo", "recipe", "version")
    if state == "differs":
        rows = rows.exclude(receipt=None).exclude(receipt__differences=[])
    elif state:
        rows = rows.filter(state=state)
    if find:
        rows = rows.filter(Q(photo__name__icontains=find) | Q(name__icontains=find))
    size = Cast(KT("receipt__bytes"), BigIntegerField())
    orders: dict[str, Any] = {
        "bytes": size.desc(nulls_last=True),
        "pixels": (Cast(F("width"), BigIntegerField()) * F("height")).desc(),
        "planned": Abs(size - F("about")).desc(nulls_last=True),
    }
    if sort in orders:
        rows = rows.order_by(orders[sort], "n", "pk")
    start = min(max(0, start), 2**31)
    shown = list(rows[start : start + PAGE])
    files.look_at(shown)
    return PageOut(total=rows.count(), renditions=[_rendition_out(row) for row in shown])


@router.get("/runs/{number}/zip")
def download_zip(request: HttpRequest, number: int) -> HttpResponseBase:
    """All finished files of the run with a manifest."""
    run = _find_run(request, number)
    archive = manifest.archive(run)
    name = f"{safe_text(run.tray_name)}-{run.started:%Y-%m-%d}-run-{run.pk}.zip"
    return stream(archive, "application/zip", name, len(archive), download=True)


@router.get("/runs/{number}/markup")
def download_markup(request: HttpRequest, number: int, how: Query[MarkupIn]) -> HttpResponse:
    """Picture elements of the run's finished files, from those of some recipes or all."""
    run = _find_run(request, number)
    text, what = manifest.markup(run, how.kind, how.sizes, how.recipes or None)
    answer = HttpResponse(text, content_type=what)
    ending = "json" if how.kind == "json" else "html"
    # Never shown on this address: the words in it are anybody's.
    answer["Content-Disposition"] = f"attachment; filename*=UTF-8''{quote(safe_text(run.tray_name))}-pictures.{ending}"
    return answer


@router.get("/renditions/{number}/file")
def rendition_file(request: HttpRequest, number: int, download: bool = False) -> HttpResponseBase:
    """One finished file."""
    row = get_object_or_404(Rendition, pk=number, run__studio=studio_of(request), state=Rendition.State.MADE)
    files.look_at([row])
    if row.lost:
        raise Problem(410, f"The file is {row.lost}", f"{row.name}: {files.TEXTS[Rendition.Lost(row.lost)]}")
    kind = f"image/{(row.receipt or {})['format'].lower()}"
    if kind == "image/pdf":
        kind = "application/pdf"
    return stream_file(Path(row.path), kind, Path(row.path).name, download)
