"""Decoders of formats that are large and seldom, each in a process of its own.

A hostile file can take that process down, keep it busy or fill its memory; it is ended then, and the photo's error
says so. The worker and its other photos are not touched.
"""

from tray_core.apart.client import Answer, ask

__all__ = ["Answer", "ask"]
