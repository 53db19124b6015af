"""The names of a whole tray's renditions, kept in step with what changes.

A name is unique over the whole tray, so that one cell's name may need all others' plans. Most do not: as long as a
name that changes meets no other one, nor frees one that was waited for, nothing else is touched.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace

from tray_core import Plan
from tray_core.plan.cautions import same_name
from tray_core.plan.planning import name_key

Cells = Sequence[tuple[int, list[Plan]]]
"""Plans by recipe."""

Given = tuple[str, str, bool]
"""Folder, name, and whether it was numbered."""


OfPhoto = Mapping[tuple[int, int], Given]
"""A photo's names, by recipe and part."""


class Unclear(Exception):
    """The name of one cell hangs on those of others: all are to be given anew."""


class KeptNames:
    """Which rendition has which name: by photo, and then by recipe and part."""

    def __init__(self) -> None:
        self._given: dict[int, dict[tuple[int, int], Given]] = {}
        self._keys: dict[int, list[str]] = {}
        self._taken: set[str] = set()
        self._numbered = 0

    @property
    def in_order(self) -> bool:
        """Whether who came first decided any name: photos wanted the same one."""
        return self._numbered > 0

    def of(self, photo: int) -> OfPhoto:
        """The names of all renditions of a photo."""
        return self._given.get(photo, {})

    def take(self, photo: int, cells: Cells) -> None:
        """Note a photo's names as they were given by going through the whole tray."""
        given: dict[tuple[int, int], Given] = {}
        keys = self._keys[photo] = []
        for recipe, plans in cells:
            for plan in plans:
                numbered = any(warning.code == "same-name" for warning in plan.warnings)
                given[recipe, plan.part] = plan.folder, plan.name, numbered
                self._numbered += numbered
                keys.append(name_key(plan))
        self._given[photo] = given
        self._taken.update(keys)

    def renew(self, photo: int, cells: Cells) -> None:
        """Note the names of a photo that was planned anew, each cell as if it were alone; with no cells, of one gone.

        Unclear where others may get other names by it: where a new name meets one that is given, or where names
        were numbered and one that somebody waited for may be free now.
        """
        before = self._given.get(photo, {})
        plans = {(recipe, plan.part): plan for recipe, found in cells for plan in found}
        if before.keys() == plans.keys() and all(_same(given, plans[place]) for place, given in before.items()):
            return
        if self._numbered and before:
            raise Unclear
        self._taken.difference_update(self._keys.get(photo, ()))
        keys = [name_key(plan) for plan in plans.values()]
        if not self._taken.isdisjoint(keys) or len(set(keys)) < len(keys):
            raise Unclear
        self.take(photo, cells)


def _same(given: Given, plan: Plan) -> bool:
    """Whether a rendition that was given a name would want it again."""
    folder, name, was_numbered = given
    stem, _, extension = plan.name.rpartition(".")
    wanted = (
        re.fullmatch(rf"{re.escape(stem)}-\d+\.{re.escape(extension)}", name) if was_numbered else name == plan.name
    )
    return folder == plan.folder and bool(wanted)


def with_names(plans: Sequence[Plan], recipe: int, names: OfPhoto) -> list[Plan]:
    """A cell's plans with the names that its renditions got in the whole tray; without one, where none is told."""
    return [_with_name(plan, names.get((recipe, plan.part))) for plan in plans]


def _with_name(plan: Plan, given: Given | None) -> Plan:
    """`plan` with the name that it got, or without one."""
    if given is None:
        return replace(plan, folder="", name="")
    folder, name, numbered = given
    if not numbered and (folder, name) == (plan.folder, plan.name):
        return plan
    return replace(
        plan, folder=folder, name=name, warnings=(*plan.warnings, same_name()) if numbered else plan.warnings
    )
