"""Where to slide a crop so that it keeps what is interesting. The measure itself is in `photo.interest`."""

from __future__ import annotations

import functools
import itertools


@functools.lru_cache(maxsize=65536)
def best_start(profile: bytes, share: float) -> float:
    """The start, 0..1-share, of the window that holds most of a profile.

    profile: interest along one edge of the photo, in equal steps, 0..255 each. share: the window's
    part of the edge, 0..1. Of windows that hold the same, the one nearest the middle is taken; a profile of
    nothing gives the middle.
    """
    steps = len(profile)
    sums = [0, *itertools.accumulate(profile)]

    def held(at: float) -> float:
        place = at * steps
        whole = min(int(place), steps - 1)
        return sums[whole] + (place - whole) * profile[whole]

    room = 1 - share
    middle = room / 2
    tries = [room * i / (4 * steps) for i in range(4 * steps + 1)]
    # What is held at the rim counts a little less than in the middle, as it does for those who look.
    bonus = max(sums[-1], 1) / 16 / max(middle, 1e-9)
    return min(tries, key=lambda start: held(start) - held(start + share) + bonus * abs(start - middle))
