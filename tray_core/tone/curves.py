"""The arithmetic of a tone: gains of linear light, and one curve of lightness that never falls.

Order of operations, all in linear light of the photo's own primaries, after camera raw was developed with its balance
and without its noise:

0. vignette: light at r times half the diagonal from the middle is multiplied by (1 + c r^2)^2, the inverse of a lens's
   natural fall to the second order (cos^4), with c so that the corners gain 1.5 EV at 100.
1. exposure and white balance: gains of red, green and blue (von Kries, in the photo's primaries). Temperature t moves
   red by 2^(t / 100) and blue by the inverse, tint u green by 2^(-u / 100); all three are scaled so that the
   luminance of a grey stays.
2. lightness: luminance Y is taken through one curve of y = Y^(1 / 2.2), and all three channels by the same factor, so
   that hues stay. The curve is, one after the other: recovery, t / (1 + t (1 - 1 / T)) of the distances t from a knee
   to white, where T is that of the lightest that is to be kept: a slope of 1 at the knee, and T at white; the ends,
   y1 = (y - b) / (w - b) with b = black / 400 and w = 1 - white / 400; dark tones, + d y (1 - y)^2; light tones,
   + l y^2 (1 - y), with d and l 0.945 at 100; contrast, powers around middle grey m = 0.46, m (y / m)^k below and
   1 - (1 - m) ((1 - y) / (1 - m))^k above, k = 2^(contrast / 100); the points, by monotone cubic interpolation
   (Fritsch and Carlson, 1980).
3. local contrast: luminance in powers of two, less the same smoothed by a guided filter with itself as the guide (He,
   Sun and Tang, 2010), which keeps edges; what is left is added again, 0.8 times at 100.
4. saturation: the distance from luminance, by 1 + saturation / 100 for all colors; muted ones by up to as much again,
   the less the more saturated they are, a quarter of it for the hues of skin.
"""

from __future__ import annotations

import functools

import numpy as np
from numpy.typing import NDArray

from tray_core.tone.model import HEADROOM, Tone

GAMMA = 2.2
MIDDLE = 0.46
"""Middle grey, 18 % of white, on the encoded scale."""

_KNEE = 0.45
"""How far below white recovery begins to press light together, at 100, on the encoded scale."""

_CORNER = 1.5
"""EV that the corners gain by a vignette of 100."""

MOST = 2.0
"""The encoded lightness up to which curves are told: 4.6 times white."""

STEPS = 16384
"""Of tables over the square root of linear light."""

Values = NDArray[np.float64]


def gains_of(tone: Tone, weights: tuple[float, float, float] | Values) -> Values:
    """The factors of linear red, green and blue. weights: of luminance, which sum up to 1."""
    warm = tone.temperature / 100
    gains = np.array([2.0**warm, 2.0 ** (-tone.tint / 100), 2.0**-warm])
    found: Values = gains / float(np.asarray(weights) @ gains) * 2.0**tone.exposure
    return found


def balanced_by(linear: Values) -> tuple[int, int]:
    """(temperature, tint) that make a patch of this mean linear red, green and blue grey, as far as they reach."""
    red, green, blue = np.maximum(np.asarray(linear, np.float64), 1e-6)
    warm = 0.5 * np.log2(blue / red)
    tint = np.log2(green / red) - warm
    return int(np.clip(round(100 * warm), -100, 100)), int(np.clip(round(100 * tint), -100, 100))


def lightness(tone: Tone, y: Values) -> Values:
    """The curve: encoded lightness from 0 to MOST, to encoded lightness from 0 to 1. Never falls."""
    black, white = tone.black / 400, 1 - tone.white / 400
    made = np.clip((_recovered(tone.recover / 100, y) - black) / (white - black), 0, 1)
    made = made + 0.945 * tone.dark / 100 * made * (1 - made) ** 2
    made = made + 0.945 * tone.light / 100 * made**2 * (1 - made)
    if tone.contrast:
        power = 2.0 ** (tone.contrast / 100)
        below = MIDDLE * (np.minimum(made, MIDDLE) / MIDDLE) ** power
        above = 1 - (1 - MIDDLE) * ((1 - np.maximum(made, MIDDLE)) / (1 - MIDDLE)) ** power
        made = np.where(made < MIDDLE, below, above)
    return _through(tone.curve, made) if tone.curve else made


def _recovered(amount: float, y: Values) -> Values:
    """What lies between a knee and as much above white as `amount` says, between the knee and white."""
    if not amount:
        return y
    knee = 1 - _KNEE * amount
    most = (1 + amount * (HEADROOM ** (1 / GAMMA) - 1) - knee) / (1 - knee)
    above = np.clip((y - knee) / (1 - knee), 0, most)
    return np.where(y > knee, knee + (1 - knee) * above / (1 + above * (1 - 1 / most)), y)


def falling_by(tone: Tone) -> float:
    """The c of the vignette's (1 + c r^2)^2."""
    return float(2.0 ** (_CORNER * tone.vignette / 200) - 1)


def _through(points: tuple[tuple[float, float], ...], values: Values) -> Values:
    """Monotone cubic interpolation through points, from black to white."""
    whole = [*((0.0, 0.0),) * (points[0][0] > 0), *points, *((1.0, 1.0),) * (points[-1][0] < 1)]
    x, y = (np.array(axis) for axis in zip(*whole, strict=True))
    steps = np.diff(y) / np.diff(x)
    slopes = np.concatenate([steps[:1], (steps[:-1] + steps[1:]) / 2, steps[-1:]])
    slopes[1:-1][(steps[:-1] <= 0) | (steps[1:] <= 0)] = 0
    for i, step in enumerate(steps):
        if step == 0:
            slopes[i : i + 2] = 0
        elif (length := float(np.hypot(slopes[i], slopes[i + 1]) / step)) > 3:
            slopes[i : i + 2] *= 3 / length
    at = np.clip(np.searchsorted(x, values, side="right") - 1, 0, len(x) - 2)
    width = x[at + 1] - x[at]
    t = (values - x[at]) / width
    found: Values = (
        (1 + 2 * t) * (1 - t) ** 2 * y[at]
        + t * (1 - t) ** 2 * width * slopes[at]
        + t * t * (3 - 2 * t) * y[at + 1]
        + t * t * (t - 1) * width * slopes[at + 1]
    )
    return np.clip(found, 0, 1)


@functools.lru_cache(maxsize=32)
def factors(tone: Tone) -> NDArray[np.float32]:
    """What linear light of a luminance is multiplied with: over its square root from 0 to 2."""
    root = (np.arange(STEPS) + 0.5) * (2 / STEPS)
    luminance = root**2
    made = lightness(tone, np.minimum(luminance ** (1 / GAMMA), MOST)) ** GAMMA
    return np.minimum(made / luminance, 64).astype(np.float32)
