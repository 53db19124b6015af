"""Links over the API: made, told, withdrawn, and what clients said behind them."""

from __future__ import annotations

import datetime as dt
import io
from typing import Literal

import segno
from django.http import HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema

from server.guests import flows
from server.guests.models import Comment, Guest, Link, Verdict
from server.guests.previews import preview
from server.http.streams import stream_file
from server.runs.models import Rendition
from server.studios.sealing import Unreadable, unseal
from server.studios.visitors import studio_of

router = Router(tags=["links"])
_SHOWN = 200


class LinkIn(Schema):
    """renditions: finished ones, in their order; all of a run where none are named. days: until it ends.

    wanted: how many picks were agreed.
    """

    kind: Literal["pickup", "proof"]
    name: str = Field("", max_length=80)
    run: int | None = None
    renditions: list[int] = []
    days: int = Field(14, ge=1, le=flows.MOST_DAYS)
    passphrase: str = Field("", max_length=200)
    wanted: int | None = Field(None, ge=1, le=flows.MOST_ITEMS)
    stamp: str = Field("", max_length=60)


class LinkOut(Schema):
    """address: below the server's own, with its secret; "" where the server's key has changed since."""

    id: int
    kind: str
    name: str
    address: str
    files: int
    expires: dt.datetime
    good: bool
    withdrawn: bool
    passphrase: bool
    wanted: int | None
    opened: int
    saved: int
    guests: int


class GuestOut(Schema):
    id: int
    name: str
    done: bool
    yes: int
    maybe: int
    no: int


class SaidOut(Schema):
    """What one guest says or writes. x, y: the spot of a comment."""

    guest: int
    says: str | None = None
    text: str = ""
    x: float | None = None
    y: float | None = None


class JudgedOut(Schema):
    """A proof with what was said of it. tray: where its photo can be seen on the board."""

    id: int
    rendition: int
    photo: int
    tray: int | None
    name: str
    width: int
    height: int
    said: list[SaidOut]


class LinkDetailOut(LinkOut):
    people: list[GuestOut]
    judged: list[JudgedOut]


class WithdrawIn(Schema):
    withdrawn: bool


def _find(request: HttpRequest, number: int) -> Link:
    return get_object_or_404(studio_of(request).links, pk=number)


def _address(link: Link) -> str:
    try:
        secret = unseal(link.sealed)
    except Unreadable:
        return ""
    return f"/{'pick' if link.kind == Link.Kind.PICKUP else 'proof'}/{link.pk}#{secret}"


def _out(link: Link) -> LinkOut:
    return LinkOut(
        id=link.pk,
        kind=link.kind,
        name=link.name,
        address=_address(link),
        files=link.items.count(),
        expires=link.expires,
        good=link.good,
        withdrawn=link.withdrawn,
        passphrase=bool(link.passphrase),
        wanted=link.wanted,
        opened=link.opened,
        saved=link.saved,
        guests=link.guests.count(),
    )


def _person(guest: Guest) -> GuestOut:
    said = list(guest.verdicts.values_list("says", flat=True))
    counts = {each: said.count(each) for each in Verdict.Says.values}
    return GuestOut(id=guest.pk, name=guest.name, done=guest.done, **counts)


@router.get("", response=list[LinkOut])
def list_links(request: HttpRequest) -> list[LinkOut]:
    """The studio's links, the newest first."""
    return [_out(link) for link in studio_of(request).links.all()[:_SHOWN]]


@router.post("", response=LinkOut)
def create_link(request: HttpRequest, body: LinkIn) -> LinkOut:
    """Make a link to finished files."""
    studio, given = studio_of(request), body.dict(exclude={"run"})
    if body.run is not None and not body.renditions:
        run = get_object_or_404(studio.runs, pk=body.run)
        given["renditions"] = run.renditions.filter(state=Rendition.State.MADE, lost="").values_list("pk", flat=True)
    link, _ = flows.create(studio, request.user, **given)  # type: ignore[arg-type]
    return _out(link)


@router.get("/{number}", response=LinkDetailOut)
def get_link(request: HttpRequest, number: int) -> LinkDetailOut:
    """A link with what was said behind it."""
    link = _find(request, number)
    said: dict[int, list[SaidOut]] = {}
    for verdict in Verdict.objects.filter(item__link=link).order_by("guest_id"):
        said.setdefault(verdict.item_id, []).append(SaidOut(guest=verdict.guest_id, says=verdict.says))
    for comment in Comment.objects.filter(item__link=link):
        told = SaidOut(guest=comment.guest_id, text=comment.text, x=comment.x, y=comment.y)
        said.setdefault(comment.item_id, []).append(told)
    judged = [
        JudgedOut(
            id=item.pk,
            rendition=item.rendition_id,
            photo=item.rendition.photo_id,
            tray=item.rendition.run.tray_id,
            name=item.rendition.name,
            width=item.rendition.width,
            height=item.rendition.height,
            said=said.get(item.pk, []),
        )
        for item in link.items.select_related("rendition__run")
    ]
    people = [_person(guest) for guest in link.guests.all()]
    return LinkDetailOut(**_out(link).dict(), people=people, judged=judged)


@router.put("/{number}", response=LinkOut)
def withdraw_link(request: HttpRequest, number: int, body: WithdrawIn) -> LinkOut:
    """Take a link back, or let it open again."""
    link = _find(request, number)
    flows.withdraw(link, body.withdrawn)
    return _out(link)


@router.get("/{number}/things/{item}/picture", response={200: None})
def link_picture(request: HttpRequest, number: int, item: int) -> HttpResponseBase:
    """A picture behind a link, small, as guests see it."""
    link = _find(request, number)
    path = preview(link, get_object_or_404(link.items.select_related("rendition"), pk=item), small=True)
    return stream_file(path, "image/jpeg", path.name, download=False)


@router.get("/{number}/code", response={200: None})
def link_code(request: HttpRequest, number: int) -> HttpResponse:
    """The link's address as a QR code (ISO/IEC 18004), to be photographed by a phone."""
    address = request.build_absolute_uri("/").rstrip("/") + _address(_find(request, number))
    drawing = io.BytesIO()
    segno.make(address, error="m", micro=False).save(drawing, kind="svg", scale=4, border=3, xmldecl=False)
    return HttpResponse(drawing.getvalue(), content_type="image/svg+xml", headers={"Cache-Control": "no-store"})
