"""Forecasts of weight against the files that are made."""

from __future__ import annotations

import math
import statistics
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import imagecodecs

from bench.accuracy.pictures import SHARP, photograph
from tray_core.coders import coded
from tray_core.line import look_at, work
from tray_core.line.working import decoded_for
from tray_core.photo import PhotoFacts, read_facts
from tray_core.pixels.picture import Picture
from tray_core.plan import plan_renditions
from tray_core.plan.weight import about_bytes
from tray_core.recipe import Recipe, check_recipe

_DEMO = Path(__file__).parents[2] / "demo" / "photos"
UNSEEN = (*SHARP, "gravel.png", "brick.png", "page.png")
FILES: tuple[tuple[str, tuple[dict[str, Any], ...]], ...] = (
    ("JPEG 40 to 89", tuple({"format": "jpeg", "quality": quality} for quality in (40, 65, 84))),
    ("JPEG 90 to 95", tuple({"format": "jpeg", "quality": quality} for quality in (91, 95))),
    ("JPEG, thorough", ({"format": "jpeg", "quality": 80, "coder": "thorough", "progressive": True},)),
    ("WebP 40 to 95", tuple({"format": "webp", "quality": quality} for quality in (45, 80, 95))),
    ("AVIF 40 to 95", tuple({"format": "avif", "quality": quality} for quality in (45, 65, 85))),
    ("PNG", ({"format": "png"},)),
    ("GIF", ({"format": "gif"},)),
    ("by a look", tuple({"format": name, "looks": looks} for name in ("jpeg", "webp") for looks in (75, 88))),
)
KINDS = tuple(words for words, _ in FILES)
Row = tuple[str, float, float, float, float]
"""(what, signed median, median, nine of ten, largest), in per cent of the files' bytes."""


def _recipe(file: dict[str, Any], edge: int, frame: dict[str, Any] | None) -> Recipe:
    data = {
        "format": "upper-tray/recipe",
        "version": 1,
        "title": "x",
        "size": {"by": "long-edge", "pixels": edge},
        "sharpen": {"strength": 100},
        "file": file,
        "name": {"pattern": "x"},
        "place": {},
    }
    return check_recipe(data | ({"frame": frame} if frame else {}))


def demo() -> Iterator[tuple[PhotoFacts, bytes]]:
    """The demo's photographs."""
    for folder in ("autumn-rehang", "shop-stock"):
        for path in sorted((_DEMO / folder).glob("*.jpg")):
            data = path.read_bytes()
            yield read_facts(path, data=data), data


def unseen() -> Iterator[tuple[PhotoFacts, bytes]]:
    """Photographs that no forecast was fitted to."""
    for name in UNSEEN:
        data = bytes(imagecodecs.png_encode(photograph(name), level=1))
        yield read_facts(name, data=data), data


def forecasts(
    photos: Callable[[], Iterator[tuple[PhotoFacts, bytes]]], edges: tuple[int, ...], kinds: tuple[str, ...] = KINDS
) -> Iterator[Row]:
    """Each kind of file at some long edges, of the whole photo and of a square in its middle."""
    found: dict[str, list[float]] = {}
    for facts, data in photos():
        detail = look_at(facts, data).detail
        for edge in edges:
            if edge > max(facts.width, facts.height):
                continue
            for frame in (None, {"way": "crop", "shape": "1:1"}):
                pictures: dict[str, Picture] = {}
                for words, files in (each for each in FILES if each[0] in kinds):
                    for file in files if frame is None else files[:1]:
                        recipe = _recipe(file, edge, frame)
                        (plan,) = plan_renditions(facts, recipe, 1, None)
                        if not pictures:
                            source = decoded_for(facts, data, recipe, plan.layout)
                            pictures["it"] = work(source, recipe, plan.layout)
                        size = len(coded(pictures["it"], recipe.file).data)
                        kind = words if frame is None else "square crops"
                        found.setdefault(kind, []).append(math.log(about_bytes(plan, detail) / size))
    for words, logs in found.items():
        apart = sorted(abs(each) for each in logs)
        nine = apart[min(len(apart) - 1, math.ceil(0.9 * len(apart)) - 1)]
        signed, middle, most, worst = (
            100 * math.expm1(each) for each in (statistics.median(logs), statistics.median(apart), nine, apart[-1])
        )
        yield words, signed, middle, most, worst
