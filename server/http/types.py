"""What several answers of the API hold."""

from __future__ import annotations

from ninja import Schema


class SizeOut(Schema):
    width: int
    height: int
