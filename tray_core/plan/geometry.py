"""Sizes in whole pixels. Integer arithmetic only, so that what is planned is what is made."""

from __future__ import annotations

from tray_core.recipe.stations import BoxSize, EdgeSize


def scaled(other: int, asked: int, edge: int) -> int:
    """The other edge when `edge` becomes `asked`: other * asked / edge, rounded half up, at least 1."""
    return max(1, (2 * other * asked + edge) // (2 * edge))


def target_size(width: int, height: int, size: EdgeSize | BoxSize | None) -> tuple[int, int]:
    """The (width, height) of a rendition of an upright photo of width x height pixels (all >= 1).

    The edge asked for is exact, the other follows the shape. A photo that would have to be enlarged
    keeps its own size.
    """
    if size is None:
        return width, height
    if isinstance(size, BoxSize):
        # The edge that meets the box first is the one asked for; compared as fractions, without division.
        by_width = size.width * height <= size.height * width
        edge, asked = (width, size.width) if by_width else (height, size.height)
    else:
        match size.by:
            case "width":
                by_width = True
            case "height":
                by_width = False
            case "long-edge":
                by_width = width >= height
            case "short-edge":
                by_width = width <= height
        edge, asked = (width if by_width else height), size.pixels
    if asked >= edge:
        return width, height
    return (asked, scaled(height, asked, width)) if by_width else (scaled(width, asked, height), asked)


def would_enlarge(width: int, height: int, size: EdgeSize | BoxSize | None) -> bool:
    """Whether reaching the size asked for would need more pixels than the photo has."""
    if size is None:
        return False
    if isinstance(size, BoxSize):
        return width < size.width and height < size.height
    edges = {"width": width, "height": height, "long-edge": max(width, height), "short-edge": min(width, height)}
    return edges[size.by] < size.pixels
