"""Close looks: a cell at its own pixels, and parts of it as lossless files that browsers show."""

from tray_core.looks.candidates import as_candidate
from tray_core.looks.cells import Resized, copies_of, finished_cell, resize_cell
from tray_core.looks.colors import ColorChange, color_change, colored
from tray_core.looks.first import first_look
from tray_core.looks.hands import Hands
from tray_core.looks.outlines import outline_in, picture_of
from tray_core.looks.small import previews
from tray_core.looks.windows import difference, guarded, shown, window

__all__ = [
    "ColorChange",
    "Hands",
    "Resized",
    "as_candidate",
    "color_change",
    "colored",
    "copies_of",
    "difference",
    "finished_cell",
    "first_look",
    "guarded",
    "outline_in",
    "picture_of",
    "previews",
    "resize_cell",
    "shown",
    "window",
]
