"""What becomes of a file at an outlet: taken or refused, and treated as the outlet's sheet says."""

from tray_core.intake.facts import file_facts
from tray_core.intake.treating import Served, copies_of, treat

__all__ = ["Served", "copies_of", "file_facts", "treat"]
