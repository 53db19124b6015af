"""A finished file as people outside the studio are shown it: small, in sRGB, and stamped where it is a proof."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from tray_core.coders import encode
from tray_core.limits import DEFAULT_LIMITS, Limits
from tray_core.line.working import decoded_for, work
from tray_core.photo import read_bytes, read_facts
from tray_core.plan import plan_renditions
from tray_core.recipe import Recipe, check_recipe


def handed_copy(file: Path, edge: int, stamp: str = "", limits: Limits = DEFAULT_LIMITS) -> bytes:
    """A JPEG of a finished file, `edge` pixels long at most. stamp: the text over all of it; none without.

    PhotoError where the file cannot be read.
    """
    data = read_bytes(file, limits)
    facts = read_facts(file, limits, data)
    recipe = _recipe(edge, stamp)
    (plan,) = plan_renditions(facts, recipe, 1, None)
    return encode(work(decoded_for(facts, data, recipe, plan.layout), recipe, plan.layout), recipe.file)


def _recipe(edge: int, stamp: str) -> Recipe:
    made: dict[str, Any] = {
        "format": "upper-tray/recipe",
        "version": 1,
        "title": "Handed",
        "size": {"by": "long-edge", "pixels": edge},
        "color": {"profile": "srgb", "embed": False},
        "file": {"format": "jpeg", "quality": 72 if stamp else 82, "progressive": True},
        "name": {"pattern": "{stem}"},
        "place": {"to": "download"},
    }
    if stamp:
        # Braces would be fields.
        text = stamp.replace("{", "(").replace("}", ")")
        made["finish"] = {"proof": {"text": text, "longest": "any", "quality": "any", "repeats": 6}}
    return check_recipe(made)
