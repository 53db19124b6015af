"""Tone: a photo's own light and color, which all of its renditions follow."""

from tray_core.tone.looks import NO_LOOKS, Look, check_looks, looks_to_json
from tray_core.tone.model import NEUTRAL, Development, Tone, check_tone, tone_schema

__all__ = [
    "NEUTRAL",
    "NO_LOOKS",
    "Development",
    "Look",
    "Tone",
    "check_looks",
    "check_tone",
    "looks_to_json",
    "tone_schema",
]
