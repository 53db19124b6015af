"""The line: from a photo's bytes through the stations to finished files."""

from tray_core.line.line import Outcome, encode_ahead, make_renditions
from tray_core.line.preview import look_at, preview, read_interest
from tray_core.line.ready import get_ready
from tray_core.line.working import work

__all__ = ["Outcome", "encode_ahead", "get_ready", "look_at", "make_renditions", "preview", "read_interest", "work"]
