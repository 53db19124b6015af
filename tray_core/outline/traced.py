"""What plans need to know of an outline, without its curves."""

from __future__ import annotations

import functools
import hashlib
import json
from dataclasses import dataclass, field, replace
from typing import Any

from tray_core.outline.curves import Contours, area_of, box_of, contours_of
from tray_core.outline.model import Outline, check_outline
from tray_core.outline.paths import Placed, path_data


@dataclass(frozen=True, kw_only=True, slots=True)
class Traced:
    """An outline's place in its photo.

    box: (left, top, right, bottom) of the object in shares of the upright photo. area: of the object, as a share of the
    photo's. sure: as in `Outline`. digest: of its curves; outlines of one digest are the same. photo:
    (width, height) of the upright photo that it was traced on. curves: its plain values
    in JSON, where somebody has loaded them: pixels need them, plans do not.
    """

    box: tuple[float, float, float, float]
    area: float
    sure: bool
    digest: str
    photo: tuple[int, int]
    curves: str = field(default="", repr=False, compare=False)

    def to_json(self) -> dict[str, Any]:
        """Plain values without the curves."""
        return {
            "box": list(self.box),
            "area": self.area,
            "sure": self.sure,
            "digest": self.digest,
            "photo": list(self.photo),
        }

    def contours(self, size: tuple[int, int]) -> Contours:
        """The closed polygons in pixels of an upright photo of (width, height)."""
        across, down = size[0] / self.photo[0], size[1] / self.photo[1]
        return tuple(each * (across, down) for each in contours_of(_parsed(self.curves), self.photo))

    def loaded(self, curves: dict[str, Any]) -> Traced:
        """The same with its curves."""
        return replace(self, curves=json.dumps(curves))

    def path(self, placed: Placed) -> str:
        """Its path data in a rendition. placed: where points of the photo lie there."""
        outline = _parsed(self.curves)
        return path_data(outline, contours_of(outline, self.photo), self.photo, placed)


@functools.lru_cache(maxsize=32)
def _parsed(curves: str) -> Outline:
    return check_outline(json.loads(curves))


def traced(outline: Outline, size: tuple[int, int]) -> Traced | None:
    """What plans need to know of an outline of a photo of (width, height) pixels; None of an empty one."""
    if outline.empty:
        return None
    left, top, right, bottom = box_of(outline, size)
    width, height = size
    area = abs(sum(area_of(each) for each in contours_of(outline, size))) / (width * height)
    values = outline.to_json()
    curves = json.dumps({name: value for name, value in values.items() if name != "sure"}, sort_keys=True)
    return Traced(
        box=(left / width, top / height, right / width, bottom / height),
        area=area,
        sure=outline.sure,
        digest=hashlib.blake2b(curves.encode(), digest_size=16).hexdigest(),
        photo=size,
        curves=json.dumps(values),
    )


def traced_from_json(data: dict[str, Any]) -> Traced | None:
    """What `Traced.to_json` wrote, whatever else was noted beside it; None of nothing."""
    if not data:
        return None
    return Traced(
        box=tuple(data["box"]),
        area=data["area"],
        sure=data["sure"],
        digest=data["digest"],
        photo=tuple(data["photo"]),
    )
