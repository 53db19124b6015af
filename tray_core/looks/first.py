"""A first look at camera raw before it is developed: the small picture that the camera put beside its data."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from tray_core.apart.client import ask
from tray_core.coders import encode
from tray_core.limits import DEFAULT_LIMITS, Limits
from tray_core.line.resize import resize
from tray_core.photo.facts import read_bytes, read_facts
from tray_core.pixels.color import flatten, to_8, to_srgb
from tray_core.pixels.decode import decode
from tray_core.pixels.picture import Picture
from tray_core.pixels.scale import RAW
from tray_core.recipe.file import JpegFile


def first_look(file: Path, edge: int, limits: Limits = DEFAULT_LIMITS) -> bytes | None:
    """A JPEG in sRGB, upright, `edge` pixels long at most, of what the camera made; None where the file holds none.

    PhotoError where the file, or the picture in it, cannot be read.
    """
    answer = ask("preview", RAW, str(file), read_bytes(file, limits), limits)
    if not (data := bytes(answer.parts[0])):
        return None
    facts = read_facts(file, limits, data)
    scale = min(1.0, edge / max(facts.width, facts.height))
    size = max(1, round(facts.width * scale)), max(1, round(facts.height * scale))
    picture = to_8(to_srgb(flatten(resize(decode(facts, data, size, limits=limits), *size))))
    # Cameras turn their pictures by a tag of its own, or not at all, and then the raw data say how.
    turns = 0 if facts.orientation > 1 else answer.head["turns"]
    pixels = np.ascontiguousarray(np.rot90(picture.pixels, turns))
    return encode(Picture(pixels, picture.space, False, picture.icc), JpegFile(format="jpeg", quality=88))
