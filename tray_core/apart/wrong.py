"""What a reader says when it knows better than its library what is wrong."""

from __future__ import annotations


class Wrong(Exception):
    """Becomes the photo's error on the other side. large: more pixels, bytes or memory than the limits allow."""

    def __init__(self, *, expected: str, found: str, remedy: str, large: bool = False) -> None:
        super().__init__(found)
        self.expected, self.found, self.remedy, self.large = expected, found, remedy, large
