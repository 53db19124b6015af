"""Rehearsals: a variant of a cell made, sent through the outlet's intake, and scored as people will see it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from server.looks import exact
from server.photos.models import Photo
from tray_core import Plan, Recipe, plan_renditions
from tray_core.intake import Served, treat
from tray_core.outlets import Use
from tray_core.rehearsal import Ideal, Variant, ideal_recipe, usual_variants, variant_recipe

Alive = Callable[[], None]


@dataclass(frozen=True, slots=True)
class Rehearsed:
    """One variant. photo: its name. sent: bytes of the upload. score: of what is served, against the ideal.

    what, how: the variant in words.
    """

    photo: str
    width: int
    height: int
    sent: int
    served: Served
    score: float
    what: str
    how: str


@dataclass(frozen=True, slots=True)
class Rehearsal:
    """A photo by a recipe for a use of an outlet. chosen: what people decided of the photo."""

    photo: Photo
    recipe: Recipe
    use: Use
    chosen: dict[str, Any]

    @property
    def plan(self) -> Plan:
        """As the recipe makes it now: its first panel, or the largest of a responsive set."""
        plans = plan_renditions(self.photo.facts(), self.recipe, 1, None, **self.chosen)
        return plans[0] if plans[0].panel else plans[-1]

    def variants(self) -> list[Variant]:
        """Those that people ask about."""
        plan = self.plan
        scale = plan.layout.scale
        photo = (max(plan.width, round(plan.width / scale)), max(plan.height, round(plan.height / scale)))
        return usual_variants(self.use, (plan.width, plan.height), photo)

    def ideal(self, alive: Alive) -> Ideal:
        """The photo at the display's own pixels, kept."""
        plan = self.plan
        recipe = ideal_recipe(self.recipe, self.use, (plan.width, plan.height))
        cell = exact.resized_cell(self.photo, recipe, self.chosen, alive)
        key = f"ideal {exact.finished_key(cell, recipe, None)} {self.use.model_dump_json()}"
        return exact.kept(key, lambda: Ideal(exact.for_coder(cell, recipe, None), self.use), lambda _: 60_000_000)

    def rehearse(self, variant: Variant, alive: Alive) -> Rehearsed:
        """One variant, all the way; kept, but for what is sent."""
        ideal, recipe = self.ideal(alive), variant_recipe(self.recipe, variant)
        cell = exact.resized_cell(self.photo, recipe, self.chosen, alive)
        alive()
        data = exact.file_of(cell, recipe, None, variant.quality)
        size = exact.for_coder(cell, recipe, None).size
        key = f"served {exact.finished_key(cell, recipe, None)} {recipe.file} {self.use.model_dump_json()}"

        def make() -> tuple[Served, float]:
            with exact.working:
                served = treat(data, self.use.intake, self.photo.name)
                return served, ideal.score(served.data)

        served, score = exact.kept(key, make, lambda made: len(made[0].data))
        what, how = variant.words(size[0])
        return Rehearsed(self.photo.name, *size, len(data), served, score, what, how)
