"""One cell at its own pixels, before it is sharpened and as it goes to the coder."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

from tray_core.fingerprint import content_digest
from tray_core.line.preview import look_at
from tray_core.line.working import decoded_for, finished, part_of, resized
from tray_core.photo import Limits, read_bytes, read_facts
from tray_core.pixels.picture import Picture, Pixels8
from tray_core.plan import Plan
from tray_core.recipe import Recipe


@dataclass(frozen=True, slots=True)
class Resized:
    """A rendition's picture before sharpening, in its working color space.

    mask: where the photo is, 255, and where the ground is, 0; None without a ground. deep: the photo has more than
    8 bits a channel.
    """

    picture: Picture
    mask: Pixels8 | None
    deep: bool


def resize_cell(file: Path, plan: Plan, limits: Limits) -> Resized:
    """Decode a photo and resize it as `plan` says; the whole canvas where the plan is a panel of it.

    PhotoError where the photo cannot be read.
    """
    data = read_bytes(file, limits)
    facts = read_facts(file, limits, data)
    source = decoded_for(facts, data, plan.recipe, plan.layout, plan.tone)
    picture, mask = resized(source, plan.recipe, plan.layout, plan.tone, plan.outline)
    return Resized(picture, mask, source.picture.pixels.dtype.itemsize > 1 or source.tones(plan.tone))


def copies_of(file: Path, limits: Limits) -> tuple[str, tuple[bytes, bytes]]:
    """The digest of a photo's content, and its working copies as `line.preview.look_at` makes them."""
    data = read_bytes(file, limits)
    return content_digest(data), look_at(read_facts(file, limits, data), data).copies


def finished_cell(cell: Resized, plan: Plan, recipe: Recipe, strength: int | None = None) -> Picture:
    """The picture as it goes to the coder of `recipe`; the panel that `plan` is of.

    recipe: may differ from the plan's in what comes after resizing. strength: of the photo's own sharpening, per cent.
    """
    made = finished(cell.picture, cell.mask, recipe, plan.layout, strength, cell.deep)
    part = part_of(made, plan)
    return replace(part, icc=None) if recipe.color is not None and not recipe.color.embed else part
