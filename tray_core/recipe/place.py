"""The place station: where a file goes, what lies beside it, and what is done once all are made."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator, model_validator

from tray_core.recipe.base import Conflict, Station
from tray_core.recipe.pattern import check_folder_pattern, fields_in

Taken = Literal["new-name", "replace", "keep", "ask"]
Sidecar = Literal["json", "xmp"]


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


Afterwards = Annotated[Zip | Pages | ShowPath, Field(discriminator="do")]


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
        if self.to == "download" and (wrong := {"markup", "path"}.intersection(kinds)):
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
