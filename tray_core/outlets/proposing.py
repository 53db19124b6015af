"""A recipe proposed from one use of an outlet's sheet."""

from __future__ import annotations

import re
from typing import Any

from tray_core.outlets.sheet import Outlet, Use
from tray_core.recipe.model import FORMAT, VERSION, Recipe
from tray_core.recipe.outlet import ForOutlet
from tray_core.recipe.reading import check_recipe

_HEAVY = 0.6
"""Bytes a pixel below which a limit may bind: a detailed photograph at quality 86 stays under it."""


def propose_recipe(outlet: Outlet, use: Use) -> Recipe:
    """Every station from the rules: their shape by crop, their best pixels, sRGB, the first format that photographs
    suit, the limit where it may bind.
    """
    rules = use.rules
    slug = re.sub(r"[^a-z0-9]+", "-", outlet.name.casefold()).strip("-") or "outlet"
    kind = re.sub(r"[^a-z0-9]+", "-", use.use.casefold()).strip("-") or "use"
    made: dict[str, Any] = {
        "format": FORMAT,
        "version": VERSION,
        "title": f"{outlet.name} {use.use.lower()}"[:80],
        "shelf": outlet.name,
        "outlet": ForOutlet(outlet=outlet.name, use=use.use, rules=rules).model_dump(
            mode="json", exclude_defaults=True
        ),
        "sharpen": {"strength": 100, "guard": "auto"},
        "color": {"profile": "srgb"},
        "name": {"pattern": f"{{stem}}-{slug}-{kind}"},
        "place": {"to": "output", "subfolder": f"{slug}/{kind}", "taken": "new-name"},
    }
    if rules.narrowest and rules.narrowest == rules.widest:
        made["frame"] = {"way": "crop", "shape": rules.narrowest, "anchor": "interest"}
    elif rules.narrowest and rules.widest:
        bounds = {"narrowest": rules.narrowest, "widest": rules.widest}
        made["frame"] = {"way": "bounds", **bounds, "outside": "crop", "anchor": "interest"}
    box = rules.best or use.shown or use.intake.largest or rules.most
    if box:
        made["size"] = {"by": "box", "width": box[0], "height": box[1]}
    made["file"] = _file(rules.formats, rules.kilobytes, (box or (2000, 2000)))
    return check_recipe(made)


def _file(formats: tuple[str, ...], kilobytes: int | None, box: tuple[int, int]) -> dict[str, Any]:
    format = next((each for each in ("jpeg", "webp", "avif", "png") if each in formats), formats[0])
    if format not in ("jpeg", "webp", "avif", "pdf"):
        return {"format": format}
    if kilobytes and kilobytes * 1000 < box[0] * box[1] * _HEAVY:
        return {"format": format, "under_kb": kilobytes}
    return {"format": format, "quality": {"avif": 70, "webp": 84}.get(format, 86)}
