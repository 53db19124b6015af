"""Tone: a photo's own light and color, which all of its renditions follow."""

from tray_core.tone.model import NEUTRAL, Tone, check_tone, tone_schema

__all__ = ["NEUTRAL", "Tone", "check_tone", "tone_schema"]
