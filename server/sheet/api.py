"""The sheet over the API: a tray as a table of words, in windows like the board's."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from django.contrib.postgres.aggregates import StringAgg
from django.db.models import Count, Q, TextField
from django.db.models.fields.json import KT
from django.db.models.functions import MD5, Cast, Coalesce
from django.http import HttpRequest, HttpResponseBase, JsonResponse
from ninja import Query, Router, Schema
from pydantic import Field

from server.board.ledger import ledger_at_hand
from server.board.planning import Lit, lit, planned
from server.board.showing import BoardIn, shown_now
from server.http.connections import let_go
from server.http.streams import stream
from server.photos.models import Photo
from server.sheet import typing
from server.sheet.typing import Before, Edit
from server.trays.finding import find_tray
from server.trays.models import Tray
from tray_core.photo.words import Words
from tray_core.plan.naming import safe_text
from tray_core.words.table import write_table

router = Router(tags=["sheet"])
WINDOW = 200
COUNTED = ("title", "alt")
"""Words whose lack is counted."""


class SheetIn(BoardIn):
    """missing: show only photos without this word."""

    missing: str = ""


class SheetCountsOut(Schema):
    """total: of all photos in the tray. missing: how many lack a word. stamp: another one when the order is another."""

    total: int
    missing: dict[str, int]
    stamp: str


class SheetOut(SheetCountsOut):
    """photos: the numbers of those shown, in order."""

    name: str
    photos: list[int]


class NamedOut(Schema):
    """What a recipe calls a photo's file. numbered: another has the same name. missing: words that the name lacks."""

    name: str
    folder: str
    numbered: bool
    missing: list[str]


class WordsRowOut(Schema):
    """words: as they are, with what was typed above them. typed: what a person typed. origin: of the rest."""

    photo: int
    name: str
    folder: str
    digest: str
    width: int
    height: int
    state: str
    version: int
    words: dict[str, Any]
    typed: dict[str, Any]
    origin: dict[str, str]
    unread: list[str]
    named: NamedOut | None


class WordsRowsIn(Schema):
    photos: list[int]
    recipe: int | None = None


class EditIn(Schema):
    """typed: all words that are typed of the photo from now on, by their names. version: the one that was changed."""

    photo: int
    typed: dict[str, str | list[str]]
    version: int


class EditsIn(Schema):
    """Edits are answered by what goes back: what was typed before, of the version after."""

    edits: list[EditIn] = Field(max_length=typing.MOST)


class TableIn(Schema):
    text: str = Field(max_length=20_000_000)


class ReplaceIn(Schema):
    find: str = Field(min_length=1, max_length=200)
    put: str = Field(max_length=1000)
    regex: bool = False
    case: bool = False
    words: list[str]
    photos: list[int]


def _told(before: list[Before]) -> dict[str, Any]:
    return {"edits": [each._asdict() for each in before]}


def _without(word: str) -> Q:
    """Photos without a word: typed as empty, or neither typed nor said."""
    return Q(**{f"has_{word}": ""}) | Q(**{f"has_{word}": "[]"}) | Q(**{f"has_{word}__isnull": True})


def _with_words(tray: Tray, words: tuple[str, ...]) -> Any:
    found = Photo.objects.filter(places__tray=tray)
    return found.annotate(**{f"has_{word}": Coalesce(KT(f"typed__{word}"), KT(f"said__{word}")) for word in words})


@router.get("/{number}/sheet", response=SheetOut)
def get_sheet(request: HttpRequest, number: int, how: Query[SheetIn]) -> JsonResponse:
    """The order of the sheet's rows."""
    tray = find_tray(request, number)
    shown = shown_now(tray, lit(tray), BoardIn(**how.model_dump(exclude={"missing"})))
    photos = shown.photos
    if how.missing:
        (word,) = typing.known([how.missing])
        without = set(_with_words(tray, (word,)).filter(_without(word)).values_list("pk", flat=True))
        photos = [photo for photo in photos if photo in without]
    return JsonResponse({"name": tray.name, "photos": photos, **_counts(tray)})


@router.get("/{number}/sheet/counts", response=SheetCountsOut)
def get_counts(request: HttpRequest, number: int) -> dict[str, Any]:
    """What changes of a sheet with every word that somebody types, and whether its rows stand as they did."""
    return _counts(find_tray(request, number))


def _counts(tray: Tray) -> dict[str, Any]:
    counted = _with_words(tray, COUNTED)
    order = StringAgg(Cast("photo_id", TextField()), ",", order_by=("position", "id"))
    found = tray.places.order_by().aggregate(total=Count("id"), stamp=MD5(order))
    return {
        "total": found["total"],
        "missing": {word: counted.filter(_without(word)).count() for word in COUNTED},
        "stamp": found["stamp"] or "",
    }


@router.post("/{number}/sheet/rows", response=list[WordsRowOut])
def get_words_rows(request: HttpRequest, number: int, body: WordsRowsIn) -> JsonResponse:
    """Rows of the sheet, by their photos, with what one recipe calls their files."""
    tray = find_tray(request, number)
    return JsonResponse(_rows(tray, body.photos[:WINDOW], body.recipe), safe=False)


def _rows(tray: Tray, photos: list[int], recipe: int | None) -> list[dict[str, Any]]:
    found = Photo.objects.filter(places__tray=tray).in_bulk(photos)
    named = _named(tray, [photo for photo in photos if photo in found], recipe)
    return [
        {
            "photo": photo.pk,
            "name": photo.name,
            "folder": photo.folder,
            "digest": photo.digest,
            "width": photo.width,
            "height": photo.height,
            "state": photo.state,
            "version": photo.typed_version,
            "words": photo.words.to_json(),
            "typed": photo.typed,
            "origin": photo.origin or {},
            "unread": photo.unread,
            "named": named.get(photo.pk),
        }
        for number in photos
        if (photo := found.get(number)) is not None
    ]


def _named(tray: Tray, photos: list[int], recipe: int | None) -> dict[int, dict[str, Any]]:
    """What a recipe calls the files of photos: as in the whole tray where that is known, else as if alone."""
    recipes: Lit = [(each, core) for each, core in lit(tray) if each.pk == recipe]
    if not recipes:
        return {}
    whole = lit(tray)
    with ledger_at_hand(tray, whole) as known:
        number = None if known is None else {photo: known.number[photo] for photo in photos if photo in known.number}
        names = {} if known is None else {photo: known.names.of(photo) for photo in photos}
    found: dict[int, dict[str, Any]] = {}
    for row in planned(tray, recipes, photos, number):
        for plan in (cell.plans[-1] for cell in row.cells):
            folder, name, numbered = names.get(row.photo.pk, {}).get(
                (recipe or 0, plan.part), (plan.folder, plan.name, False)
            )
            missing = [each.label.removeprefix("no ") for each in plan.warnings if each.code == "no-word"]
            found[row.photo.pk] = {"name": name, "folder": folder, "numbered": numbered, "missing": missing}
    return found


@router.put("/{number}/words", response=EditsIn)
def type_words(request: HttpRequest, number: int, body: EditsIn) -> dict[str, Any]:
    """Keep what was typed: all of it, or, where somebody typed meanwhile, none."""
    tray = find_tray(request, number)
    return _told(typing.keep(tray, [Edit(edit.photo, edit.typed, edit.version) for edit in body.edits]))


@router.post("/{number}/words/table", response=EditsIn)
def take_table(request: HttpRequest, number: int, body: TableIn) -> dict[str, Any]:
    """Take words from CSV, or from what a spreadsheet puts on the clipboard; the first line has the headings."""
    return _told(typing.take_table(find_tray(request, number), body.text))


@router.post("/{number}/words/replace", response=EditsIn)
def replace_words(request: HttpRequest, number: int, body: ReplaceIn) -> dict[str, Any]:
    """Find and replace in some words of photos."""
    replaced = typing.replacing(body.find, body.put, body.regex, body.case)
    tray = find_tray(request, number)
    return _told(typing.replace_words(tray, body.photos, typing.known(body.words), replaced))


@router.get("/{number}/words.csv")
def get_table(request: HttpRequest, number: int) -> HttpResponseBase:
    """All words of a tray as CSV."""
    tray = find_tray(request, number)
    photos = list(tray.places.values_list("photo_id", flat=True))
    pieces = (piece.encode() for piece in write_table(_table_rows(photos)))
    return stream(pieces, "text/csv; charset=utf-8", f"{safe_text(tray.name)}-words.csv", None, download=True)


def _table_rows(photos: list[int]) -> Iterator[tuple[str, Words, dict[str, str]]]:
    for start in range(0, len(photos), WINDOW):
        page = photos[start : start + WINDOW]
        found = Photo.objects.in_bulk(page)
        let_go()  # whoever downloads slowly holds no connection
        for number in page:
            if (photo := found.get(number)) is not None:
                words, origin = photo.words, photo.origin or {}
                sources = {name: "typed" if name in photo.typed else origin.get(name, "") for name in words.to_json()}
                yield photo.path if photo.root_id else photo.name, words, sources
