"""What renditions say of themselves, of one photo."""

from __future__ import annotations

from collections.abc import Sequence

from tray_core.plan.planning import Plan
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
    metadata = plan.recipe.metadata
    if metadata is None or plan.words is None:
        return None
    return carried(plan.words, metadata, source, (plan.width, plan.height), srgb=srgb, orientation=orientation)
