"""The perceptual score against its reference implementation, and what the thorough JPEG coder saves at equal score."""

from __future__ import annotations

import statistics
import tempfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from PIL import Image

from bench.accuracy.pictures import SHARP, photograph
from tray_core.coders import coded, encode
from tray_core.pixels.picture import Picture
from tray_core.recipe.file import AvifFile, File, JpegFile, WebpFile
from tray_core.weight.score import Scorer, decoded

TARGETS = (45, 60, 75, 88, 93)
_CODERS: tuple[tuple[str, JpegFile], ...] = (
    ("quick", JpegFile(format="jpeg", chroma="420")),
    ("progressive", JpegFile(format="jpeg", chroma="420", progressive=True)),
    ("thorough", JpegFile(format="jpeg", chroma="420", coder="thorough", progressive=True)),
)


def _pictures(edge: int) -> Iterator[tuple[str, Picture]]:
    for name in SHARP:
        pixels = photograph(name)
        top, left = (max(0, (have - edge) // 2) for have in pixels.shape[:2])
        yield name, Picture(np.ascontiguousarray(pixels[top : top + edge, left : left + edge]), "RGB", False, None)


def looks(photographs: int = 4) -> list[tuple[str, int, float, float, int]]:
    """(format, target, median and lowest of the reference's score less the target, how many did not get there)."""
    from ssimulacra2 import compute_ssimulacra2

    found: dict[tuple[str, int], list[float]] = {}
    short: dict[tuple[str, int], int] = {}
    with tempfile.TemporaryDirectory() as folder:
        one, other = (str(Path(folder) / name) for name in ("a.png", "b.png"))
        for _, picture in list(_pictures(448))[:photographs]:
            Image.fromarray(picture.pixels).save(one)
            for target in TARGETS:
                files: tuple[tuple[str, File], ...] = (
                    ("jpeg", JpegFile(format="jpeg", looks=target)),
                    ("jpeg, thorough", JpegFile(format="jpeg", coder="thorough", progressive=True, looks=target)),
                    ("webp", WebpFile(format="webp", looks=target)),
                    ("avif", AvifFile(format="avif", looks=target)),
                )
                for words, file in files:
                    made = coded(picture, file)
                    if made.score is None or made.score < target:
                        short[words, target] = short.get((words, target), 0) + 1
                        continue
                    if made.quality == 20:
                        continue  # better than was asked for, at the lowest quality
                    Image.fromarray(decoded(made.data).pixels).save(other)
                    found.setdefault((words, target), []).append(compute_ssimulacra2(one, other) - target)
    keys = sorted(set(found) | set(short))
    return [
        (
            words,
            target,
            statistics.median(found.get((words, target), [0.0])),
            min(found.get((words, target), [0.0])),
            short.get((words, target), 0),
        )
        for words, target in keys
    ]


def coders() -> list[tuple[int, float, float]]:
    """(score, bytes of progressive and of thorough against the quick coder at that score), medians over photographs."""
    scores = (60, 70, 75, 80, 85, 88, 92)
    ratios: dict[tuple[str, int], list[float]] = {}
    for _, picture in _pictures(512):
        scorer, curves = Scorer(picture), {}
        for words, file in _CODERS:
            files = [encode(picture, file, quality=quality) for quality in (30, 45, 60, 70, 80, 86, 92, 96, 99)]
            curves[words] = [scorer.score_of_file(each) for each in files], np.log([len(each) for each in files])
        for score in scores:
            if all(min(x) <= score <= max(x) for x, _ in curves.values()):
                logs = {words: float(np.interp(score, *curve)) for words, curve in curves.items()}
                for words in ("progressive", "thorough"):
                    ratios.setdefault((words, score), []).append(float(np.exp(logs[words] - logs["quick"])))
    return [
        (score, *(statistics.median(ratios.get((words, score), [1.0])) for words in ("progressive", "thorough")))  # type: ignore[misc]
        for score in scores
    ]
