"""Photos as the API tells them."""

from __future__ import annotations

import datetime as dt

from ninja import Schema


class PhotoOut(Schema):
    id: int
    name: str
    folder: str
    state: str
    reason: str
    format: str
    width: int
    height: int
    orientation: int
    depth: int
    mode: str
    alpha: bool
    profile: str | None
    bytes: int
    taken: dt.datetime | None
    digest: str
    toned: bool
    early: bool
