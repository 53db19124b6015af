"""Loading the line's compiled code, which takes seconds that planning, or a page, need not wait for."""

from __future__ import annotations

from tray_core.pixels import compiled


def get_ready(rare: bool = False) -> None:
    """Load compiled code: a second of CPU time once in a process, and most of a minute when it was never
    compiled here.

    rare: what few recipes need, too; else it is loaded with the first picture of theirs.
    """
    from tray_core.line import barrier, resample, resample_integers, unsharp
    from tray_core.pixels import coverage, tones, values

    usual = (barrier, resample, resample_integers, unsharp, values)
    for module in (*usual, coverage, tones) if rare else usual:
        compiled.get_ready(vars(module))
