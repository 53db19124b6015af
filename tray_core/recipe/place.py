"""The place station: where a file goes, what lies beside it, and what is done once all are made."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, Field, field_validator, model_validator

from tray_core.recipe.base import Conflict, Station
from tray_core.recipe.frame import parse_pixels
from tray_core.recipe.pattern import check_folder_pattern, fields_in

Taken = Literal["new-name", "replace", "keep", "ask"]
Sidecar = Literal["json", "xmp"]
MOST_OF_A_PAGE = 10_000
"""Pixels of a contact sheet's edge."""


class Zip(Station):
    """All files of the run by recipes that ask for it, with their manifest, as one zip in the output folder."""

    do: Literal["zip"] = "zip"


class Pages(Station):
    """An index.html and a pictures.json beside the files, in each of their folders. sizes: as in HTML."""

    do: Literal["markup"] = "markup"
    sizes: Annotated[str, Field(max_length=500)] = ""


class ShowPath(Station):
    """The folder's path, shown to be copied."""

    do: Literal["path"] = "path"


PAPERS = {"A4": (210.0, 297.0), "letter": (215.9, 279.4)}
"""Width and height in millimeters (ISO 216; ANSI/ASME Y14.1)."""


def _page(text: str) -> str:
    pixels = parse_pixels(text)
    paper = text.removesuffix(" landscape") in PAPERS
    if not paper and (pixels is None or not all(100 <= edge <= MOST_OF_A_PAGE for edge in pixels)):
        raise ValueError(f"{text!r}; write A4, letter, A4 landscape, or pixels such as 1080x1350, 100 to 10000 each")
    return text


class Sheets(Station):
    """Contact sheets: all files of the run by recipes that ask for it, laid out on pages in their folder.

    page: paper (upright, or landscape) or pixels. format: one PDF, or a JPEG a page. caption: what stands below each
    picture. margin, gap: around all pictures and between them, in % of the page's shorter edge.
    """

    do: Literal["sheets"] = "sheets"
    page: Annotated[str, AfterValidator(_page)] = "A4"
    format: Literal["pdf", "jpeg"] = "pdf"
    columns: Annotated[int, Field(ge=1, le=20)] = 4
    rows: Annotated[int, Field(ge=1, le=20)] = 5
    caption: Literal["none", "name", "title", "both"] = "name"
    margin: Annotated[float, Field(ge=0, le=20)] = 4.0
    gap: Annotated[float, Field(ge=0, le=20)] = 2.0

    @property
    def count(self) -> int:
        """How many pictures stand on a page."""
        return self.columns * self.rows

    @property
    def paper(self) -> bool:
        """Whether the page has a size on paper."""
        return parse_pixels(self.page) is None

    def pixels(self, ppi: int) -> tuple[int, int]:
        """(width, height) of a page; paper at so many pixels an inch."""
        if (given := parse_pixels(self.page)) is not None:
            return given
        wide, high = (round(edge / 25.4 * ppi) for edge in PAPERS[self.page.removesuffix(" landscape")])
        return (high, wide) if self.page.endswith("landscape") else (wide, high)


class Deliver(Station):
    """All files of the run by recipes that ask for it are sent to an account. to: its name in the studio."""

    do: Literal["deliver"] = "deliver"
    to: Annotated[str, Field(min_length=1, max_length=80)]


Afterwards = Annotated[Zip | Pages | Sheets | ShowPath | Deliver, Field(discriminator="do")]


class Place(Station):
    """Where the file goes, and what happens when its name is taken there.

    output: a folder below the output root (`subfolder`, a pattern; empty for the root itself).
    beside: a subfolder of the folder that the original lies in. download: nowhere but the run itself, to be downloaded
    from it. sidecars: files of the same name and .json or .xmp behind it, with what the photo says. afterwards: what is
    done when all of a run is made.
    """

    to: Literal["output", "beside", "download"] = "output"
    subfolder: Annotated[str, Field(max_length=200)] = ""
    taken: Taken = "new-name"
    sidecars: Annotated[tuple[Sidecar, ...], Field(strict=False, max_length=2)] = ()
    afterwards: Annotated[tuple[Afterwards, ...], Field(strict=False, max_length=8)] = ()

    @field_validator("subfolder")
    @classmethod
    def _check(cls, subfolder: str) -> str:
        check_folder_pattern(subfolder)
        return subfolder

    @model_validator(mode="after")
    def _fits(self) -> Place:
        if self.to == "beside" and not self.subfolder.strip("/ "):
            raise Conflict(
                "place.subfolder",
                expected="a subfolder, since renditions do not lie among originals",
                found="nothing",
                remedy="Write for example web.",
            )
        kinds = [each.do for each in self.afterwards]
        if self.to == "download" and (wrong := {"markup", "sheets", "path"}.intersection(kinds)):
            raise Conflict(
                "place.afterwards",
                expected="a zip at most, since downloads lie in no folder",
                found=repr(sorted(wrong)[0]),
                remedy="Leave it out (a run's zip has its page), or choose the output folder.",
            )
        for field, values in (("sidecars", self.sidecars), ("afterwards", tuple(kinds))):
            if len(set(values)) < len(values):
                raise Conflict(
                    f"place.{field}", expected="each once", found=", ".join(values), remedy="Leave out the second."
                )
        return self


def constant_subfolder(place: Place) -> str:
    """The subfolder beside originals where it is the same for all of them; else ""."""
    return place.subfolder if place.to == "beside" and not fields_in(place.subfolder) else ""
