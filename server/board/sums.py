"""A whole tray in numbers: what there is to make, how heavy, what needs a crop."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from typing import NamedTuple

from server.board.planning import Cell, Lit, Row
from server.board.states import Wish, cell_state, needed
from server.photos.models import Photo
from server.recipes.models import RecipeVersion
from server.runs.models import Rendition
from tray_core.plan.weight import EVERY_FILE, Forecast

TO_MAKE = ("planned", "outdated", "failed")
NEW, NAMED_ALIKE = "reading", "same-name"
_WITHOUT = ("done", "excluded")
"""States in which nothing is forecast."""


def learned_weights(recipes: Lit) -> dict[int, float]:
    """What was made by a recipe against what was forecast, by recipe; 1 where nothing was made yet."""
    # Read anew: recipes may have been kept since before something was made of them.
    versions = RecipeVersion.objects.filter(pk__in=[recipe.current_id for recipe, _ in recipes], weighed__gt=0)
    rows = versions.values_list("recipe_id", "weighed", "forecast")
    learned = {recipe: weighed / guessed for recipe, weighed, guessed in rows}
    return {recipe.pk: learned.get(recipe.pk, 1.0) for recipe, _ in recipes}


def made_bytes(cell: Cell) -> int:
    """Of all renditions of a cell that is done."""
    return sum((rendition.receipt or {}).get("bytes", 0) for rendition in cell.renditions)


def cell_bytes(cell: Cell, weights: dict[int, float]) -> tuple[int, bool]:
    """(bytes, whether that is only a guess) of all renditions of a cell."""
    if cell.state == "done":
        return made_bytes(cell), False
    return sum(each.bytes(weights[cell.recipe.pk]) for each in cell.forecasts), True


class Done(NamedTuple):
    """As much of a rendition's row as is counted."""

    state: str
    lost: str
    fingerprint: str
    name: str
    folder: str
    question: str
    bytes: int | None


class Counted(NamedTuple):
    """What a cell adds to the sums. made: bytes, where it is done. forecasts: of its renditions."""

    recipe: int
    state: str
    made: int
    needs: str
    same_name: bool
    wishes: tuple[Wish, ...]
    forecasts: tuple[Forecast, ...]

    def again(self, excluded: bool, made: Mapping[int, Done]) -> Counted:
        """The same cell with what was made of it since."""
        state = cell_state(self.wishes, self.needs, excluded, made)
        size = sum(each.bytes or 0 for each in made.values()) if state == "done" else 0
        return self._replace(state=state, made=size)


class CountedPhoto(NamedTuple):
    """What a photo adds to the sums. state: of the photo itself, where it has no cells."""

    state: str
    folder: str
    format: str
    bytes: int
    cells: tuple[Counted, ...]


def counted(row: Row) -> CountedPhoto:
    """What a row of the board adds to the sums."""
    photo = row.photo
    state = NEW if photo.state == Photo.State.WAITING else "" if photo.state == Photo.State.READY else photo.state
    return CountedPhoto(
        state,
        photo.folder,
        photo.format,
        photo.bytes,
        tuple(
            Counted(
                cell.recipe.pk,
                cell.state,
                made_bytes(cell) if cell.state == "done" else 0,
                needed(cell.plans),
                any(warning.code == NAMED_ALIKE for plan in cell.plans for warning in plan.warnings),
                tuple(Wish(each, plan.name, plan.folder) for each, plan in zip(cell.prints, cell.plans, strict=True)),
                tuple(cell.forecasts),
            )
            for cell in row.cells
        ),
    )


class Sums:
    """The sums of a tray, kept in step photo by photo.

    renditions: included ones; a cell with panels counts for each. eye: (photo, recipe) of cells that wait for one.
    photos: those that have a cell of a state, or are themselves in it.
    """

    def __init__(self) -> None:
        self.renditions = self.made = self.made_bytes = self.to_make = self.open = self.same_names = self.originals = 0
        self.eye: set[tuple[int, int]] = set()
        self.photos: dict[str, set[int]] = defaultdict(set)
        # Forecasts are straight lines but for those with a limit: of most, the sum tells as much as each one.
        self._plain: dict[int, tuple[int, float]] = defaultdict(lambda: (0, 0.0))
        self._limited: dict[int, dict[int, list[Forecast]]] = defaultdict(dict)

    def add(self, photo: int, what: CountedPhoto) -> None:
        """Take a photo in."""
        self._count(what, 1)
        for state in {what.state, *(cell.state for cell in what.cells)} - {""}:
            self.photos[state].add(photo)
        for cell in what.cells:
            if cell.state == "eye":
                self.eye.add((photo, cell.recipe))
            if limited := [each for each in cell.forecasts if each.low and cell.state not in _WITHOUT]:
                self._limited[cell.recipe][photo] = limited

    def remove(self, photo: int, what: CountedPhoto) -> None:
        """Undo `add`."""
        self._count(what, -1)
        for state in {what.state, *(cell.state for cell in what.cells)} - {""}:
            self.photos[state].discard(photo)
        for cell in what.cells:
            self.eye.discard((photo, cell.recipe))
            self._limited[cell.recipe].pop(photo, None)

    def _count(self, what: CountedPhoto, sign: int) -> None:
        self.originals += sign * what.bytes
        for cell in what.cells:
            if cell.state == "excluded":
                continue
            count = sign * len(cell.wishes)
            self.renditions += count
            self.made_bytes += sign * cell.made
            self.made += count * (cell.state in ("done", "kept"))
            self.to_make += count * (cell.state in TO_MAKE)
            self.open += count * (cell.state in Rendition.OPEN)
            self.same_names += sign * cell.same_name
            plain = [each.high for each in cell.forecasts if not each.low and cell.state not in _WITHOUT]
            many, high = self._plain[cell.recipe]
            self._plain[cell.recipe] = many + sign * len(plain), high + sign * sum(plain)

    def about(self, weights: dict[int, float]) -> int:
        """Bytes of all that is included, made or not. weights: as `learned_weights` has them."""
        plain = sum(many * EVERY_FILE + weights.get(recipe, 1) * high for recipe, (many, high) in self._plain.items())
        limited = sum(
            each.bytes(weights.get(recipe, 1))
            for recipe, photos in self._limited.items()
            for cell in photos.values()
            for each in cell
        )
        return self.made_bytes + round(plain) + limited
