"""The line: from a photo's bytes through the stations to finished files."""

from tray_core.line.line import ENGINE, Outcome, content_digest, fingerprint, make_renditions, work

__all__ = ["ENGINE", "Outcome", "content_digest", "fingerprint", "make_renditions", "work"]
