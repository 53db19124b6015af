"""What renditions say of themselves, of one photo."""

from __future__ import annotations

from collections.abc import Sequence

from tray_core.photo.words import NO_WORDS
from tray_core.plan.planning import Plan
from tray_core.recipe.metadata import Metadata
from tray_core.words import Blocks, blocks_of
from tray_core.words.carried import Carried, carried


def source_for(data: bytes, kind: str, plans: Sequence[Plan]) -> Blocks:
    """The photo's own metadata, where any of its renditions keeps all of it."""
    keeps = any(plan.recipe.metadata is not None and plan.recipe.metadata.keep == "all" for plan in plans)
    return blocks_of(data, kind) if keeps else Blocks()


def said_by(
    plan: Plan, source: Blocks, *, srgb: bool, size: tuple[int, int] | None = None, orientation: int | None = None
) -> Carried | None:
    """What the rendition's file is to say; None for nothing. size: of its pixels, where they lie turned in the file."""
    metadata = plan.recipe.metadata or Metadata()
    cutout, path = plan.recipe.cutout, None
    if cutout is not None and cutout.path and plan.outline is not None:
        path = cutout.path, path_of(plan)
    if plan.words is None and path is None:
        return None
    words, kept = (plan.words, source) if plan.words is not None else (NO_WORDS, Blocks())
    size = plan.width, plan.height
    return carried(words, metadata, kept, size, srgb=srgb, orientation=orientation, path=path)


def path_of(plan: Plan) -> str:
    """The path data of a plan's outline, in the pixels of its rendition."""
    assert plan.outline is not None
    left, top = plan.layout.panel(plan.panel)[:2] if plan.panel is not None else (0, 0)
    return plan.outline.path(lambda points: plan.layout.rendition_points(points) - (left, top))
