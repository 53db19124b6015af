"""Steps of recipes that stand further up than runs do: what does them is registered here, before any is done."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from server.runs.models import Rendition, Run

Step = dict[str, Any]
Way = Callable[[Run, list[Rendition], Step], list[Path]]

FROM_ABOVE: dict[str, Way] = {}
"""By what the step is to `do`."""


def does(step: str, way: Way) -> None:
    """Register what does a step; it raises TrayError for what a person can mend."""
    FROM_ABOVE[step] = way
