"""Settings of the product, typed, from the environment; each name is UPPER_TRAY_ and the field's."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from pydantic import AfterValidator, ValidationError
from pydantic_settings import BaseSettings, SettingsConfigDict

PROJECT = Path(__file__).parents[2]
Resolved = Annotated[Path, AfterValidator(Path.resolve)]


class Conf(BaseSettings):
    """var: where the product keeps its files. output: the root that renditions go below.

    upload_bytes, photo_pixels, photo_bytes: limits, inclusive. demo: the made-up museum is there, and
    an address that signs in once is printed. secret: for sessions; made and kept in `var` when not given.
    job_seconds: what reading a photo, or making one rendition of it, may take at most.
    https: visitors come by HTTPS alone. proxy: they come through one that says so, and sets these headers itself.
    stand_in_port: where the demo's stand-in platform answers, on loopback.
    since: when the processes were started, in seconds of the epoch.
    """

    model_config = SettingsConfigDict(env_prefix="UPPER_TRAY_", env_ignore_empty=True, frozen=True)

    var: Resolved = PROJECT / "var"
    output: Resolved | None = None
    demo: bool = False
    debug: bool = False
    secret: str = ""
    https: bool = False
    proxy: bool = False
    hosts: str = "localhost,127.0.0.1,[::1]"
    database: str = "upper_tray"
    database_host: str = "127.0.0.1"
    database_port: int = 54329
    database_user: str = "upper_tray"
    upload_bytes: int = 1_000_000_000
    photo_pixels: int = 500_000_000
    photo_bytes: int = 4_000_000_000
    heartbeat_seconds: float = 2
    stalled_seconds: float = 12
    job_seconds: float = 600
    since: float = 0
    stand_in_port: int = 8330

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
    def marks(self) -> Path:
        """Fonts and mark pictures that people added."""
        return self.var / "marks"

    @property
    def output_root(self) -> Path:
        """The root that renditions go below."""
        return self.output or self.var / "output"


def read_conf() -> Conf:
    """Read the settings; ValueError names the variables that cannot be used."""
    try:
        return Conf()
    except ValidationError as error:
        wrong = [
            f"UPPER_TRAY_{str(each['loc'][0]).upper()}: expected {each['msg']}, found {each['input']!r}"
            for each in error.errors()
        ]
        raise ValueError("; ".join(wrong)) from None


conf = read_conf()
