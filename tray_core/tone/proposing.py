"""A tone proposed from the picture itself, for a person to change. Never applied by itself."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from tray_core.tone.curves import GAMMA, MIDDLE, balanced_by, gains_of
from tray_core.tone.model import Tone

_POWER = 6
_MOST_EV = 2.0
_MOST_CAST = 45
_LOST = 0.3
"""Per cent of the picture that may be lost at either end."""


def proposed(linear: NDArray[np.float64], weights: tuple[float, float, float]) -> Tone:
    """Exposure, ends and white balance for a picture. linear: n x 3 values of a small average, 0..1, in linear light.

    White balance makes the Minkowski means (p = 6) of the channels equal (Finlayson and Trezzi, 2004), half of the
    way. Exposure brings the middle lightness half of the way to middle grey, and the lightest parts no further than
    white. The ends then come as close as 0.3 per cent of the picture allow, the dark one most of the way.
    """
    means = np.power(np.mean(np.power(np.maximum(linear, 1e-5), _POWER), axis=0), 1 / _POWER)
    warm, tint = (int(np.clip(round(each / 2), -_MOST_CAST, _MOST_CAST)) for each in balanced_by(means))
    cast = Tone(temperature=warm, tint=tint)
    light = (linear * gains_of(cast, np.asarray(weights))) @ np.asarray(weights)
    middle = max(1e-4, float(np.median(light)))
    highest = max(1e-3, float(np.quantile(light, 1 - _LOST / 100)))
    exposure = min(0.5 * math.log2(MIDDLE**GAMMA / middle), math.log2(1 / highest) + 0.3)
    exposure = round(float(np.clip(exposure, -_MOST_EV, _MOST_EV)), 2)
    y = np.power(light * 2.0**exposure, 1 / GAMMA)
    low, high = float(np.quantile(y, _LOST / 100)), float(np.quantile(y, 1 - _LOST / 100))
    black, white = int(np.clip(320 * low, 0, 60)), int(np.clip(400 * (1 - high), -60, 60))
    return Tone(exposure=exposure, temperature=warm, tint=tint, black=black, white=white)
