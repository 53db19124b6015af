"""`./upper-tray bench accuracy`: all of it, as the tables of docs/accuracy.md."""

from __future__ import annotations

from collections.abc import Callable

from bench.accuracy import crops, forecast, objects, resampling, weight


def report(tell: Callable[[str], None], say: Callable[[str], None] = print) -> None:
    """Measure and print; takes some ten minutes."""
    tell("resampling small pictures")
    say("\n## Resampling\n\n| | median dB | lowest dB | largest shift of the mean, levels |\n|---|---|---|---|")
    for words, middle, lowest, shift in resampling.small_pictures():
        say(f"| {words} | {middle:.1f} | {lowest:.1f} | {shift:.3f} |")
    tell("resampling JPEGs of 24 megapixels")
    for words, middle, lowest, shift in resampling.large_pictures():
        say(f"| {words} | {middle:.1f} | {lowest:.1f} | {shift:.3f} |")
    tell("a zone plate")
    say(f"\nZone plate, largest of 86 steps, against the reference: {resampling.aliasing():.2f} times.")
    tell("looks, by the reference implementation")
    say("\n## Looks\n\n| format | target | median | lowest | not reached |\n|---|---|---|---|---|")
    for words, target, middle, lowest, short in weight.looks():
        say(f"| {words} | {target} | {middle:+.1f} | {lowest:+.1f} | {short} |")
    tell("JPEG coders at equal score")
    say("\n## JPEG coders\n\n| score | progressive / quick | thorough / quick |\n|---|---|---|")
    for score, progressive, thorough in weight.coders():
        say(f"| {score} | {progressive:.3f} | {thorough:.3f} |")
    tell("forecasts")
    say("\n## Forecasts\n\n| | | signed | median | nine of ten | largest |\n|---|---|---|---|---|---|")
    for name, photos, edges in (("unseen", forecast.unseen, (300, 500)), ("demo", forecast.demo, (900,))):
        for words, *numbers in forecast.forecasts(photos, edges):
            say(f"| {name} | {words} | " + " | ".join(f"{each:+.1f} %" for each in numbers) + " |")
    tell("crops")
    say("\n## Crops\n\n| shape | demo's | others' | all, by the middle | ask | under half |\n|---|---|---|---|---|---|")
    for shape, own, others, middle, asks, lost in crops.crops():
        say(f"| {shape} | {own:.2f} | {others:.2f} | {middle:.2f} | {asks} | {lost} |")
    tell("outlines")
    say("\n## Outlines\n\n| ground | median IoU | lowest IoU | ask | of |\n|---|---|---|---|---|")
    for ground, middle, lowest, asks, count in objects.outlines():
        say(f"| {ground} | {middle:.4f} | {lowest:.4f} | {asks} | {count} |")
    say(f"\nThe shop's bird against its rendered truth: {objects.rendered():.4f}.")
