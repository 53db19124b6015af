"""An independent reader and writer of metadata, which tests compare with."""

from __future__ import annotations

import json
import subprocess
from collections.abc import Mapping
from pathlib import Path
from typing import Any


def written(path: Path, tags: Mapping[str, str]) -> bytes:
    """The file at `path` after these tags were written into it."""
    given = [f"-{name}={value}" for name, value in tags.items()]
    subprocess.run(
        ["exiftool", "-q", "-charset", "iptc=utf8", "-sep", "; ", "-overwrite_original", *given, path], check=True
    )
    return path.read_bytes()


def read(*paths: Path) -> list[dict[str, Any]]:
    """All tags of each file by group and name, without those of the file system."""
    command = ["exiftool", "-json", "-a", "-G1", "-struct", *map(str, paths)]
    found = json.loads(subprocess.run(command, check=True, capture_output=True).stdout)
    outside = ("System:", "ExifTool:", "File:", "SourceFile")
    return [{name: value for name, value in tags.items() if not name.startswith(outside)} for tags in found]
