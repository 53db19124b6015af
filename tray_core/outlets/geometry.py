"""Sizes at an outlet: what is left of a picture that is cut to a shape and made to fit a box. In whole pixels."""

from __future__ import annotations

from tray_core.recipe.outlet import ratio_of


def cut_size(size: tuple[int, int], shape: str | None) -> tuple[int, int]:
    """The largest part of a picture that has a shape; all of it for None."""
    if shape is None:
        return size
    (width, height), ratio = size, ratio_of(shape)
    return max(1, min(width, round(height * ratio))), max(1, min(height, round(width / ratio)))


def fitted(size: tuple[int, int], box: tuple[int, int] | None) -> tuple[int, int]:
    """A size made to lie inside `box`, never enlarged."""
    if box is None:
        return size
    scale = min(1.0, box[0] / size[0], box[1] / size[1])
    return max(1, round(size[0] * scale)), max(1, round(size[1] * scale))
