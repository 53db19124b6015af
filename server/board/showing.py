"""What of a tray is shown, and in which order."""

from __future__ import annotations

from contextlib import nullcontext
from typing import Any

from django.db.models import BigIntegerField, F, FloatField, QuerySet, Value
from django.db.models.functions import Cast, NullIf
from ninja import Schema

from server.board.ledger import Shown, groups_of, ledger, ledger_at_hand
from server.board.planning import Lit
from server.guests import flows
from server.photos.models import Photo
from server.trays.models import Tray


class BoardIn(Schema):
    """The order, and what photos have to be like to be shown; empty for all.

    picks: those that guests of a proof room say yes, maybe or no of, as "12:yes".
    """

    sort: str = "folder"
    name: str = ""
    shape: str = ""
    format: str = ""
    state: str = ""
    picks: str = ""


_SORTS: dict[str, tuple[Any, ...]] = {
    "name": ("photo__name",),
    "taken": (F("photo__taken").asc(nulls_last=True), "photo__name"),
    "shape": (F("shape").desc(nulls_last=True), "photo__name"),
    "pixels": (F("pixels").desc(), "photo__name"),
    "weight": (F("photo__bytes").desc(), "photo__name"),
}
_SHAPES: dict[str, dict[str, Any]] = {
    "landscape": {"photo__width__gt": F("photo__height")},
    "portrait": {"photo__width__lt": F("photo__height")},
    "square": {"photo__width": F("photo__height")},
    "panorama": {"photo__width__gte": 2 * F("photo__height")},
}


def _shown(tray: Tray, recipes: Lit, how: BoardIn) -> QuerySet[Any]:
    """The places of the photos that are to be shown, in order."""
    places = tray.places.all()
    if how.name:
        places = places.filter(photo__name__icontains=how.name)
    if how.shape in _SHAPES:
        places = places.filter(photo__state=Photo.State.READY, **_SHAPES[how.shape])
    if how.format:
        places = places.filter(photo__format=how.format)
    if how.picks:
        link, _, says = how.picks.partition(":")
        picked = flows.picked(tray.studio, int(link), says) if link.isdecimal() and len(link) < 10 else []
        places = places.filter(photo_id__in=picked)
    if how.state:
        with ledger(tray, recipes) as found:
            wanted = list(found.sums.photos.get(how.state, ()))
        places = places.filter(photo_id__in=wanted)
    if how.sort == "shape":
        height = NullIf(Cast(F("photo__height"), FloatField()), Value(0.0))
        places = places.annotate(shape=Cast(F("photo__width"), FloatField()) / height)
    elif how.sort == "pixels":
        places = places.annotate(pixels=Cast(F("photo__width"), BigIntegerField()) * F("photo__height"))
    if how.sort in _SORTS:
        places = places.order_by(*_SORTS[how.sort], "position", "id")
    return places


def shown_now(tray: Tray, recipes: Lit, how: BoardIn) -> Shown:
    """The same, from what is known of the tray where nothing is filtered."""
    with ledger_at_hand(tray, recipes) if how == BoardIn() else nullcontext() as known:
        return known.shown() if known is not None else _asked(tray, recipes, how)


def _asked(tray: Tray, recipes: Lit, how: BoardIn) -> Shown:
    found = list(_shown(tray, recipes, how).values_list("photo_id", "photo__folder"))
    named = tray.places.exclude(photo__format="").order_by()
    formats = named.values_list("photo__format", flat=True).distinct()
    groups = groups_of(folder for _, folder in found)
    return Shown([photo for photo, _ in found], groups, sorted(set(formats)), tray.places.count())
