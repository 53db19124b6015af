"""Whether a profile can be used: a picture whose profile cannot is read without it, and says so."""

from __future__ import annotations

import functools
import struct

from tray_core.photo.profiles import DAMAGED, SRGB, read_profile, tags_of

_LCMS = {"RGB": ("rgb", 3), "grey": ("gray", 1), "CMYK": ("cmyk", 4)}


@functools.lru_cache(maxsize=256)
def profile_problem(icc: bytes, space: str, target: bool = False) -> str | None:
    """Why `icc` cannot be used for values of `space` (RGB, grey, CMYK), as the end of "The profile …"; None if it can.

    target: whether pictures are to be converted to it, not from it. Nothing is believed that was not tried: one
    pixel is converted.
    """
    facts = read_profile(icc)
    if facts is None:
        return "is not an ICC profile"
    (count,) = struct.unpack_from(">I", icc, 128)
    if len(tags_of(icc)) < min(count, 100):
        return "is cut short"
    if facts.description == DAMAGED:
        return "is damaged"
    if facts.space != space:
        return f"is for {facts.space} values, not for {space}"
    import imagecodecs  # here, since planning needs no imaging library
    import numpy as np

    name, channels = _LCMS[space]
    values = {
        name: np.zeros((1, 1, channels) if channels > 1 else (1, 1), np.uint16),
        "rgb": np.zeros((1, 1, 3), np.uint16),
    }
    source, goal = ("rgb", name) if target else (name, "rgb")
    try:
        imagecodecs.cms_transform(
            values[source],
            SRGB if target else icc,
            icc if target else SRGB,
            colorspace=source,
            outcolorspace=goal,
        )
    except Exception:  # the library raises anything; all of it means the same
        return "cannot be used"
    return None
