"""Tracing: the outline of an object on a plain ground, found in its pixels."""

from tray_core.tracing.finding import LARGEST, Found, find_outline, plain_ground

__all__ = ["LARGEST", "Found", "find_outline", "plain_ground"]
