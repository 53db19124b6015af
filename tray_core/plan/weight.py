"""How heavy a rendition will be, before it is made: an honest guess, to be called "about".

What a picture weighs depends on how much detail it has, by a factor of ten between plain and busy ones, and coders take
detail differently: noise, edges, flat areas. So a photo is weighed when it is read: its two working copies are encoded
in a few ways (`line.probes`). A rendition weighs what the nearest of these ways weighed, moved to its size, quality,
sharpening and crop by what is usual; how much that is was measured on 31 pictures, as their mean.
"""

from __future__ import annotations

import functools
import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any, NamedTuple

from tray_core.plan.layout import Layout
from tray_core.plan.planning import Plan
from tray_core.recipe.file import AvifFile, JpegFile, Lossy, PdfFile, PngFile, TiffFile, WebpFile

COPY_EDGES = (960, 320)
"""Long edges in pixels of the copies that are weighed; less of smaller photos."""

EVERY_FILE = 650
"""Bytes of headers and tables that even an empty picture has."""

STEPS = 16
"""Length of the profiles of detail."""

# Bytes a pixel by quality, as logarithms against a JPEG of quality 84 in 4:2:0, at 320 pixels and not sharpened. Ends
# are continued by eye.
_USUAL: dict[str, tuple[tuple[int, float], ...]] = {
    "jpeg": (
        *((1, -2.4), (20, -1.31), (40, -0.862), (50, -0.705), (60, -0.562), (70, -0.372), (80, -0.133), (84, 0.0)),
        *((88, 0.159), (92, 0.352), (95, 0.604), (98, 0.937), (100, 1.25)),
    ),
    "jpeg-444": (
        *((1, -2.3), (20, -1.2), (40, -0.74), (60, -0.41), (84, 0.197), (90, 0.462), (92, 0.566)),
        *((95, 0.826), (98, 1.202), (100, 1.6)),
    ),
    "thorough": ((1, -2.6), (20, -1.55), (50, -0.954), (84, -0.179), (95, 0.44), (100, 1.2)),
    "webp": (
        *((1, -2.1), (20, -1.42), (40, -1.156), (50, -1.005), (60, -0.877), (70, -0.753), (80, -0.488)),
        *((85, -0.277), (90, -0.02), (95, 0.33), (100, 0.75)),
    ),
    "avif": ((1, -3.4), (20, -2.2), (40, -1.422), (45, -1.171), (50, -0.972), (54, -0.863), (100, 0.9)),
    "avif-444": (
        *((1, -3.4), (20, -2.15), (45, -1.143), (55, -0.772), (65, -0.459), (75, -0.136), (85, 0.12)),
        *((90, 0.391), (95, 0.754), (100, 1.25)),
    ),
    "png": ((0, 1.835),),
    "webp-lossless": ((0, 1.502),),
    "png-palette": ((0, 1.014),),
    "gif": ((0, 1.205),),
}

_OF_FAMILY = {
    "webp-lossless": "png",
    "png-palette": "png",
    "gif": "png",
    "jpeg-444": "jpeg",
    "thorough": "jpeg",
    "avif": "avif-444",
}
"""Whose change with scale a way shares, where it was not weighed at the large copy itself."""

_DEEP, _SHARP_COLOR, _FEWER_COLORS = math.log(2.6), 0.07, 1.5
_PROBES_DIFFER = {"thorough": -0.045, "png": -0.055, "webp-lossless": -0.13}
"""Copies are packed faster than files are, and the thorough coder gains with size."""

# Scores (SSIMULACRA 2.1) by quality, medians over 20 pictures.
_SCORES: dict[str, tuple[tuple[int, float], ...]] = {
    "jpeg": (
        *((20, 30.6), (30, 48.5), (40, 57.8), (50, 63.7), (60, 67.9), (70, 73.3), (80, 78.4), (85, 81.3)),
        *((90, 85.0), (93, 86.9), (96, 90.0), (98, 91.1)),
    ),
    "webp": (
        *((20, 45.5), (30, 52.2), (40, 57.8), (50, 62.5), (60, 67.0), (70, 71.0), (80, 76.3), (85, 79.8)),
        *((90, 84.0), (95, 88.5), (98, 90.5)),
    ),
    "avif-444": (
        *((20, 25.3), (30, 41.0), (40, 56.5), (50, 68.0), (60, 76.0), (70, 81.5), (80, 85.2), (85, 86.6)),
        *((90, 89.4), (93, 90.7), (98, 92.7)),
    ),
}

_SHARPER = 0.00072
"""Weight grows as its exponential for each per cent of sharpening; copies are weighed with 100."""

_LOWEST, _HIGHEST = 20, 98
"""What a search takes at the least and at the most."""

_STEEPEST, _SHALLOWEST = -1.2, 0.3
"""How detail a pixel changes with scale, as an exponent: more than this is an accident of two measurements."""

_ENLARGED = -1.5
"""The same beyond the photo's own pixels: there is next to nothing new there."""

_CLEARLY = 1.12
"""Forecasts are this near for nine of ten."""

_FILLED = {"blur": 0.1}
"""What a pixel beside the photo weighs, as a share of one of the photo; plain ones 0.01."""

_BY_DETAIL = 0.8
"""The weight of a part grows with this power of its share of detail."""


@dataclass(frozen=True, slots=True)
class Detail:
    """What was weighed of a photo.

    edges: long edges of its two copies in pixels. large, small: bytes a pixel without `EVERY_FILE` by way and quality
    ("webp 80"). scores: of the small copy. across, down: how fine it is along its edges, `STEPS` values of 0..255.
    """

    edges: tuple[int, int]
    large: Mapping[str, float]
    small: Mapping[str, float]
    scores: Mapping[str, float]
    across: tuple[int, ...] = ()
    down: tuple[int, ...] = ()

    def to_json(self) -> dict[str, Any]:
        """Plain values."""
        return {name: getattr(self, name) for name in self.__slots__}


USUAL = Detail((960, 320), {"jpeg 84": 0.101}, {"jpeg 84": 0.156}, {})
"""That of the demo's photographs, in the mean: for photos that nobody weighed."""


def detail_from_json(data: Mapping[str, Any] | Sequence[float] | None) -> Detail | None:
    """What `Detail.to_json` wrote; or two numbers, which is what older versions kept."""
    if data is None:
        return None
    if isinstance(data, Mapping):
        edges = (int(data["edges"][0]), int(data["edges"][1]))
        profiles = tuple(data["across"]), tuple(data["down"])
        return Detail(edges, data["large"], data["small"], data["scores"], *profiles)
    large, small = (each * math.exp(100 * _SHARPER) for each in data)
    return Detail(COPY_EDGES, {"jpeg 84": large}, {"jpeg 84": small}, {})


def way_of(file: object, quality: int) -> str:
    """Which of the ways that were measured a file station takes at a quality."""
    match file:
        case JpegFile() | PdfFile():
            chroma = getattr(file, "chroma", "auto")
            fine = chroma == "444" or (chroma == "auto" and quality >= 90)
            return "jpeg-444" if fine else "thorough" if getattr(file, "coder", "") == "thorough" else "jpeg"
        case WebpFile():
            return "webp-lossless" if file.lossless else "webp"
        case AvifFile():
            return "avif-444" if file.chroma == "444" or (file.chroma == "auto" and quality >= 55) else "avif"
        case PngFile():
            return "png" if file.colors is None else "png-palette"
        case TiffFile():
            return "png"  # the same lines, differenced and deflated
    return "gif"


class Forecast(NamedTuple):
    """A rendition's bytes, short of what is learned of a recipe. high: of its pixels at the quality wanted; low: at the
    lowest one allowed, where there is a limit of bytes; without one, 0 and infinite.
    """

    high: float
    low: float = 0.0
    limit: float = math.inf

    def bytes(self, correction: float = 1.0) -> int:
        """About how many bytes. correction: of all that the recipe makes, where that was learned."""
        high, low = (EVERY_FILE + correction * each for each in (self.high, self.low))
        return round(max(min(high, self.limit), low))


def may_exceed(found: Forecast) -> bool:
    """Whether a limit of bytes is likely to be below what the rendition weighs at its lowest quality."""
    return EVERY_FILE + found.low > _CLEARLY * found.limit


def is_rough(plan: Plan) -> bool:
    """Whether a forecast may be off by half and more, as for palettes (docs/accuracy.md)."""
    return plan.format == "gif" or getattr(plan.recipe.file, "colors", None) is not None


def forecast(plan: Plan, detail: Detail | None) -> Forecast:
    """What a rendition will weigh; under a limit where it can be met, or what its lowest quality weighs.

    detail: of the photo, as it was weighed; None where it was not. How near it comes: docs/accuracy.md.
    """
    if plan.own_bytes:
        return Forecast(max(0.0, plan.own_bytes - EVERY_FILE))
    file, known = plan.recipe.coded, detail or USUAL

    def at(quality: int) -> float:
        return plan.width * plan.height * _density(plan, known, quality)

    if not isinstance(file, Lossy) or getattr(file, "lossless", False):
        return Forecast(at(0))
    if file.looks is not None:
        return Forecast(at(_quality_for(file, file.looks, known)))
    if file.under_kb is not None:
        return Forecast(at(_HIGHEST), at(file.lowest or _LOWEST), file.under_kb * 1000)
    return Forecast(at(file.quality))


def about_bytes(plan: Plan, detail: Detail | None, correction: float = 1.0) -> int:
    """About how many bytes a rendition will have; see `forecast`."""
    return forecast(plan, detail).bytes(correction)


def _density(plan: Plan, detail: Detail, quality: int) -> float:
    """Bytes a pixel of the whole canvas."""
    recipe, layout = plan.recipe, plan.layout
    file, way = recipe.coded, way_of(recipe.coded, quality)
    scale = layout.scale
    edge = max(layout.source) * min(1.0, scale)
    logs = _by_way(detail, way, quality) + _drift(detail, way, edge)
    logs += _SHARPER * ((recipe.sharpen.strength if recipe.sharpen else 0) - 100)
    if way == "jpeg-444" and getattr(file, "coder", "") == "thorough":
        logs += _by_way(detail, "thorough", quality) - _by_way(detail, "jpeg", quality)
    if isinstance(file, WebpFile) and file.sharp_color and not file.lossless:
        logs += _SHARP_COLOR
    if way in ("png-palette", "gif"):
        logs += _FEWER_COLORS * math.log(math.log2(getattr(file, "colors", None) or 256) / 8)
    if recipe.color is not None and recipe.color.bits == 16:
        logs += _DEEP
    base = _base(detail, edge) * max(1.0, scale) ** _ENLARGED
    shown: float = math.exp(logs) * base * _share_of_detail(layout, detail)
    _, _, width, height = layout.inner
    photo = width * height / (layout.outer[0] * layout.outer[1])
    return shown * (photo + (1 - photo) * _FILLED.get(layout.fill, 0.01))


def _base(detail: Detail, edge: float) -> float:
    """Bytes a pixel of the photo as a JPEG of quality 84, at a long edge."""
    (large, small), slope = (each["jpeg 84"] for each in (detail.large, detail.small)), 0.0
    if detail.edges[0] > detail.edges[1] and large > 0 and small > 0:
        slope = math.log(large / small) / math.log(detail.edges[0] / detail.edges[1])
    found: float = large * (edge / detail.edges[0]) ** min(_SHALLOWEST, max(_STEEPEST, slope))
    return found


def _by_way(detail: Detail, way: str, quality: int) -> float:
    """Logarithm of a way's weight against the JPEG's, at the small copy: as usual, and as this photo differs."""
    apart = [
        (known, math.log(max(1e-6, detail.small[key] / detail.small["jpeg 84"])) - _between(_USUAL[way], known))
        for key, known in _known(tuple(detail.small), way)
    ]
    usual = _between(_USUAL[way], quality)
    return usual + (_between(apart, quality) + _PROBES_DIFFER.get(way, 0.0) if apart else 0.0)


def _drift(detail: Detail, way: str, edge: float) -> float:
    """How a way's weight against the JPEG's changes from the small copy to a long edge."""
    for name in (way, _OF_FAMILY.get(way, way)):
        for key, _ in _known(tuple(detail.large), name):
            if key in detail.small and detail.edges[0] > detail.edges[1] and name != "jpeg":
                ratios = [math.log(max(1e-6, each[key] / each["jpeg 84"])) for each in (detail.large, detail.small)]
                place = math.log(edge / detail.edges[1]) / math.log(detail.edges[0] / detail.edges[1])
                return (ratios[0] - ratios[1]) * min(1.5, max(0.0, place))
    return 0.0


@functools.lru_cache(maxsize=256)
def _known(keys: tuple[str, ...], way: str) -> tuple[tuple[str, int], ...]:
    """Keys of what was weighed in a way, with their qualities, rising."""
    found = [(key, int(key.rsplit(" ", 1)[1])) for key in keys if key.rsplit(" ", 1)[0] == way]
    return tuple(sorted(found, key=lambda each: each[1]))


def _quality_for(file: Lossy, looks: int, detail: Detail) -> int:
    """The quality that usually reaches a score, moved by how this photo's scores differ from the usual ones."""
    curve = _scores_of(file, detail)
    for (low, one), (high, other) in pairwise(curve):
        if other >= _apart(looks):
            share = (_apart(looks) - one) / (other - one)
            return round(max(file.lowest or _LOWEST, low + (high - low) * share))
    return _HIGHEST


def may_fall_short(plan: Plan, detail: Detail | None) -> bool:
    """Whether the look that a rendition is to have is likely to be beyond its format for this photo."""
    file = plan.recipe.coded
    if not isinstance(file, Lossy) or file.looks is None or detail is None or not detail.scores:
        return False
    return _scores_of(file, detail)[-1][1] < _apart(file.looks)


def _scores_of(file: Lossy, detail: Detail) -> list[tuple[int, float]]:
    """Scores by quality, made even, as they usually are, moved by how this photo's differ."""
    way = {"webp": "webp", "avif": "avif-444"}.get(file.format, "jpeg")  # type: ignore[attr-defined]
    curve = [(quality, _apart(score)) for quality, score in _SCORES[way]]
    apart = [_apart(detail.scores[key]) - _between(curve, known) for key, known in _known(tuple(detail.scores), way)]
    shift = sum(apart) / len(apart) if apart else 0.0
    return [(quality, value + shift) for quality, value in curve]


def _apart(score: float) -> float:
    """Rises evenly with quality, where scores crowd below 100."""
    return -math.log(max(0.5, 100.5 - score))


def _share_of_detail(layout: Layout, detail: Detail) -> float:
    """How much finer than the whole photo the part is that a layout shows, as a factor of its weight."""
    if not detail.across or layout.angle:
        return 1.0
    left, top, right, bottom = layout.box
    parts = ((detail.across, left, right, layout.source[0]), (detail.down, top, bottom, layout.source[1]))
    found = 1.0
    for profile, first, last, whole in parts:
        sums = _sums(tuple(profile))
        if sums[-1] > 0 and last > first:
            held = (_before(sums, last / whole) - _before(sums, first / whole)) * whole / (last - first)
            found *= max(0.05, held / sums[-1]) ** _BY_DETAIL
    return found


@functools.lru_cache(maxsize=4096)
def _sums(profile: tuple[int, ...]) -> tuple[int, ...]:
    """What a profile of detail adds up to, from its beginning to each of its steps."""
    return (0, *itertools.accumulate(profile))


def _before(sums: tuple[int, ...], at: float) -> float:
    """What it adds up to before a place, 0..1, between its steps, too."""
    steps = len(sums) - 1
    place = min(max(0.0, at), 1.0) * steps
    whole = min(int(place), steps - 1)
    return sums[whole] + (place - whole) * (sums[whole + 1] - sums[whole])


def _between(points: Sequence[tuple[float, float]], at: float) -> float:
    """Linear between known points, and as the nearest beyond them."""
    if at <= points[0][0]:
        return points[0][1]
    for (low, one), (high, other) in pairwise(points):
        if at <= high:
            return one + (other - one) * (at - low) / (high - low)
    return points[-1][1]
