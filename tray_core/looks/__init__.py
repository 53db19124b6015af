"""Close looks: a cell at its own pixels, and parts of it as lossless files that browsers show."""

from tray_core.looks.candidates import as_candidate
from tray_core.looks.cells import Resized, finished_cell, resize_cell
from tray_core.looks.colors import ColorChange, color_change, colored
from tray_core.looks.windows import difference, guarded, shown, window

__all__ = [
    "ColorChange",
    "Resized",
    "as_candidate",
    "color_change",
    "colored",
    "difference",
    "finished_cell",
    "guarded",
    "resize_cell",
    "shown",
    "window",
]
