"""What guests reach: one link's page, its pictures and files, and nothing else.

The secret stands behind the # of the address, which no browser sends: the page brings it once, in the body of a
request, for a cookie of this link alone. So it is in no log, and in no address that another page is told of.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any, Literal

from axes.helpers import get_client_ip_address
from django.conf import settings
from django.core import signing
from django.db.models import F
from django.http import HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_GET
from ninja import Field, NinjaAPI, Schema, Status
from zipstream import ZIP_STORED, ZipStream

from server.guests import flows
from server.guests.models import Guest, Item, Link
from server.guests.previews import preview
from server.http.problems import Problem, tell_problems
from server.http.rates import Rate
from server.http.streams import stream, stream_file
from server.project.conf import conf
from server.runs import files
from server.runs.manifest import members
from tray_core.plan.naming import safe_text

outside = NinjaAPI(
    title="Upper Tray, for guests", version="1", auth=None, docs_url=None, openapi_url=None, urls_namespace="outside"
)
tell_problems(outside)

TRIES = Rate(30, 60)
"""Of opening links, by address; and of passphrases of one link, by address."""
PASSPHRASES = Rate(10, 15 * 60)
WRITES = Rate(240, 60)
"""Of what one guest says."""

_SALT = "upper-tray/guest"
_DAYS = 90 * 24 * 3600


class OpenIn(Schema):
    secret: str = Field(max_length=100)
    passphrase: str = Field("", max_length=200)
    name: str = Field("", max_length=60)


class CommentOut(Schema):
    """mine: whether whoever asks wrote it. x, y: the spot, in shares of the picture; null for all of it."""

    id: int
    by: str
    mine: bool
    text: str
    x: float | None
    y: float | None


class ThingOut(Schema):
    """A file behind the link. there: whether it still is."""

    id: int
    name: str
    width: int
    height: int
    bytes: int
    format: str
    title: str
    alt: str
    there: bool
    says: str | None
    comments: list[CommentOut]


class RoomOut(Schema):
    """studio: whose it is. guest: the name of whoever asks; "" for pick-ups."""

    kind: str
    name: str
    studio: str
    expires: str
    guest: str
    done: bool
    wanted: int | None
    things: list[ThingOut]


class SaysIn(Schema):
    says: Literal["yes", "maybe", "no"] | None


class WriteIn(Schema):
    text: str = Field(max_length=1000)
    x: float | None = Field(None, ge=0, le=1)
    y: float | None = Field(None, ge=0, le=1)


class DoneIn(Schema):
    done: bool


def _cookie(number: int) -> str:
    return f"guest-{number}"


def _let_in(request: HttpRequest, number: int) -> tuple[Link, Guest | None]:
    """The link that the cookie is for, and who it was given to. Problem (401) where there is none, (410) at its end."""
    link = flows.find_good(number)
    try:
        told = signing.loads(request.COOKIES.get(_cookie(number), ""), salt=_SALT, max_age=_DAYS)
    except signing.BadSignature as error:
        raise Problem(401, "Open the link again", "Open the address that was sent to you once more.") from error
    if told.get("link") != number or told.get("of") != link.digest[:16]:
        raise Problem(401, "Open the link again", "Open the address that was sent to you once more.")
    guest = link.guests.filter(pk=told.get("guest")).first()
    if link.kind == Link.Kind.PROOF and guest is None:
        raise Problem(401, "Open the link again", "Open the address that was sent to you once more.")
    return link, guest


def _as_guest(request: HttpRequest, number: int) -> Guest:
    _, guest = _let_in(request, number)
    if guest is None:
        raise Problem(404, "Not found", "There is nothing to judge behind this link.")
    WRITES.check(str(guest.pk))
    return guest


def _room(link: Link, guest: Guest | None) -> RoomOut:
    rows = link.items.select_related("rendition__photo", "rendition__recipe", "rendition__version")
    said = dict(guest.verdicts.values_list("item", "says")) if guest else {}
    comments: dict[int, list[CommentOut]] = {}
    # Clients are apart: each sees what they wrote themselves.
    for each in guest.comments.select_related("guest") if guest else ():
        told = CommentOut(id=each.pk, by=each.guest.name, mine=True, text=each.text, x=each.x, y=each.y)
        comments.setdefault(each.item_id, []).append(told)
    things = []
    for item in rows:
        row = item.rendition
        receipt, words = row.receipt or {}, row.photo.words
        things.append(
            ThingOut(
                id=item.pk,
                name=Path(row.path).name,
                width=receipt.get("width", row.width),
                height=receipt.get("height", row.height),
                bytes=receipt.get("bytes", 0) if link.kind == Link.Kind.PICKUP else 0,
                format=str(receipt.get("format", "")),
                title=words.title,
                alt=words.alt or words.description,
                there=not row.lost,
                says=said.get(item.pk),
                comments=comments.get(item.pk, []),
            )
        )
    return RoomOut(
        kind=link.kind,
        name=link.name,
        studio=link.studio.name,
        expires=link.expires.isoformat(),
        guest=guest.name if guest else "",
        done=guest.done if guest else False,
        wanted=link.wanted,
        things=things,
    )


@outside.post("/{number}/open", response=RoomOut)
def open_link(request: HttpRequest, response: HttpResponse, number: int, body: OpenIn) -> RoomOut:
    """Bring a link's secret; from then on a cookie of this link opens it."""
    address = get_client_ip_address(request) or "?"
    TRIES.check(address)
    link = flows.find_good(number)
    if body.passphrase:
        PASSPHRASES.check(f"{number} {address}")
    flows.open_by(link, body.secret, body.passphrase)
    guest = flows.come_in(link, body.name)
    told = {"link": number, "of": link.digest[:16], "guest": guest.pk if guest else None}
    response.set_cookie(
        _cookie(number),
        signing.dumps(told, salt=_SALT),
        max_age=_DAYS,
        path=f"/guest/{number}",
        httponly=True,
        samesite="Strict",
        secure=conf.https,
    )
    response["Cache-Control"] = "no-store"
    return _room(link, guest)


@outside.get("/{number}", response=RoomOut)
def see_link(request: HttpRequest, response: HttpResponse, number: int) -> RoomOut:
    """The page of a link that was opened before."""
    response["Cache-Control"] = "no-store"
    return _room(*_let_in(request, number))


def _item(link: Link, number: int) -> Item:
    rows = link.items.select_related("rendition__photo", "rendition__recipe", "rendition__version")
    return get_object_or_404(rows, pk=number)


@outside.get("/{number}/things/{item}/picture", response={200: None})
def see_picture(request: HttpRequest, number: int, item: int, small: bool = False) -> HttpResponseBase:
    """A picture for the page: small in the gallery, and of a proof always with its stamp."""
    link, _ = _let_in(request, number)
    path = preview(link, _item(link, item), small)
    answer = stream_file(path, "image/jpeg", path.name, download=False)
    answer["Cache-Control"] = "private, max-age=3600"
    return answer


def _there(items: list[Item]) -> list[Any]:
    rows = [item.rendition for item in items]
    files.look_at(rows)
    return [row for row in rows if not row.lost]


@outside.get("/{number}/things/{item}/file", response={200: None})
def save_file(request: HttpRequest, number: int, item: int) -> HttpResponseBase:
    """A file to pick up; there is none of a proof."""
    link, _ = _let_in(request, number)
    if link.kind != Link.Kind.PICKUP:
        raise Problem(404, "Not found", "Proofs are for looking at.")
    rows = _there([_item(link, item)])
    if not rows:
        raise Problem(410, "The file is gone", "It was moved or deleted. Ask whoever sent you the link.")
    Link.objects.filter(pk=link.pk).update(saved=F("saved") + 1)
    path = Path(rows[0].path)
    kind = f"image/{(rows[0].receipt or {})['format'].lower()}"
    return stream_file(path, "application/pdf" if kind == "image/pdf" else kind, path.name, download=True)


@outside.get("/{number}/all", response={200: None})
def save_all(request: HttpRequest, number: int) -> HttpResponseBase:
    """All files to pick up, as a zip."""
    link, _ = _let_in(request, number)
    if link.kind != Link.Kind.PICKUP:
        raise Problem(404, "Not found", "Proofs are for looking at.")
    rows = _there(list(link.items.select_related("rendition__photo", "rendition__recipe", "rendition__version")))
    made = ZipStream(compress_type=ZIP_STORED, sized=True)
    for name, row in members(rows):
        made.add_path(row.path, name)
    Link.objects.filter(pk=link.pk).update(saved=F("saved") + len(rows))
    return stream(made, "application/zip", f"{safe_text(link.name)}.zip", len(made), download=True)


@outside.put("/{number}/things/{item}/says", response={204: None})
def say(request: HttpRequest, number: int, item: int, body: SaysIn) -> Status[None]:
    """Say yes, maybe or no of a proof, or take it back."""
    guest = _as_guest(request, number)
    flows.judge(guest, get_object_or_404(Item, pk=item, link=number), body.says)
    return Status(204, None)


@outside.post("/{number}/things/{item}/comments", response=CommentOut)
def write(request: HttpRequest, number: int, item: int, body: WriteIn) -> CommentOut:
    """Write something of a proof, at a spot of it or of all of it."""
    guest = _as_guest(request, number)
    made = flows.comment(guest, get_object_or_404(Item, pk=item, link=number), body.text, body.x, body.y)
    return CommentOut(id=made.pk, by=guest.name, mine=True, text=made.text, x=made.x, y=made.y)


@outside.delete("/{number}/comments/{comment}", response={204: None})
def unwrite(request: HttpRequest, number: int, comment: int) -> Status[None]:
    """Delete a comment of one's own."""
    guest = _as_guest(request, number)
    get_object_or_404(guest.comments, pk=comment).delete()
    return Status(204, None)


@outside.put("/{number}/done", response={204: None})
def be_done(request: HttpRequest, number: int, body: DoneIn) -> Status[None]:
    """Say that one is through."""
    flows.finish(_as_guest(request, number), body.done)
    return Status(204, None)


_STRICT = {
    "default-src": ["'none'"],
    **{each: ["'self'"] for each in ("script-src", "style-src", "img-src", "font-src", "connect-src")},
    **{each: ["'none'"] for each in ("form-action", "base-uri", "frame-ancestors")},
}


@require_GET
def page(request: HttpRequest, number: int) -> HttpResponse:
    """The page for guests: the same for every link, whether there is one or not."""
    index = settings.WEB_DIST / "guest.html"
    if not index.exists():
        return HttpResponse("The front end is not built yet: run ./upper-tray demo.", status=503)
    answer = HttpResponse(index.read_bytes(), headers={"Cache-Control": "no-cache", "Referrer-Policy": "no-referrer"})
    answer._csp_config = _STRICT  # type: ignore[attr-defined]  # as django-csp's own decorator does
    return answer
