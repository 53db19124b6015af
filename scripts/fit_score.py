"""Fit the weights of the perceptual score against a reference implementation, and say how well they hold.

Wants the package ssimulacra2, which is no part of the product: pip install ssimulacra2. Takes a few minutes.
Prints the weights, and the error for pictures that were left out of the fit, one after the other.
"""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from tray_core.coders import encode
from tray_core.pixels.picture import Picture
from tray_core.recipe.file import AvifFile, JpegFile, WebpFile
from tray_core.weight.score import _planes, decoded, features, seen

PHOTOS = Path(__file__).parents[1] / "demo" / "photos"
FOLDERS = ("autumn-rehang", "shop-stock")
QUALITIES = {"jpeg": (30, 50, 65, 75, 82, 88, 93), "webp": (40, 65, 80, 90, 96), "avif": (35, 50, 62, 74, 85)}


def pictures() -> Iterator[Picture]:
    """The demo's photographs, 900 pixels long."""
    for folder in FOLDERS:
        for path in sorted((PHOTOS / folder).glob("*.jpg")):
            with Image.open(path) as image:
                image.thumbnail((900, 900), Image.Resampling.LANCZOS)
                yield Picture(np.asarray(image.convert("RGB")), "RGB", False, None)


def reference(one: Picture, other: Picture) -> float:
    """What the reference implementation says."""
    from ssimulacra2 import compute_ssimulacra2

    with tempfile.TemporaryDirectory() as folder:
        paths = [str(Path(folder) / name) for name in ("a.png", "b.png")]
        for path, picture in zip(paths, (one, other), strict=True):
            Image.fromarray(picture.pixels).save(path)
        return float(compute_ssimulacra2(*paths))


def fitted(x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
    """Weights for 100 - sqrt(x . weights), non-negative; small differences count as much as large ones."""
    from scipy.optimize import nnls

    goal = (100 - y) ** 2
    trust = 1 / np.maximum(4, goal)
    return np.asarray(nnls(x * trust[:, None], goal * trust)[0])


def main() -> None:
    """Fit and report."""
    xs, ys, of = [], [], []
    files = {"jpeg": JpegFile(format="jpeg"), "webp": WebpFile(format="webp"), "avif": AvifFile(format="avif")}
    for number, picture in enumerate(pictures()):
        own = _planes(seen(picture))
        for name, qualities in QUALITIES.items():
            for quality in qualities:
                other = decoded(encode(picture, files[name], quality=quality))
                xs.append(features(own, _planes(seen(other))))
                ys.append(reference(picture, Picture(seen(other), "RGB", False, None)))
                of.append(number)
    x, y, number_of = np.array(xs), np.array(ys), np.array(of)
    errors = []
    for left_out in range(number_of.max() + 1):
        rest = number_of != left_out
        found = 100 - np.sqrt(x[~rest] @ fitted(x[rest], y[rest]))
        errors += list(zip(found - y[~rest], y[~rest], strict=True))
    high = np.array([error for error, wanted in errors if wanted > 75])
    print(f"left out, above 75: rms {high.std():.2f}, mean {high.mean():+.2f}, {high.min():+.2f} to {high.max():+.2f}")
    print(np.array2string(fitted(x, y), separator=", ", precision=3, suppress_small=True))


if __name__ == "__main__":
    main()
