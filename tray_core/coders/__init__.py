"""Coders: from a finished picture to the bytes of a file, with its profile inside. Same picture, same bytes."""

from tray_core.coders.encode import Encoded, coded, encode

__all__ = ["Encoded", "coded", "encode"]
