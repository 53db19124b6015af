"""Color profiles over the API."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import File, Router, Schema, Status
from ninja.files import UploadedFile

from server.recipes import profiles
from server.studios.models import Studio
from server.studios.visitors import studio_of

router = Router(tags=["recipes"])


class ProfileOut(Schema):
    """name: of the file, as recipes say it. space: RGB, grey or CMYK. own: added by the studio, so that it can be
    deleted. used: titles of the recipes that name it.
    """

    name: str
    title: str
    space: str
    own: bool
    used: list[str]


def _listed(studio: Studio) -> dict[str, ProfileOut]:
    return {
        name: ProfileOut(
            name=name,
            title=facts.description,
            space=facts.space,
            own=profiles.path_of(studio, name).is_file(),
            used=[recipe.title for recipe in profiles.using(studio, name)],
        )
        for name, facts in profiles.known(studio).items()
    }


@router.get("", response=list[ProfileOut])
def list_profiles(request: HttpRequest) -> list[ProfileOut]:
    """The profile files that recipes can name, besides the spaces that have names of their own."""
    return list(_listed(studio_of(request)).values())


@router.post("", response=ProfileOut)
def add_profile(request: HttpRequest, file: File[UploadedFile]) -> ProfileOut:
    """Add a profile file."""
    studio = studio_of(request)
    name = profiles.add(studio, file)
    return _listed(studio)[name]


@router.delete("/{name}", response={204: None})
def delete_profile(request: HttpRequest, name: str) -> Status[None]:
    """Delete a profile file that the studio added, unless a recipe names it."""
    profiles.delete(studio_of(request), name)
    return Status(204, None)
