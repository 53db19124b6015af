"""Loading the line's compiled code, which takes seconds that planning, or a page, need not wait for."""

from __future__ import annotations


def get_ready() -> None:
    """Load all compiled code: some 2 s of CPU time once in a process, and 15 s when it was never compiled here."""
    from tray_core.line import barrier, resample, unsharp  # noqa: F401
    from tray_core.pixels import values  # noqa: F401
