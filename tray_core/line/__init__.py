"""The line: from a photo's bytes through the stations to finished files."""

from tray_core.line.line import Outcome, make_renditions, work
from tray_core.line.preview import preview, read_interest, working_copies

__all__ = ["Outcome", "make_renditions", "preview", "read_interest", "work", "working_copies"]
