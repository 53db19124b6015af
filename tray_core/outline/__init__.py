"""Outlines: the edge of an object on a plain ground, as closed curves that belong to the photo."""

from tray_core.outline.curves import Contours, area_of, contours_of
from tray_core.outline.model import NO_OUTLINE, Node, Outline, check_outline, outline_schema
from tray_core.outline.paths import path_data, pdf_clip, svg_document
from tray_core.outline.traced import Traced, traced, traced_from_json

__all__ = [
    "NO_OUTLINE",
    "Contours",
    "Node",
    "Outline",
    "Traced",
    "area_of",
    "check_outline",
    "contours_of",
    "outline_schema",
    "path_data",
    "pdf_clip",
    "svg_document",
    "traced",
    "traced_from_json",
]
