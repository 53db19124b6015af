"""Sidecars: small files beside a rendition with what its photo says, for programs that do not open pictures."""

from __future__ import annotations

import json
from collections.abc import Collection
from pathlib import Path

from tray_core.line.saying import path_of
from tray_core.line.write import FileId, put
from tray_core.outline import svg_document
from tray_core.photo.facts import PhotoFacts
from tray_core.photo.words import Words, typed_over, without_names, words_from_json
from tray_core.plan.planning import Plan
from tray_core.receipt import Receipt
from tray_core.words.carried import xmp_of


def put_sidecars(path: Path, plan: Plan, facts: PhotoFacts, receipt: Receipt, originals: Collection[FileId]) -> None:
    """Write the sidecars that the recipe asks for beside the finished file at `path`: its name and .json, .xmp or .svg.

    A file that has such a name stays, unless the recipe replaces; so after a try that was cut short, whose sidecar says
    the same. PlaceError as `put` raises it.
    """
    place = plan.recipe.place
    taken = "replace" if place.taken == "replace" else "keep"
    for kind in place.sidecars:
        words = words_beside(plan)
        data = xmp_of(words) if kind == "xmp" else _json(path, plan, facts, receipt, words)
        put(data, path.parent, f"{path.name}.{kind}", taken, originals)
    cutout = plan.recipe.cutout
    if cutout is not None and cutout.svg and plan.outline is not None:
        drawing = svg_document(path_of(plan), (plan.width, plan.height), cutout.path or "Outline")
        put(drawing, path.parent, f"{path.name}.svg", taken, originals)


def words_beside(plan: Plan) -> Words:
    """All that the photo says but for what the recipe leaves out, with the texts that the recipe sets above it."""
    metadata = plan.recipe.metadata
    left_out = metadata.leave_out if metadata is not None else ()
    said = {name: value for name, value in plan.photo_words.to_json().items() if name not in left_out}
    kept = words_from_json(without_names(said, plan.photo_words, left_out))
    return typed_over(kept, plan.words.to_json()) if plan.words is not None else kept


def _json(path: Path, plan: Plan, facts: PhotoFacts, receipt: Receipt, words: Words) -> bytes:
    told = {
        "file": path.name,
        "photo": plan.photo.rpartition("/")[2],
        "recipe": plan.recipe.title,
        **{name: getattr(receipt, name) for name in ("width", "height", "bytes", "format", "profile", "sha256")},
        "taken": facts.taken.isoformat() if facts.taken else None,
        **words.to_json(),
    }
    return (json.dumps(told, indent=2, ensure_ascii=False) + "\n").encode()
