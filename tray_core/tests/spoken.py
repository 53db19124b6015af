"""Sixty recipes whose sentences a person reads, in docs/sentences.md."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import cycle
from typing import Any

from tray_core.recipe import Recipe, describe, headline
from tray_core.tests.samples import recipe

_ASK = {"way": "crop", "shape": "16:9", "anchor": "ask"}
_BOUNDS = {"way": "bounds", "narrowest": "4:5", "widest": "1.91:1"}
_FRAMES: tuple[dict[str, Any] | None, ...] = (
    None,
    {"way": "keep", "panels": {"columns": 3, "rows": 1}},
    {"way": "crop", "shape": "1:1", "anchor": "interest"},
    {"way": "crop", "shape": "3:1", "anchor": "top-left"},
    _ASK,
    {"way": "crop", "shape": "1080x1350"},
    {"way": "crop", "shape": "1:1", "anchor": "interest", "panels": {"columns": 6, "rows": 1}},
    {"way": "crop", "shape": "4:5", "panels": {"columns": 3, "rows": 2}},
    {"way": "crop", "shape": "1080x1920", "panels": {"columns": 1, "rows": 2}},
    {"way": "pad", "shape": "1:1"},
    {"way": "pad", "shape": "9:16", "fill": "blur"},
    {"way": "pad", "shape": "1080x1920", "fill": "#204060", "anchor": "bottom"},
    {"way": "pad", "shape": "4:5", "fill": "edge", "anchor": "ask"},
    {"way": "pad", "shape": "2:1", "fill": "transparent"},
    {"way": "stretch", "shape": "2:3"},
    {**_BOUNDS, "anchor": "interest"},
    {**_BOUNDS, "anchor": "ask"},
    {**_BOUNDS, "outside": "pad"},
    {**_BOUNDS, "outside": "pad", "fill": "blur", "anchor": "ask"},
    {"way": "stretch", "shape": "1:1", "panels": {"columns": 2, "rows": 2}},
)
_SIZES: tuple[dict[str, Any] | None, ...] = (
    {"by": "long-edge", "pixels": 1600},
    {"by": "width", "pixels": 1920, "portrait": {"pixels": 1080}, "enlarge": 150},
    {"by": "short-edge", "pixels": 600, "enlarge": "always"},
    {"by": "height", "pixels": 800, "minimum": {"width": 600}},
    {"by": "box", "width": 1200, "height": 900, "light": "linear"},
    {"by": "percent", "percent": 50},
    {"by": "percent", "percent": 150},
    {"by": "percent", "percent": 300, "enlarge": 200},
    {"by": "megapixels", "megapixels": 2.5, "square": {"megapixels": 1}},
    {"by": "widths", "widths": [480, 960, 1440]},
    {"by": "own", "ppi": 300},
    None,
)
_FILES: tuple[dict[str, Any], ...] = (
    {"format": "jpeg", "quality": 84},
    {"format": "webp", "looks": 88},
    {"format": "avif", "under_kb": 120},
    {"format": "png"},
    {"format": "tiff"},
    {"format": "jpeg", "looks": 70, "progressive": True},
    {"format": "gif", "colors": 64},
)
_SHARPENS: tuple[dict[str, Any] | None, ...] = (
    {"strength": 100, "guard": "auto"},
    None,
    {"strength": 60, "method": "highpass"},
    {"strength": 140, "radius": 0.8, "threshold": 2},
)
_COLORS: tuple[dict[str, Any] | None, ...] = (
    {"profile": "srgb"},
    {"profile": "display-p3"},
    None,
    {"profile": "grey", "embed": False},
    {"profile": "adobe-rgb", "intent": "perceptual"},
)
_PREPS: tuple[dict[str, Any] | None, ...] = (
    None,
    None,
    {"levels": True},
    None,
    {"contrast": True, "balance": True},
    {"sharpen": {"amount": 60}},
)
_PLACES: tuple[dict[str, Any], ...] = (
    {"subfolder": "{recipe}", "taken": "new-name"},
    {"to": "download"},
    {"subfolder": "", "taken": "replace"},
    {"subfolder": "web/{date:%Y}", "taken": "keep"},
    {"to": "beside", "subfolder": "web", "taken": "ask", "sidecars": ["json", "xmp"]},
    {"subfolder": "{shelf}", "taken": "replace", "afterwards": [{"do": "zip"}, {"do": "markup", "sizes": "50vw"}]},
    {"to": "download", "afterwards": [{"do": "zip"}]},
)


def _all() -> list[Recipe]:
    others: dict[str, Iterator[Any]] = {
        "size": cycle(_SIZES),
        "file": cycle(_FILES),
        "sharpen": cycle(_SHARPENS),
        "color": cycle(_COLORS),
        "prep": cycle(_PREPS),
        "place": cycle(_PLACES),
    }
    return [recipe(frame=frame, **{name: next(each) for name, each in others.items()}) for frame in _FRAMES * 3]


SPOKEN = _all()


def table() -> str:
    """The document: number, head of the column, sentence."""
    lines = [
        "# Sixty recipes, read aloud",
        "",
        "What recipes say of themselves: the two lines at the head of a column, and the",
    ]
    lines += ["sentence on the line. Written by `scripts/write_sentences.py`; a test keeps it of today.", ""]
    lines += ["| | head | sentence |", "|---|---|---|"]
    for number, each in enumerate(SPOKEN, 1):
        sentence = "".join(phrase.text for phrase in describe(each))
        lines.append(f"| {number} | {'<br>'.join(headline(each))} | {sentence} |".replace("{", "\\{"))
    return "\n".join(lines) + "\n"
