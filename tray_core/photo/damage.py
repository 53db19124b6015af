"""What is wrong with a photo's content, in a person's words: libraries' own error texts never reach one."""

from __future__ import annotations

from tray_core.errors import DamagedPhoto, PhotoError, PhotoTooLarge


class Wrong(Exception):
    """What a reader says when it knows better than its library. large: more pixels, bytes or memory than allowed."""

    def __init__(self, *, expected: str, found: str, remedy: str, large: bool = False) -> None:
        super().__init__(found)
        self.expected, self.found, self.remedy, self.large = expected, found, remedy, large


SAVE_ANEW = "Open it in the program that made it and save it as JPEG, PNG or TIFF, or leave it out."
_COPY = "Copy the file again from the camera or its backup."

_ENDS = ("premature", "truncated", "end of ", "eof", "incomplete", "too short", "not enough", "ends before", "no more")
_ALTERED = ("crc", "checksum", "adler")
_NOT_READ = ("unsupported", "not supported", "not implemented", "unknown", "cannot handle", "no decoder")


def check_pixels(width: int, height: int, limit: int) -> None:
    """Raise Wrong where a picture has more than `limit` pixels, whatever its header said before, or none."""
    if width < 1 or height < 1 or width * height > limit:
        raise Wrong(
            expected=f"1 to {limit / 1e6:g} megapixels",
            found=f"{width} x {height}",
            remedy="Save a smaller copy, or raise the limit.",
            large=True,
        )


def wrong_with(kind: str, error: BaseException) -> Wrong:
    """`error`, raised by whatever read a photo of `kind`, as what to tell its owner."""
    if isinstance(error, Wrong):
        return error
    if isinstance(error, MemoryError):
        return Wrong(
            expected=f"a {kind} picture that fits into memory",
            found="one that needs more than it may",
            remedy="Save a smaller copy.",
            large=True,
        )
    text = str(error).lower()
    found, remedy = "damaged data", SAVE_ANEW
    # Copying helps only where bytes went missing or were altered on the way.
    if isinstance(error, EOFError) or any(word in text for word in _ENDS):
        found, remedy = "data that end too early", _COPY
    elif any(word in text for word in _ALTERED):
        found, remedy = "data that were altered on the way (their checksum is wrong)", _COPY
    elif isinstance(error, NotImplementedError) or any(word in text for word in _NOT_READ):
        found = "a variety of it that is not read"
    return Wrong(expected=f"a whole {kind} picture", found=found, remedy=remedy)


def damaged(path: str, kind: str, error: BaseException) -> PhotoError:
    """The error of the photo at `path`, whose content begins as `kind` and cannot be read to its end."""
    wrong = wrong_with(kind, error)
    made: type[PhotoError] = PhotoTooLarge if wrong.large else DamagedPhoto
    return made(path, expected=wrong.expected, found=wrong.found, remedy=wrong.remedy)
