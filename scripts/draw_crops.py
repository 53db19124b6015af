"""Draw the crops that are taken of photographs, for looking at: python scripts/draw_crops.py OUT.png [PHOTO ...]

Without photos, the marked ones of `bench accuracy` are drawn. A row a photograph: with its heads (round), its one thing
and what was marked by hand (dashed light), then its crops in four shapes. Crops that ask for an eye have a bar below.
"""

from __future__ import annotations

import sys
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageOps

from bench.accuracy.marked import DEMO, OTHERS, SHAPES, upright, window
from tray_core.line.interest import interest_of
from tray_core.photo.interest import Box
from tray_core.plan.interest import best_start

_HIGH, _GAP, _COPY = 150, 8, 960
_ROOM, _HEAD, _THING, _MARK, _ASKS = "#c6c6c3", "#0c6b60", "#8a5a00", "#ffffff", "#a3261c"


def _copy(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    scale = min(1.0, _COPY / max(pixels.shape))
    return np.asarray(cv2.resize(pixels, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA), np.uint8)


def _row(pixels: NDArray[np.uint8], mark: Box | None) -> Image.Image:
    image = Image.fromarray(pixels)
    size, found = image.size, interest_of(pixels)
    drawn = ImageDraw.Draw(image)
    boxes = [(_HEAD if each.kind == "head" else _THING, each.box) for each in found.subjects]
    for color, box in [*boxes, *([(_MARK, mark)] if mark else [])]:
        drawn.rectangle(
            [box[0] * size[0], box[1] * size[1], box[2] * size[0], box[3] * size[1]], outline=color, width=5
        )
    row = [image]
    for ratio in SHAPES.values():
        share = ratio * size[1] / size[0]
        start = best_start(found, 0 if share < 1 else 1, round(min(share, 1 / share), 6))
        shown = window(ratio, size, start.at)
        crop = Image.fromarray(pixels).crop(tuple(round(shown[i] * size[i % 2]) for i in range(4)))
        if start.cuts:
            ImageDraw.Draw(crop).rectangle([0, crop.height * 0.95, crop.width, crop.height], fill=_ASKS)
        row.append(crop)
    fitted = [each.resize((max(1, round(each.width * _HIGH / each.height)), _HIGH)) for each in row]
    made = Image.new("RGB", (sum(each.width + _GAP for each in fitted), _HIGH + _GAP), _ROOM)
    left = 0
    for each in fitted:
        made.paste(each, (left, 0))
        left += each.width + _GAP
    return made


def main() -> None:
    """Draw."""
    marks = {**DEMO, **OTHERS}
    if sys.argv[2:]:
        rows = []
        for path in sys.argv[2:]:
            with Image.open(path) as image:
                rows.append(_row(_copy(np.asarray(ImageOps.exif_transpose(image).convert("RGB"))), None))
    else:
        rows = [_row(_copy(upright(name)), box) for name, box in marks.items()]
    sheet = Image.new("RGB", (max(each.width for each in rows), sum(each.height for each in rows)), _ROOM)
    top = 0
    for each in rows:
        sheet.paste(each, (0, top))
        top += each.height
    sheet.save(Path(sys.argv[1]))


if __name__ == "__main__":
    main()
