"""What in a photo must be seen: how interesting it is along both edges, and the heads and things that stay whole."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Box = tuple[float, float, float, float]
"""(left, top, right, bottom) in shares of a photo's edges, 0..1."""


@dataclass(frozen=True, slots=True)
class Subject:
    """What a crop must not cut. kind: a head of a person, or the one thing that stands out."""

    kind: Literal["head", "thing"]
    box: Box


@dataclass(frozen=True, slots=True)
class Interest:
    """across, down: interest along the width and along the height, in equal steps, 0..255 each."""

    across: bytes
    down: bytes
    subjects: tuple[Subject, ...] = ()
