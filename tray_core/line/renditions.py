"""All renditions of one photo, from one decoding or two."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from tray_core.coders import Encoded, coded
from tray_core.line.framing import Source
from tray_core.line.same import same_file
from tray_core.line.saying import said_by, source_for
from tray_core.line.working import part_of, size_wanted, work
from tray_core.photo.facts import PhotoFacts
from tray_core.photo.profiles import profile_name
from tray_core.pixels.decode import decode, development_of
from tray_core.pixels.picture import Picture
from tray_core.pixels.scale import scales
from tray_core.plan.planning import Plan
from tray_core.tone import Development
from tray_core.words import Blocks

_Decoding = tuple[tuple[int, int], Development | None]
"""(width, height) wanted, and how camera raw is developed for it."""


def _encoded(canvas: Picture, plan: Plan, source: Blocks) -> Encoded:
    """The bytes of the rendition that `plan` is, from its finished canvas. source: the photo's own metadata."""
    recipe = plan.recipe
    picture = part_of(canvas, plan)
    said = said_by(plan, source, srgb=profile_name(picture.icc) in (None, "sRGB"))
    if recipe.color is not None and not recipe.color.embed:
        picture = replace(picture, icc=None)
    return coded(picture, recipe.coded, recipe.size.ppi if recipe.size else None, said)


class Renditions:
    """The renditions of one photo, encoded. Canvases are made from one decoding at a time; the last is kept for its
    other panels.
    """

    def __init__(self, facts: PhotoFacts, data: bytes) -> None:
        self._facts = facts
        self._data: bytes | None = data
        self._plans: Sequence[Plan] = ()
        self._wanted: list[_Decoding] = []
        self._decoded: tuple[_Decoding, Source] | None = None
        self._last: tuple[Plan, Picture] | None = None
        self._said = Blocks()
        self.order: list[int] = []

    def prepare(self, plans: Sequence[Plan]) -> None:
        """Decode for the largest of `plans`, and order them: what shares a decoding, then a canvas, together.

        First come those that are the photo's own file, for which nothing is decoded.
        """
        facts = self._facts
        assert self._data is not None
        self._said = source_for(self._data, facts.format, plans)
        self._plans = plans
        self._wanted = [_decoding(facts, plan) for plan in plans]

        def place(number: int) -> tuple[int, str, int, int, int]:
            plan = plans[number]
            canvas = plan.layout.outer
            size, development = self._wanted[number]
            return (
                -(size[0] or facts.width + 1),
                str(development or ""),
                -canvas[0] * canvas[1],
                next(i for i, other in enumerate(plans) if other.recipe is plan.recipe),
                plan.part,
            )

        self.order = sorted(range(len(plans)), key=place)
        decoded = [number for number in self.order if plans[number].format != "same"]
        if decoded:
            self._source(decoded[0])
        if len(decoded) == len(plans) and (not scales(facts) or len(set(self._wanted)) == 1):
            self._data = None  # nothing will be decoded again

    def _source(self, number: int) -> Source:
        wanted = self._wanted[number]
        if self._decoded is None or (self._decoded[0] != wanted and self._data is not None):
            assert self._data is not None
            self._decoded = None  # two at once would be twice the memory
            whole = (self._facts.width, self._facts.height)
            picture = decode(self._facts, self._data, *wanted)
            self._decoded = wanted, Source(picture, whole, wanted[1] is not None)
        return self._decoded[1]

    def encoded(self, number: int) -> Encoded:
        """The bytes of one of the plans, by its place among them."""
        plan = self._plans[number]
        if plan.format == "same":
            assert self._data is not None
            return Encoded(same_file(self._facts, self._data, plan, self._said))
        return _encoded(self._canvas(number), plan, self._said)

    def _canvas(self, number: int) -> Picture:
        """The canvas that a plan is a part of."""
        plan = self._plans[number]
        last = self._last[0] if self._last else None
        same = last and last.recipe is plan.recipe and last.layout == plan.layout and last.strength == plan.strength
        if last and same and last.tone == plan.tone and last.outline == plan.outline:
            assert self._last is not None
            return self._last[1]
        self._last = None
        made = work(self._source(number), plan.recipe, plan.layout, plan.strength, plan.tone, plan.outline)
        if plan.panel is not None:
            self._last = plan, made
        return made


def _decoding(facts: PhotoFacts, plan: Plan) -> _Decoding:
    """What a plan wants decoded; a size of (0, 0) where it is the file as it is."""
    if plan.format == "same":
        return (0, 0), None
    return size_wanted(facts, plan.recipe, plan.layout), development_of(facts, plan.tone)
