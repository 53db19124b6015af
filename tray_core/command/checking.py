"""`check`: finished files held against the sheet of an outlet."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any

from tray_core.errors import PhotoError
from tray_core.intake import file_facts
from tray_core.limits import Limits
from tray_core.outlets import Outlet, Use, breaches, read_outlet_file
from tray_core.photo import read_bytes

Say = Callable[[dict[str, Any]], None]
Tell = Callable[[str], None]


def use_of(outlet: Outlet, name: str | None) -> Use | None:
    """The use of that name, or the first; None where the sheet has none of the name."""
    return outlet.uses[0] if name is None else outlet.use(name)


def check_command(paths: Sequence[str], sheet: str, name: str | None, limits: Limits, say: Say, tell: Tell) -> bool:
    """Say of each file what the outlet would do to it; whether it would take them all.

    RecipeError names the sheet and what is wrong with it.
    """
    outlet = read_outlet_file(sheet)
    use = use_of(outlet, name)
    if use is None:
        known = ", ".join(each.use for each in outlet.uses)
        tell(f"--use: expected one of {known}, found {name!r}. Correct it, or leave it out for the first.")
        return False
    taken = True
    for path in paths:
        try:
            facts, _ = file_facts(path, read_bytes(Path(path), limits), limits)
        except PhotoError as error:
            tell(str(error))
            taken = False
            continue
        told = [asdict(each) for each in breaches(outlet.name, use.rules, facts, use.intake)]
        say({"file": path, "outlet": outlet.name, "use": use.use, "breaches": told})
        taken = taken and not any(each["kind"] == "refuses" for each in told)
    return taken
