"""Photos: finding them, telling what they are, naming their colors."""

from tray_core.limits import DEFAULT_LIMITS, Limits
from tray_core.photo.facts import PhotoFacts, read_bytes, read_facts
from tray_core.photo.find import find_photos

__all__ = ["DEFAULT_LIMITS", "Limits", "PhotoFacts", "find_photos", "read_bytes", "read_facts"]
