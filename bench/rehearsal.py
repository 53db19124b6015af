"""`bench rehearsal`: twelve variants of 24 megapixels through an outlet's intake, as a page asks for them."""

from __future__ import annotations

import os
import resource
import statistics
import tempfile
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

from bench.pictures import write_pictures
from tray_core.coders import encode
from tray_core.intake import treat
from tray_core.line import get_ready
from tray_core.line.preview import read_interest
from tray_core.looks import finished_cell, resize_cell
from tray_core.outlets import Use, check_outlet, propose_recipe
from tray_core.photo import DEFAULT_LIMITS, PhotoFacts, read_bytes, read_facts
from tray_core.pixels.picture import Picture
from tray_core.plan import Plan, plan_renditions
from tray_core.recipe import Recipe
from tray_core.rehearsal import Ideal, Variant, ideal_recipe, usual_variants, variant_recipe

WANTED_SECONDS, WANTED_FIRST = 10.0, 1.0
CORES = 2

OUTLET = {
    "format": "upper-tray/outlet",
    "version": 1,
    "name": "Feed",
    "uses": [
        {
            "use": "Post",
            "rules": {"formats": ["jpeg", "png", "webp"], "best": [1080, 1350], "most": [8192, 8192], "color": "any"},
            "intake": {"largest": [1620, 2025], "quality": 70, "profile": "srgb"},
            "shown": [1080, 1350],
        }
    ],
}


@dataclass(frozen=True, slots=True)
class _Photo:
    path: Path
    facts: PhotoFacts

    def made(self, recipe: Recipe) -> tuple[Picture, Plan]:
        """The photo as it goes to the coder of a recipe."""
        (plan,) = plan_renditions(self.facts, recipe, 1, None)
        return finished_cell(resize_cell(self.path, plan, DEFAULT_LIMITS), plan, recipe), plan


def _cpu() -> float:
    used = resource.getrusage(resource.RUSAGE_SELF)
    return used.ru_utime + used.ru_stime


def _one(photo: _Photo, recipe: Recipe, use: Use, ideal: Ideal, variant: Variant) -> float:
    core = variant_recipe(recipe, variant)
    made, _ = photo.made(core)
    return ideal.score(treat(encode(made, core.file), use.intake).data)


def _round(photo: _Photo, recipe: Recipe, use: Use) -> tuple[float, float, float, int]:
    """(seconds for all, seconds for the first, CPU seconds, how many), from nothing, on two threads as on a page."""
    begun, used = time.perf_counter(), _cpu()
    (plan,) = plan_renditions(photo.facts, recipe, 1, None)
    ideal = Ideal(photo.made(ideal_recipe(recipe, use, (plan.width, plan.height)))[0], use)
    size = (round(plan.width / plan.layout.scale), round(plan.height / plan.layout.scale))
    variants = usual_variants(use, (plan.width, plan.height), size)
    first = 0.0
    with ThreadPoolExecutor(CORES) as pool:
        for number, _ in enumerate(pool.map(lambda each: _one(photo, recipe, use, ideal, each), variants)):
            first = first or time.perf_counter() - begun if number == 0 else first
    return time.perf_counter() - begun, first, _cpu() - used, len(variants)


def report(tell: Callable[[str], None], rounds: int = 5) -> bool:
    """Measure and print; whether what was wanted is reached."""
    get_ready()
    os.sched_setaffinity(0, sorted(os.sched_getaffinity(0))[:CORES])
    outlet = check_outlet(OUTLET)
    use = outlet.uses[0]
    recipe = propose_recipe(outlet, use)
    with tempfile.TemporaryDirectory() as folder:
        tell("making a photo of 24 megapixels")
        (path,) = write_pictures(Path(folder), 1)
        data = read_bytes(path)
        photo = _Photo(path, read_interest(read_facts(path, data=data), data))
        found = []
        for number in range(rounds + 1):
            tell(f"round {number} of {rounds}")
            found.append(_round(photo, recipe, use))
    whole, first, cpu = (statistics.median(each[i] for each in found[1:]) for i in range(3))
    count = found[0][3]
    print(f"{count} variants of 24 megapixels on {CORES} cores, median of {rounds}")
    for words, value, wanted in (("all", whole, WANTED_SECONDS), ("the first", first, WANTED_FIRST)):
        print(f"  {words:12}{value:>8.2f} s   wanted below {wanted:g} s   {'ok' if value < wanted else 'NOT REACHED'}")
    print(f"  {'CPU each':12}{1000 * cpu / count:>8.0f} ms")
    return whole < WANTED_SECONDS and first < WANTED_FIRST
