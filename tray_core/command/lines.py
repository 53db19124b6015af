"""The JSON lines of the command line: one object for every rendition or file."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from tray_core.errors import TrayError
from tray_core.line.line import Outcome
from tray_core.photo.facts import PhotoFacts
from tray_core.plan.planning import Plan

_TAKEN = "place.taken: expected a free name, found a file there. Use --taken new-name, replace or keep."


def outcome_line(outcome: Outcome) -> dict[str, Any]:
    """One rendition that was made, failed or skipped."""
    receipt, plan = outcome.receipt, outcome.plan
    return {
        "photo": plan.photo,
        "recipe": plan.recipe.title,
        "status": outcome.status,
        "path": str(outcome.path) if outcome.path else None,
        "width": receipt.width if receipt else None,
        "height": receipt.height if receipt else None,
        "bytes": receipt.bytes if receipt else None,
        "format": receipt.format.lower() if receipt else None,
        "profile": receipt.profile if receipt else None,
        "error": str(outcome.error) if outcome.error else _TAKEN if outcome.status == "asking" else None,
    }


def _below(root: Path, plan: Plan) -> Path:
    return Path(plan.photo).parent if plan.recipe.place.to == "beside" else root


def planned_line(plan: Plan, root: Path | None, about: int) -> dict[str, Any]:
    """One rendition to be; its path below `root` when that is known. about: the bytes that it is likely to have."""
    return {
        "photo": plan.photo,
        "recipe": plan.recipe.title,
        "status": "planned",
        "path": str(_below(root, plan) / plan.path) if root else plan.path,
        "width": plan.width,
        "height": plan.height,
        "bytes": about,
        "format": plan.format,
        "profile": "sRGB" if plan.recipe.color else None,
        "error": None,
        "warnings": [warning.text for warning in plan.warnings],
    }


def asking_line(plan: Plan) -> dict[str, Any]:
    """One rendition that waits for a person: its recipe asks, and a command line has nobody to ask."""
    line = dict.fromkeys(("path", "width", "height", "bytes", "format", "profile"))
    why = (
        f"frame.anchor: expected a crop for {plan.photo}, found 'ask'. Place it on the board, or choose another anchor."
    )
    if plan.needs_outline:
        found = "no outline" if plan.outline is None else "one that is not certain"
        why = f"cutout: expected the outline of an object in {plan.photo}, found {found}. Give it with --outlines."
    return {"photo": plan.photo, "recipe": plan.recipe.title, "status": "asking", **line, "error": why}


def failed_line(photo: Path, recipe: str, error: TrayError, *, planning: bool = False) -> dict[str, Any]:
    """One rendition of a photo that cannot be read."""
    line = dict.fromkeys(("photo", "recipe", "status", "path", "width", "height", "bytes", "format", "profile"))
    line |= {"photo": str(photo), "recipe": recipe, "status": "failed", "error": str(error)}
    return line | {"warnings": []} if planning else line


def facts_line(path: Path, facts: PhotoFacts | None, error: TrayError | None) -> dict[str, Any]:
    """What one file says of itself."""
    return {
        "path": str(path),
        "format": facts.format.lower() if facts else None,
        "width": facts.width if facts else None,
        "height": facts.height if facts else None,
        "orientation": facts.orientation if facts else None,
        "depth": facts.depth if facts else None,
        "profile": facts.profile if facts else None,
        "mode": facts.mode if facts else None,
        "alpha": facts.alpha if facts else None,
        "bytes": facts.bytes if facts else None,
        "error": str(error) if error else None,
    }
