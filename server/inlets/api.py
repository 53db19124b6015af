"""Inlets over the API."""

from __future__ import annotations

import datetime as dt
from typing import Literal

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema, Status

from server.inlets import flows
from server.inlets.models import Arrival, Inlet
from server.studios.visitors import studio_of

router = Router(tags=["inlets"])
PAGE = 200


class InletIn(Schema):
    """version: of the inlet that the change began from."""

    name: str = Field(max_length=80)
    root: int
    path: str = Field("", max_length=900)
    choose: Literal["fixed", "folder", "ask"] = "fixed"
    recipes: list[int] = []
    settle: int = Field(3, ge=0, le=3600)
    ignore: str = Field(flows.USUAL_IGNORED, max_length=2000)
    after: Literal["stay", "done", "remove"] = "stay"
    version: int | None = None


class InletOut(Schema):
    """counts: of arrivals, by state. address, token: what files are posted to, and with."""

    id: int
    name: str
    root: int
    root_name: str
    path: str
    writable: bool
    tray: int
    choose: str
    recipes: list[int]
    settle: int
    ignore: str
    after: str
    paused: bool
    problem: str
    looked: dt.datetime | None
    version: int
    counts: dict[str, int]
    address: str
    token: str


class ArrivalOut(Schema):
    id: int
    path: str
    size: int
    came: dt.datetime
    state: str
    reason: str
    photo: int | None
    run: int | None
    finished: dt.datetime | None


class ArrivalsOut(Schema):
    total: int
    arrivals: list[ArrivalOut]


class PauseIn(Schema):
    paused: bool


class ChooseIn(Schema):
    """arrivals: those that are meant; all that wait where there are none."""

    recipes: list[int]
    arrivals: list[int] | None = None


class AgainIn(Schema):
    arrivals: list[int] | None = None


class CountOut(Schema):
    count: int


def _find(request: HttpRequest, number: int) -> Inlet:
    return get_object_or_404(studio_of(request).inlets.select_related("root", "tray", "studio"), pk=number)


def _out(inlet: Inlet) -> InletOut:
    return InletOut(
        id=inlet.pk,
        name=inlet.name,
        root=inlet.root_id,
        root_name=inlet.root.name,
        path=inlet.path,
        writable=inlet.root.writable,
        tray=inlet.tray_id,
        choose=inlet.choose,
        recipes=inlet.recipes,
        settle=inlet.settle,
        ignore=inlet.ignore,
        after=inlet.after,
        paused=inlet.paused,
        problem=inlet.problem,
        looked=inlet.looked,
        version=inlet.version,
        counts=flows.counts_of(inlet),
        address=f"/inlet/{inlet.pk}/files",
        token=flows.token_of(inlet),
    )


def _keep(request: HttpRequest, inlet: Inlet | None, body: InletIn) -> InletOut:
    studio = studio_of(request)
    root = get_object_or_404(studio.roots, pk=body.root)
    return _out(flows.keep(studio, inlet, root=root, **body.dict(exclude={"root"})))


@router.get("", response=list[InletOut])
def list_inlets(request: HttpRequest) -> list[InletOut]:
    return [_out(inlet) for inlet in studio_of(request).inlets.select_related("root")]


@router.post("", response=InletOut)
def create_inlet(request: HttpRequest, body: InletIn) -> InletOut:
    """Watch a folder, with a tray of its own."""
    return _keep(request, None, body)


@router.put("/{number}", response=InletOut)
def change_inlet(request: HttpRequest, number: int, body: InletIn) -> InletOut:
    return _keep(request, _find(request, number), body)


@router.delete("/{number}", response={204: None})
def delete_inlet(request: HttpRequest, number: int) -> Status[None]:
    """Watch it no more. Its tray, its files and what was made of them stay."""
    flows.delete(_find(request, number))
    return Status(204, None)


@router.post("/{number}/paused", response=InletOut)
def pause_inlet(request: HttpRequest, number: int, body: PauseIn) -> InletOut:
    flows.pause(_find(request, number), body.paused)
    return _out(_find(request, number))


@router.post("/{number}/token", response=InletOut)
def renew_token(request: HttpRequest, number: int) -> InletOut:
    """Another token: the old one posts nothing any more."""
    flows.renew(_find(request, number))
    return _out(_find(request, number))


@router.post("/{number}/choice", response=CountOut)
def choose_recipes(request: HttpRequest, number: int, body: ChooseIn) -> CountOut:
    """Let what waits for a choice go through these recipes."""
    return CountOut(count=flows.choose(_find(request, number), body.recipes, body.arrivals))


@router.post("/{number}/again", response=CountOut)
def try_again(request: HttpRequest, number: int, body: AgainIn) -> CountOut:
    """Try once more what failed."""
    return CountOut(count=flows.again(_find(request, number), body.arrivals))


@router.get("/{number}/arrivals", response=ArrivalsOut)
def list_arrivals(request: HttpRequest, number: int, state: str = "", start: int = 0) -> ArrivalsOut:
    """What arrived, the newest first, a page of it."""
    rows = _find(request, number).arrivals.all()
    if state:
        rows = rows.filter(state=state)
    begin = min(max(0, start), 2**31)
    return ArrivalsOut(total=rows.count(), arrivals=[_arrived(each) for each in rows[begin : begin + PAGE]])


def _arrived(row: Arrival) -> ArrivalOut:
    return ArrivalOut(
        id=row.pk,
        path=row.path,
        size=row.size,
        came=row.came,
        state=row.state,
        reason=row.reason,
        photo=row.photo_id,
        run=row.run_id,
        finished=row.finished,
    )
