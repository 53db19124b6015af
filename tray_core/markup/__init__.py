"""Markup for finished files: the same pictures, for one place in a page, at several widths and in several formats."""

from tray_core.markup.picture import Drawn, Piece, as_html, as_json, pictures

__all__ = ["Drawn", "Piece", "as_html", "as_json", "pictures"]
