"""What people see of a served file, against the ideal: the photo rendered at the display's own pixels, never coded."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np

from tray_core.intake.treating import cut_to
from tray_core.outlets.geometry import cut_size, fitted
from tray_core.outlets.sheet import Use
from tray_core.photo import read_facts
from tray_core.pixels.color import flatten, to_8, to_rgb_channels, to_srgb
from tray_core.pixels.decode import decode
from tray_core.pixels.picture import Picture
from tray_core.recipe import Recipe, check_recipe
from tray_core.rehearsal.variants import scaled
from tray_core.weight.score import Scorer


def ideal_recipe(recipe: Recipe, use: Use, native: tuple[int, int]) -> Recipe:
    """The recipe with the pixels of the screen that it is seen on. native: as the recipe makes them."""
    plain = recipe.to_json()
    if use.seen is not None:
        shown = fitted_after_cut(native, use)
        scaled(plain, shown)
    plain["color"] = {"profile": "srgb"}
    plain.get("parts", {}).pop("color", None)
    return check_recipe(plain)


def fitted_after_cut(native: tuple[int, int], use: Use) -> float:
    """Times `native`, so that what the intake leaves of it just fills the box in which it is seen."""
    assert use.seen is not None
    width, height = cut_size(native, use.intake.crop)
    return min(8.0, max(0.02, min(use.seen[0] / width, use.seen[1] / height)))


class Ideal:
    """The ideal of one photo and use; scores what is served against it. picture: as `ideal_recipe` makes it."""

    def __init__(self, picture: Picture, use: Use) -> None:
        plain = to_rgb_channels(to_8(to_srgb(picture)))
        plain = flatten(plain) if plain.alpha else plain
        cut = cut_to(plain, use.intake.crop)
        self.size = fitted(cut.size, use.seen)
        self.picture = _shown(cut, self.size)
        self._scorer = Scorer(self.picture)

    def score(self, served: bytes) -> float:
        """How much like the ideal a served file looks at the display's pixels; 100 for no difference. A browser
        understands its profile and scales it.
        """
        facts = read_facts("served", data=served)
        picture = to_rgb_channels(to_8(to_srgb(decode(facts, served, (facts.width, facts.height)))))
        picture = flatten(picture) if picture.alpha else picture
        return self._scorer.score(_shown(picture, self.size))


def _shown(picture: Picture, size: tuple[int, int]) -> Picture:
    """Scaled as browsers do: by area where it shrinks, bilinear where it grows."""
    if picture.size == size:
        return replace(picture, icc=None)
    how = cv2.INTER_AREA if picture.size[0] > size[0] else cv2.INTER_LINEAR
    pixels = cv2.resize(np.ascontiguousarray(picture.pixels), size, interpolation=how)
    return Picture(pixels, "RGB", False, None)
