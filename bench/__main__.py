"""`python -m bench [--json]`."""

from __future__ import annotations

import argparse
import json
import sys

from bench.measure import measure
from bench.stations import measure_stations

# What was promised: (name, limit, whether larger is better, what it says).
WANTED = (
    ("one_recipe_vs_floor", 1.35, False, "one recipe: core / codec floor"),
    ("five_recipes_vs_floor", 1.5, False, "five recipes: core / codec floor"),
    ("one_recipe_vs_loop", 4.0, True, "one recipe: Pillow loop / core"),
    ("five_recipes_vs_loop", 9.0, True, "five recipes: Pillow loop / core"),
    ("two_workers_vs_one", 1.8, True, "two workers / one (wall time)"),
    ("thorough_vs_quick", 0.88, False, "thorough JPEG / optimized, at equal score"),
    ("peak_mb", 400, False, "peak memory at 24 megapixels, MB"),
    ("peak_200_mb", 1500, False, "peak memory at 200 megapixels, MB"),
    ("peak_2000_vs_20", 1.05, False, "peak of 2,000 photos / of 20"),
)


def _tell(text: str) -> None:
    print(f"  {text}", file=sys.stderr, flush=True)


def main() -> int:
    """Measure and print; exit code 1 when a number is not reached."""
    parser = argparse.ArgumentParser(prog="bench", description="Measure the core in one run.")
    parser.add_argument(
        "what", nargs="?", choices=("all", "stations", "accuracy", "server", "run", "rehearsal"), default="all"
    )
    parser.add_argument("--json", action="store_true", help="one JSON object on standard output")
    parser.add_argument("--photos", type=int, default=3)
    parser.add_argument("--rounds", type=int, default=5)
    given = parser.parse_args()
    if given.what == "accuracy":
        from bench.accuracy.report import report  # brings pictures along that only it needs

        report(_tell)
        return 0
    if given.what == "server":
        from bench.server import report as report_server

        return 0 if report_server(_tell) else 1
    if given.what == "run":
        from bench.whole import report as report_run

        return 0 if report_run(_tell) else 1
    if given.what == "rehearsal":
        from bench.rehearsal import report as report_rehearsal

        return 0 if report_rehearsal(_tell, given.rounds) else 1
    if given.what == "stations":
        for station, words, milliseconds in measure_stations(given.rounds, _tell):
            print(f"{station:10}{words:38}{milliseconds:>8.1f}")
        return 0
    found = measure(given.photos, given.rounds, _tell)
    if given.json:
        print(json.dumps({name: round(value, 3) for name, value in found.items()}))
        return 0
    print(f"{'CPU ms a photo, 24 megapixels':38}{'one recipe':>12}{'five':>12}")
    for way, label in (
        ("floor", "codec floor"),
        ("core", "core, files to files, with receipts"),
        ("loop", "Pillow loop"),
    ):
        print(f"{label:38}{found[way + '_one_ms']:>12.0f}{found[way + '_five_ms']:>12.0f}")
    print()
    reached = True
    for name, limit, larger, label in WANTED:
        good = limit is None or (found[name] >= limit if larger else found[name] <= limit)
        reached &= good
        aim = "" if limit is None else f"{'at least' if larger else 'at most'} {limit:g}"
        print(f"{label:40}{found[name]:>8.2f}   {aim:14} {'' if good else 'NOT REACHED'}")
    return 0 if reached else 1


if __name__ == "__main__":
    sys.exit(main())
