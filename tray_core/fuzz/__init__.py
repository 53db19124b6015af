"""Hostile files in numbers: made from a seed, read, and expected to end as a picture or as an error of the tree."""

from tray_core.fuzz.run import Report, fuzz

__all__ = ["Report", "fuzz"]
