"""Receipts over the API: what runs made, file by file, and its ways out."""

from __future__ import annotations

from pathlib import Path
from typing import Any, Literal
from urllib.parse import quote

from django.db.models import BigIntegerField, F, FloatField, Q, QuerySet
from django.db.models.fields.json import KT
from django.db.models.functions import Abs, Cast
from django.http import HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404
from ninja import Query, Router, Schema
from pydantic import Field

from server.http.problems import Problem
from server.http.streams import stream, stream_file
from server.runs import files, manifest
from server.runs.api import find_run
from server.runs.models import Rendition
from server.runs.places import shown_place
from server.studios.visitors import studio_of
from tray_core.plan.naming import safe_text

router = Router(tags=["receipts"])
PAGE = 200


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
    path: str


class RenditionsIn(Schema):
    """Some of a run's renditions. state: also differs, for files that are not as planned. find: in the names of photos
    and files. renditions: these, by their numbers and ranges of them, such as 3,7-12; none for all.
    """

    state: str = ""
    find: str = ""
    renditions: str = Field("", max_length=20_000, pattern=r"^(\d{1,15}(-\d{1,15})?(,\d{1,15}(-\d{1,15})?)*)?$")

    def of(self, rows: QuerySet[Rendition]) -> QuerySet[Rendition]:
        """Those of `rows`."""
        if self.state == "differs":
            rows = rows.filter(differs=True)
        elif self.state:
            rows = rows.filter(state=self.state)
        if self.find:
            rows = rows.filter(Q(photo__name__icontains=self.find) | Q(name__icontains=self.find))
        if not self.renditions:
            return rows
        single, ranges = [], Q()
        for each in self.renditions.split(","):
            first, _, last = each.partition("-")
            if last:
                ranges |= Q(pk__range=(int(first), int(last)))
            else:
                single.append(int(first))
        return rows.filter(Q(pk__in=single) | ranges)


class ShownIn(RenditionsIn):
    """sort: bytes, pixels, score or planned (how far bytes are from their forecast), the largest first, or a minus and
    one of them, the smallest first; else as planned.
    """

    start: int = 0
    sort: str = ""


class MarkupIn(Schema):
    """kind: the elements alone, a page that shows them, or JSON. set: of the studio; or else these recipes, none for
    all, with their sizes.
    """

    kind: Literal["html", "page", "json"] = "html"
    set: int | None = None
    sizes: str = Field("", max_length=500)
    recipes: list[int] = []


class PageOut(Schema):
    total: int
    renditions: list[RenditionOut]


def _rendition_out(row: Rendition) -> RenditionOut:
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
        place=shown_place(row),
        about=row.about,
        receipt=row.receipt,
        error=row.error or (files.TEXTS[Rendition.Lost(row.lost)] if row.lost else ""),
        lost=row.lost,
        path=row.path if row.version.content["place"]["to"] != "download" else "",
    )


def _by_score() -> Any:
    return Cast(KT("receipt__score"), FloatField())


def _in_order(rows: QuerySet[Rendition], sort: str) -> QuerySet[Rendition]:
    size = Cast(KT("receipt__bytes"), BigIntegerField())
    orders: dict[str, Any] = {
        "bytes": size,
        "pixels": Cast(F("width"), BigIntegerField()) * F("height"),
        "score": _by_score(),
        "planned": Abs(size - F("about")),
    }
    if (order := orders.get(sort.removeprefix("-"))) is None:
        return rows
    directed = order.asc(nulls_last=True) if sort.startswith("-") else order.desc(nulls_last=True)
    return rows.order_by(directed, "n", "pk")


@router.get("/runs/{number}/renditions", response=PageOut)
def list_renditions(request: HttpRequest, number: int, how: Query[ShownIn]) -> PageOut:
    """A run's renditions, a page of them."""
    run = find_run(request, number)
    rows = _in_order(how.of(run.renditions.select_related("photo", "recipe", "version")), how.sort)
    start = min(max(0, how.start), 2**31)
    shown = list(rows[start : start + PAGE])
    files.look_at(shown)
    return PageOut(total=rows.count(), renditions=[_rendition_out(row) for row in shown])


@router.get("/runs/{number}/zip")
def download_zip(request: HttpRequest, number: int, how: Query[RenditionsIn]) -> HttpResponseBase:
    """Finished files of the run, all or some, with a manifest."""
    run = find_run(request, number)
    some = how.state or how.find or how.renditions
    rows, missing = manifest.finished(run, of=how.of if some else None)
    archive = manifest.archive(run, rows, missing)
    return stream(archive, "application/zip", manifest.zip_name(run), len(archive), download=True)


@router.get("/runs/{number}/manifest")
def download_manifest(request: HttpRequest, number: int, kind: Literal["csv", "json"] = "csv") -> HttpResponse:
    """The list of finished files that the zip has, by itself."""
    run = find_run(request, number)
    rows, missing = manifest.finished(run)
    named = list(manifest.members(rows))
    if kind == "csv":
        answer = HttpResponse(manifest.as_table(named), content_type="text/csv; charset=utf-8")
    else:
        answer = HttpResponse(manifest.as_record(run, named, missing), content_type="application/json")
    name = manifest.zip_name(run).removesuffix(".zip")
    answer["Content-Disposition"] = f"attachment; filename*=UTF-8''{quote(name)}.{kind}"
    return answer


@router.get("/runs/{number}/markup")
def download_markup(request: HttpRequest, number: int, how: Query[MarkupIn]) -> HttpResponse:
    """Picture elements of the run's finished files, from those of a set, of some recipes, or all."""
    run = find_run(request, number)
    kept = get_object_or_404(studio_of(request).sets, pk=how.set) if how.set is not None else None
    media = kept.media() if kept else dict.fromkeys(how.recipes, "")
    text, what = manifest.markup(run, how.kind, kept.sizes if kept else how.sizes, media or None)
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
