"""The tree of errors. Each is a value: it names its subject and says what to do.

Codec, system and validation errors are translated into this tree once, where the foreign library is
called; everything above deals with these classes alone.
"""

from __future__ import annotations


class TrayError(Exception):
    """What went wrong with one file or field.

    subject:  the file or the field, as its owner knows it
    expected: what would have been right
    found:    what was there instead
    remedy:   what the person can do now
    """

    def __init__(self, subject: str, *, expected: str, found: str, remedy: str) -> None:
        super().__init__(subject, expected, found, remedy)
        self.subject = subject
        self.expected = expected
        self.found = found
        self.remedy = remedy

    def __str__(self) -> str:
        return f"{self.subject}: expected {self.expected}, found {self.found}. {self.remedy}"

    def __reduce__(self) -> tuple[object, tuple[object, ...]]:
        # Errors travel from worker processes; keyword-only arguments need a rebuild function.
        return _rebuild, (type(self), self.subject, self.expected, self.found, self.remedy)


def _rebuild(kind: type[TrayError], subject: str, expected: str, found: str, remedy: str) -> TrayError:
    return kind(subject, expected=expected, found=found, remedy=remedy)


class PhotoError(TrayError):
    """One photo cannot be used; the others are not touched by it."""


class PhotoGone(PhotoError):
    """The file or its folder is no longer there, or may not be read."""


class EmptyPhoto(PhotoError):
    """A file of no bytes."""


class UnknownFormat(PhotoError):
    """The content is not of a kind that is read."""


class DamagedPhoto(PhotoError):
    """The content begins well and cannot be read to its end."""


class PhotoTooLarge(PhotoError):
    """More pixels or bytes than the limits allow."""


class PhotoChanged(PhotoError):
    """The file is no longer what was planned for."""


class RecipeError(TrayError):
    """A recipe that cannot be used; the subject is the path in its JSON."""


class PlaceError(TrayError):
    """A rendition cannot be put where it should go."""


class TargetIsSource(PlaceError):
    """The rendition would replace an original. Always refused."""


class LineError(TrayError):
    """The pixels could not be worked or encoded."""
