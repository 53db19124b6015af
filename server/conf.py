"""Settings of the product, typed, from the environment; each name is UPPER_TRAY_ and the field's."""

from __future__ import annotations

import os
from dataclasses import dataclass, fields
from pathlib import Path

PROJECT = Path(__file__).parent.parent


@dataclass(frozen=True, kw_only=True, slots=True)
class Conf:
    """var: where the product keeps its files. output: the root that renditions go below.

    upload_bytes, photo_pixels, photo_bytes: limits, inclusive. demo: sign the demo user in by itself,
    for visitors from this machine only. secret: for sessions; made and kept in `var` when not given.
    job_seconds: what reading a photo, or making one rendition of it, may take at most.
    since: when the processes were started, in seconds of the epoch.
    """

    var: Path = PROJECT / "var"
    output: Path | None = None
    demo: bool = False
    debug: bool = False
    secret: str = ""
    hosts: str = "localhost,127.0.0.1,[::1]"
    database: str = "app"
    database_host: str = "127.0.0.1"
    database_port: int = 54329
    database_user: str = "app"
    pool: bool = True
    upload_bytes: int = 1_000_000_000
    photo_pixels: int = 500_000_000
    photo_bytes: int = 4_000_000_000
    heartbeat_seconds: float = 2
    stalled_seconds: float = 12
    job_seconds: float = 600
    since: float = 0

    @property
    def media(self) -> Path:
        """Uploads and renditions for download."""
        return self.var / "media"

    @property
    def cache(self) -> Path:
        """Working copies; can be made again."""
        return self.var / "cache"

    @property
    def profiles(self) -> Path:
        """Color profiles that people added."""
        return self.var / "profiles"

    @property
    def output_root(self) -> Path:
        """The root that renditions go below."""
        return self.output or self.var / "output"


def read_conf(environment: dict[str, str] | os._Environ[str] = os.environ) -> Conf:
    """Read the settings; ValueError names the variable that cannot be used."""
    found: dict[str, object] = {}
    for each in fields(Conf):
        text = environment.get(f"UPPER_TRAY_{each.name.upper()}", "")
        if not text:
            continue
        try:
            found[each.name] = _value(str(each.type), text)
        except ValueError as error:
            raise ValueError(f"UPPER_TRAY_{each.name.upper()}: expected {each.type}, found {text!r}") from error
    return Conf(**found)  # type: ignore[arg-type]


def _value(kind: str, text: str) -> object:
    match kind:
        case "int":
            return int(text)
        case "float":
            return float(text)
        case "bool":
            return text.lower() in ("1", "yes", "true", "on")
        case "str":
            return text
    return Path(text).resolve()


conf = read_conf()
__all__ = ["PROJECT", "Conf", "conf", "read_conf"]
