"""What is known of a whole tray: its names and its sums, kept in memory and brought up to date by what changed since.

Planning a whole tray takes a tenth of a millisecond a cell. So it is done once, and from then on for the photos that
the journal names. Where that cannot be told one by one (another recipe, names that hang on others) it is done anew.
"""

from __future__ import annotations

import itertools
import threading
import time
from collections import defaultdict
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import NamedTuple

from cachetools import LRUCache

from server.board.journal import KEPT, changes
from server.board.names import KeptNames, Unclear
from server.board.planning import Lit, Row, newest, numbers, planned, renamed
from server.board.sums import Counted, CountedPhoto, Done, Sums, counted
from server.http.connections import let_go
from server.runs.models import Rendition
from server.trays.models import Tray
from tray_core.plan import Number

SMALL = 1000
"""Photos of a tray that is planned whole even for one row of it."""

MOST = 8
"""Trays that something is known of; the one used longest ago is forgotten first."""


@dataclass(slots=True)
class Group:
    """Photos of one folder that stand together. start: the place of the first, from 0."""

    folder: str
    start: int
    count: int


def groups_of(folders: Iterable[str]) -> list[Group]:
    """Neighbors of one folder together."""
    groups: list[Group] = []
    for start, folder in enumerate(folders):
        if not groups or groups[-1].folder != folder:
            groups.append(Group(folder, start, 0))
        groups[-1].count += 1
    return groups


class Shown(NamedTuple):
    """A tray's photos in their order, by folder, and the formats that they have. total: of the tray, shown or not."""

    photos: list[int]
    groups: list[Group]
    formats: list[str]
    total: int


class Ledger:
    """The names and sums of one tray. number: the photos' places in it, from 1."""

    def __init__(self, tray: Tray, recipes: Lit) -> None:
        self._mark = _mark(tray, recipes)
        self._since = changes(tray.pk, None).until
        self._used = time.monotonic()
        self._photos: dict[int, CountedPhoto] = {}
        self.number = numbers(tray, recipes, None)
        self._shown: Shown | None = None
        self.names = KeptNames()
        self.sums = Sums()
        for row in planned(tray, recipes, None, self.number):
            self.names.take(row.photo.pk, [(cell.recipe.pk, cell.plans) for cell in row.cells])
            self._count(row)

    def renew(self, tray: Tray, recipes: Lit) -> bool:
        """Take in what changed; False where the whole is to be planned anew, and this is good for nothing any more."""
        now = time.monotonic()
        if self._mark != _mark(tray, recipes) or now - self._used > KEPT / 2:
            return False
        self._used = now
        found = changes(tray.pk, self._since)
        changed = found.photos
        before = self.number
        if found.places or (changed and _counted_by_photo(recipes)):
            self.number = numbers(tray, recipes, None)
            self._shown = None
            if self.names.in_order and _moved(before, self.number):
                return False
            if _numbered(recipes):
                changed.update(photo for photo, n in self.number.items() if before.get(photo) != n)
        try:
            for photo in before.keys() - self.number.keys():
                self.names.renew(photo, [])
                self.sums.remove(photo, self._photos.pop(photo))
            self._replan(tray, recipes, sorted(changed & self.number.keys(), key=self.number.__getitem__))
        except Unclear:
            return False
        self._restate(tray, sorted(found.states & self.number.keys()))
        self._since = found.until
        return True

    def _replan(self, tray: Tray, recipes: Lit, photos: list[int]) -> None:
        for row in planned(tray, recipes, photos, self.number) if photos else ():
            self.names.renew(row.photo.pk, [(cell.recipe.pk, cell.plans) for cell in row.cells])
            self._count(renamed(row, self.names.of(row.photo.pk)))

    def _restate(self, tray: Tray, photos: list[int]) -> None:
        """Take in what was made of photos, or left out: what they are to be is as before."""
        if not photos:
            return
        fields = (
            "photo_id",
            "recipe_id",
            "part",
            "state",
            "lost",
            "fingerprint",
            "name",
            "folder",
            "question",
            "receipt__bytes",
        )
        made: dict[tuple[int, int], dict[int, Done]] = defaultdict(dict)
        rows = newest(Rendition.objects.filter(run__tray=tray, photo_id__in=photos))
        for photo, recipe, part, *rest in rows.values_list(*fields):
            made[photo, recipe][part] = Done(*rest)
        excluded = set(tray.exclusions.filter(photo_id__in=photos).values_list("photo_id", "recipe_id"))
        for photo in photos:
            if (before := self._photos.get(photo)) is not None:
                cells = (
                    cell.again((photo, cell.recipe) in excluded, made.get((photo, cell.recipe), {}))
                    for cell in before.cells
                )
                self._take(photo, before._replace(cells=tuple(cells)))

    def shown(self) -> Shown:
        """The photos in their order."""
        if self._shown is None:
            photos = [photo for photo in self.number if photo in self._photos]
            groups = groups_of(self._photos[photo].folder for photo in photos)
            formats = {each.format for each in self._photos.values()} - {""}
            self._shown = Shown(photos, groups, sorted(formats), len(photos))
        return self._shown

    def cells(self, photo: int) -> tuple[Counted, ...]:
        """What is counted of a photo's cells; none where it could not be read."""
        found = self._photos.get(photo)
        return found.cells if found else ()

    def _count(self, row: Row) -> None:
        self._take(row.photo.pk, counted(row))

    def _take(self, photo: int, what: CountedPhoto) -> None:
        if (before := self._photos.get(photo)) is not None:
            self.sums.remove(photo, before)
        if before is None or (before.folder, before.format) != (what.folder, what.format):
            self._shown = None
        self._photos[photo] = what
        self.sums.add(photo, what)


def _moved(before: Iterable[int], now: dict[int, Number]) -> bool:
    """Whether photos that stayed stand in another order now."""
    stayed = [photo for photo in before if photo in now]
    there = set(stayed)
    return stayed != [photo for photo in now if photo in there]


def _mark(tray: Tray, recipes: Lit) -> object:
    """What changes whenever any cell of the tray may be another one."""
    return tray.name, [(recipe.pk, recipe.current_id) for recipe, _ in recipes]


def _numbered(recipes: Lit) -> bool:
    """Whether any name, or any text in a file, tells a photo's place."""
    texts = (core.metadata.set.given.values() if core.metadata is not None else () for _, core in recipes)
    patterns = (core.name.pattern + core.place.subfolder for _, core in recipes)
    return any("{n" in pattern for pattern in (*patterns, *itertools.chain(*texts)))


def _counted_by_photo(recipes: Lit) -> bool:
    """Whether a name tells a number that hangs on what other photos are."""
    return any(core.name.count != "run" for _, core in recipes)


_ledgers: LRUCache[int, Ledger] = LRUCache(MOST)
_locks: dict[int, threading.Lock] = defaultdict(threading.Lock)
_guard = threading.Lock()


@contextmanager
def ledger(tray: Tray, recipes: Lit) -> Iterator[Ledger]:
    """What is known of a tray, of now. One at a time: what is read of it is read inside, and soon."""
    let_go()
    with _locks[tray.pk]:
        yield _renewed(tray, recipes) or _planned(tray, recipes)


@contextmanager
def ledger_at_hand(tray: Tray, recipes: Lit) -> Iterator[Ledger | None]:
    """The same where it takes no time: None while a large tray is planned, or where it never was."""
    if not _locks[tray.pk].acquire(blocking=False):
        yield None
        return
    try:
        found = _renewed(tray, recipes)
        if found is None and tray.places.count() <= SMALL:
            found = _planned(tray, recipes)
        yield found
    finally:
        _locks[tray.pk].release()


def _renewed(tray: Tray, recipes: Lit) -> Ledger | None:
    with _guard:
        found = _ledgers.pop(tray.pk, None)
    if found is None or not found.renew(tray, recipes):
        return None
    return _keep(tray, found)


def _planned(tray: Tray, recipes: Lit) -> Ledger:
    return _keep(tray, Ledger(tray, recipes))


def _keep(tray: Tray, found: Ledger) -> Ledger:
    with _guard:
        _ledgers[tray.pk] = found
    return found
