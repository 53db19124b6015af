"""Starting a run: what of a board is made, pinned as it is planned now."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from django.db import transaction
from django.db.models import Max

from server.board.ledger import ledger
from server.board.names import OfPhoto
from server.board.planning import Cell, Lit, Row, lit, planned
from server.http.problems import Problem
from server.live.hub import hint
from server.photos.models import Photo
from server.queue.deferring import MAKE, defer_all
from server.runs import afterwards, files, tallies
from server.runs.flows import fresh_photos
from server.runs.models import Rendition, Run
from server.studios.room import check_room
from server.trays.models import Tray
from tray_core.plan import Number

Chosen = set[tuple[int, int]]
"""Photos and recipes."""

COVER = 6
"""Pictures that the list of runs shows of each."""
_NOT_READ_YET = "It was not read yet. Make it once it is."
_NOTHING_TO_DO = ("done", "kept", "asking", *Rendition.OPEN)
_ASKS = {"outline": Rendition.Question.OUTLINE, "eye": Rendition.Question.CROP, "word": Rendition.Question.WORD}
"""States of cells that somebody has to answer a question of first."""
_NEEDS = {
    "eye": ("a crop", "Place their crops"),
    "outline": ("an outline", "Look at their outlines"),
    "word": ("a word", "Type their words"),
}


def wanted_cells(rows: Iterable[Row], chosen: Chosen | None, again: bool) -> list[Cell]:
    """The cells that a run makes: included ones, among the chosen if any, that are not made already."""
    return [
        cell
        for row in rows
        for cell in row.cells
        if (chosen is None or (cell.photo.pk, cell.recipe.pk) in chosen)
        and cell.state != "excluded"
        and not (cell.state in _ASKS and cell.asked)
        and (cell.state not in _NOTHING_TO_DO or (again and cell.state in ("done", "kept")))
    ]


def start_run(tray: Tray, chosen: Chosen | None = None, again: bool = False) -> Run:
    """Start making renditions: rows and jobs in one transaction, one job a photo.

    chosen: (photo, recipe) pairs, all when None. again: also what is made already and not out of date. Cells that
    need a crop are rows of the run too, and are made as soon as somebody has placed their crop.
    """
    # Before the transaction: in a large tray the names may take a while.
    return _start(tray, chosen, again, None if chosen is None else _Named.of(tray, {photo for photo, _ in chosen}))


def start_for_new(tray: Tray, before: Run) -> Run:
    """Make, by the recipes of an earlier run of the tray, the photos that came since."""
    recipes = set(before.tallies.values_list("recipe_id", flat=True))
    photos = list(fresh_photos(before).values_list("pk", flat=True))
    if not photos:
        raise Problem(409, "No new photos", "Expected photos that came since the run, found none.")
    return start_run(tray, {(photo, recipe) for photo in photos for recipe in recipes})


class _Named(NamedTuple):
    """Some photos of a tray with their places in it and the names of their renditions, which hang on all others."""

    number: dict[int, Number]
    names: dict[int, OfPhoto]

    @classmethod
    def of(cls, tray: Tray, photos: Iterable[int]) -> _Named:
        with ledger(tray, lit(tray)) as known:
            number = {photo: known.number[photo] for photo in photos if photo in known.number}
            places = dict(sorted(number.items(), key=lambda item: item[1]))
            return cls(places, {photo: known.names.of(photo) for photo in places})

    def rows(self, tray: Tray, recipes: Lit) -> list[Row]:
        return list(planned(tray, recipes, list(self.number), self.number, self.names))


def _different(cells: list[Cell]) -> list[Cell]:
    """A few cells, of as many photos as there are."""
    first = {cell.photo.pk: cell for cell in reversed(cells)}
    return [first[photo] for photo in dict.fromkeys(cell.photo.pk for cell in cells)][:COVER]


@transaction.atomic
def _start(tray: Tray, chosen: Chosen | None, again: bool, named: _Named | None) -> Run:
    # Two presses at once must not make everything twice.
    tray = Tray.objects.select_for_update().get(pk=tray.pk)
    recipes = lit(tray)

    def planned_now() -> list[Row]:
        return named.rows(tray, recipes) if named else list(planned(tray, recipes))

    rows = planned_now()
    wanted = (cell for row in rows for cell in row.cells if chosen is None or (cell.photo.pk, cell.recipe.pk) in chosen)
    if files.look_at(each for cell in wanted for each in cell.renditions):
        rows = planned_now()
    cells = wanted_cells(rows, chosen, again)
    if not cells:
        raise Problem(409, "Nothing to make", "Every rendition that is included is made already or being made.")
    if all(cell.state in _ASKS for cell in cells):
        states = {cell.state for cell in cells}
        needs, detail = next(words for state, words in _NEEDS.items() if state in states)
        raise Problem(409, f"These need {needs} first", f"{detail} first, then make them.")
    about = [[each.bytes() for each in cell.forecasts] for cell in cells]
    check_room(tray.studio, sum(map(sum, about)), f"A run of {tray.name}")
    made_by = {cell.recipe.pk for cell in cells}
    unread = [row.photo for row in rows if row.photo.state != Photo.State.READY]
    run = Run.objects.create(
        studio_id=tray.studio_id,
        tray=tray,
        tray_name=tray.name,
        left_out=[{"photo": photo.pk, "name": photo.name, "reason": photo.reason or _NOT_READ_YET} for photo in unread],
        last_place=tray.places.aggregate(newest=Max("pk"))["newest"] or 0,
        cover=[
            {"photo": cell.photo.pk, "version": cell.recipe.current_id, "key": cell.prints[-1]}
            for cell in _different(cells)
        ],
        afterwards=afterwards.wanted([(recipe.pk, core) for recipe, core in recipes if recipe.pk in made_by]),
    )
    Rendition.objects.bulk_create(
        (
            Rendition(
                run=run,
                photo=cell.photo,
                recipe=cell.recipe,
                version=cell.recipe.current,
                state=Rendition.State.ASKING if cell.state in _ASKS else Rendition.State.WAITING,
                question=_ASKS.get(cell.state, ""),
                n=plan.number.run,
                numbers=list(plan.number),
                words=plan.words.to_json() if plan.words is not None else None,
                own_bytes=plan.own_bytes,
                part=plan.part,
                parts=plan.parts,
                panel=plan.panel,
                strength=plan.strength,
                tone=plan.tone.to_json(),
                outline=plan.outline.to_json() if plan.outline is not None else {},
                about=weight,
                layout=plan.layout.to_json(),
                width=plan.width,
                height=plan.height,
                name=plan.name,
                folder=plan.folder,
                fingerprint=printed,
            )
            for cell, weights in zip(cells, about, strict=True)
            for plan, printed, weight in zip(cell.plans, cell.prints, weights, strict=True)
        ),
        batch_size=1000,
    )
    tallies.count_anew(run)
    photos = dict.fromkeys(cell.photo.pk for cell in cells if cell.state not in _ASKS)
    defer_all(MAKE, ({"run_id": run.pk, "photo_id": photo} for photo in photos))
    hint(run.studio_id, "run", run.pk)
    return run
