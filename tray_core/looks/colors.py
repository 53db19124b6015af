"""What a recipe's color station does to a picture: in words, in numbers, marked on it."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from tray_core.line.working import goal_of
from tray_core.photo import PhotoFacts
from tray_core.photo.profiles import profile_name
from tray_core.pixels.color import TO_SRGB, beyond_gamut, needs_conversion, to_8, to_srgb
from tray_core.pixels.picture import Picture
from tray_core.plan.cautions import no_profile, taken_for
from tray_core.recipe import Recipe

FIT = 1400
"""Pixels of the long edge of a picture that is shown whole."""

_MARK = (230, 0, 160)


@dataclass(frozen=True, slots=True)
class ColorChange:
    """source, target: profile names, or what a photo without one is taken for. converts: whether values change.

    share: of the picture beyond the target's gamut, 0 to 1. warning: a sentence, or nothing.
    """

    source: str
    target: str
    converts: bool
    share: float
    warning: str


def color_change(facts: PhotoFacts, picture: Picture, recipe: Recipe) -> ColorChange:
    """What the conversion changes. picture: resized, before the color station."""
    goal = goal_of(recipe, picture)
    source = facts.profile or ("inks, taken on trust" if facts.mode == "CMYK" else "sRGB, taken on trust")
    converts = goal is not None and needs_conversion(picture, goal)
    beyond = beyond_gamut(picture, goal) if goal is not None and converts else None
    warning = ""
    if facts.profile is None and facts.format not in ("SVG", "PDF"):
        warning = f"The photo{no_profile(facts)} and is taken {taken_for(facts)}. Embed the right one if it is another."
    elif goal is None and facts.profile != "sRGB":
        warning = f"The rendition stays in {facts.profile}; where that is not understood, its colors look dull."
    return ColorChange(
        source=source,
        target=(profile_name(goal.icc) or "no profile") if goal is not None else source,
        converts=converts,
        share=float((beyond > 0).mean()) if beyond is not None else 0.0,
        warning=warning,
    )


def colored(before: Picture, after: Picture, recipe: Recipe, view: str) -> Picture:
    """A picture whole, for a screen: `before` or `after` its conversion, or `after` with what of `before` is beyond
    the gamut `marked`. Of 8 bits, with its own profile; marked without one.
    """
    made = fitted(before if view == "before" else after)
    made = to_8(to_srgb(made) if made.space == "CMYK" else made)
    if view != "marked":
        return made
    beyond = beyond_gamut(fitted(before), goal_of(recipe, before) or TO_SRGB)
    own = made.pixels if made.pixels.ndim == 3 else np.repeat(made.pixels[..., None], 3, axis=2)
    if beyond.shape == own.shape[:2]:
        own = own.copy()
        own[..., :3][beyond > 0] = _MARK
    return Picture(own, "RGB", made.alpha, None)


def fitted(picture: Picture) -> Picture:
    """The picture, made smaller where it is larger than a screen."""
    scale = min(1.0, FIT / max(picture.size))
    if scale == 1:
        return picture
    size = (max(1, round(picture.size[0] * scale)), max(1, round(picture.size[1] * scale)))
    pixels = cv2.resize(picture.pixels, size, interpolation=cv2.INTER_AREA)
    return Picture(pixels, picture.space, picture.alpha, picture.icc)
