"""Outlines as path data of SVG, and in the words of a PDF's page."""

from __future__ import annotations

import re
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from tray_core.outline.curves import Contours
from tray_core.outline.model import Outline

Placed = Callable[[NDArray[np.float64]], NDArray[np.float64]]
"""Where points (points x 2) of the photo lie in the rendition, in pixels: a turn, a scale and a move at most."""

_OFF = 0.2
"""Pixels by which a simplified polygon may be off."""

_PDF = {"M": "m", "L": "l", "C": "c", "Z": "h"}


def path_data(outline: Outline, contours: Contours, photo: tuple[int, int], placed: Placed) -> str:
    """Path data (SVG 1.1, 8.3) of an outline, to be filled by the even-odd rule, with hundredths of a pixel.

    contours: of the outline, in pixels of the photo. Its curves are kept where nothing smoothed or grew them.
    """
    if outline.smooth or outline.grow:
        return " ".join(_polygon(placed(_simplified(each, _OFF))) for each in contours if len(each) > 2)
    scale = np.array(photo, np.float64)
    said = []
    for path in outline.paths:
        said.append(f"M{_pairs(placed(np.array([path[0].at]) * scale))}")
        for node, after in zip(path, (*path[1:], path[0]), strict=True):
            if node.behind is None and after.before is None:
                if after is not path[0]:
                    said.append(f"L{_pairs(placed(np.array([after.at]) * scale))}")
                continue
            curve = np.array([node.behind or node.at, after.before or after.at, after.at])
            said.append(f"C{_pairs(placed(curve * scale))}")
        said.append("Z")
    return " ".join(said)


def _pairs(points: NDArray[np.float64]) -> str:
    return " ".join(f"{x:.2f} {y:.2f}" for x, y in points)


def _polygon(points: NDArray[np.float64]) -> str:
    return f"M{_pairs(points[:1])} L{_pairs(points[1:])} Z"


def _simplified(points: NDArray[np.float64], off: float) -> NDArray[np.float64]:
    """The points that a polygon needs to be off by no more (Douglas and Peucker, 1973)."""
    keep = np.zeros(len(points), bool)
    half = len(points) // 2
    keep[[0, half, len(points) - 1]] = True
    parts = [(0, half), (half, len(points) - 1)]
    while parts:
        first, last = parts.pop()
        if last - first < 2:
            continue
        chord = points[last] - points[first]
        way = points[first + 1 : last] - points[first]
        length = float(np.hypot(*chord))
        far = np.abs(way[:, 0] * chord[1] - way[:, 1] * chord[0]) / length if length > 1e-9 else np.hypot(*way.T)
        worst = int(far.argmax())
        if far[worst] > off:
            keep[first + 1 + worst] = True
            parts += [(first, first + 1 + worst), (first + 1 + worst, last)]
    return points[keep]


def svg_document(data: str, size: tuple[int, int], name: str) -> bytes:
    """An SVG file of (width, height) pixels with nothing but the path."""
    title = re.sub(r"[<>&\"\x00-\x1f]", "", name) or "Outline"
    width, height = size
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}" viewBox="0 0 {width} {height}">'
        f'<title>{title}</title><path fill-rule="evenodd" d="{data}"/></svg>\n'
    ).encode()


def pdf_clip(data: str, size: tuple[int, int], page: tuple[float, float]) -> str:
    """Path data of a picture of (width, height) pixels as a clipping path of a page of (width, height) points, which is
    closed again by Q (ISO 32000-1, 8.5.4).
    """
    across, down = page[0] / size[0], page[1] / size[1]
    said = [f"q {across:.6f} 0 0 {-down:.6f} 0 {page[1]:.4f} cm"]
    for verb, numbers in re.findall(r"([MLCZ])([^MLCZ]*)", data):
        values = numbers.split()
        count = {"M": 2, "L": 2, "C": 6, "Z": 0}[verb]
        if not count:
            said.append("h")
        else:
            said += [f"{' '.join(values[i : i + count])} {_PDF[verb]}" for i in range(0, len(values), count)]
    # The clipping stays, the unit goes back to points.
    return "\n".join([*said, "W* n", f"{1 / across:.6f} 0 0 {-1 / down:.6f} 0 {size[1]} cm"])
