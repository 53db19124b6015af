"""Contradictions in the settings, found when the server starts."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.checks import CheckMessage, Error, Warning, register

from server.project.conf import conf
from tray_core.readers.sandbox import landlock_version


def _inside(path: Path, other: Path) -> bool:
    return path == other or other in path.parents


@register()
def check_demo(**_: Any) -> list[CheckMessage]:
    """The demo is for whoever sits at this machine: its password lies in a file."""
    named = set(conf.hosts.split(",")) - {"localhost", "127.0.0.1", "[::1]"}
    if conf.demo and named:
        return [
            Error(
                f"The demo is on and the server answers to {', '.join(sorted(named))}.",
                hint="Leave UPPER_TRAY_HOSTS alone in the demo, or set UPPER_TRAY_DEMO=0.",
                id="upper_tray.E001",
            )
        ]
    return []


@register("database")
def check_output(databases: Any = None, **_: Any) -> list[CheckMessage]:
    """Renditions below a folder of originals would be read as photos the next time."""
    from django.db import DatabaseError

    from server.studios.models import Root

    if not databases:
        return []
    try:
        roots = list(Root.objects.all())
    except DatabaseError:
        return []  # not migrated yet
    output = conf.output_root.resolve()
    return [
        Warning(
            f"The output root {output} lies below the folder {root.name} of originals.",
            hint="Set UPPER_TRAY_OUTPUT to a folder of its own.",
            id="upper_tray.W001",
        )
        for root in roots
        if _inside(output, root.folder)
    ]


@register()
def check_sandbox(**_: Any) -> list[CheckMessage]:
    """Decoders are shut in by the kernel, where it can."""
    if landlock_version():
        return []
    return [
        Warning(
            "This kernel has no Landlock: decoders of photos may read what the server may read.",
            hint="Use Linux 5.13 or later with Landlock, or run the server as a user who can read nothing else.",
            id="upper_tray.W002",
        )
    ]
