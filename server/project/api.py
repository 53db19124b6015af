"""The API: session and CSRF for everything; each app's router parses, calls its flows, answers."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest
from ninja import NinjaAPI, Schema
from ninja.security import django_auth

from server.board.api import router as boards
from server.board.drafts import router as drafts
from server.board.placing import router as bench
from server.deliveries.api import router as deliveries
from server.guests.api import router as links
from server.http.problems import tell_problems
from server.inlets.api import router as inlets
from server.looks.api import router as closer
from server.looks.beside import router as beside
from server.looks.outlines_api import router as outlines
from server.looks.pictures import router as pictures
from server.looks.tones_api import router as tones
from server.outlets.api import router as outlet_sheets
from server.outlets.rehearsal_api import router as rehearsals
from server.project.conf import conf
from server.recipes.api import router as recipes
from server.recipes.giving_api import router as giving
from server.recipes.marks_api import router as marks
from server.recipes.parts import router as parts
from server.recipes.profiles_api import router as profiles
from server.recipes.sets import router as sets
from server.runs.api import router as runs
from server.runs.questions import router as questions
from server.runs.receipts import router as receipts
from server.sheet.api import router as sheet
from server.storage.api import router as storage
from server.studios.visitors import studio_of
from server.trays.api import roots_router
from server.trays.api import router as trays
from tray_core.photo.find import EXTENSIONS

api = NinjaAPI(title="Upper Tray", version="1", auth=django_auth, docs_url=None, openapi_url=None, urls_namespace="api")
tell_problems(api)
api.add_router("/roots", roots_router)
api.add_router("/trays", trays)
api.add_router("/trays", boards)
api.add_router("/trays", bench)
api.add_router("/trays", closer)
api.add_router("/trays", tones)
api.add_router("/trays", outlines)
api.add_router("/trays", sheet)
api.add_router("/shelves", giving)
api.add_router("/recipes", recipes)
api.add_router("/parts", parts)
api.add_router("/marks", marks)
api.add_router("/profiles", profiles)
api.add_router("/links", links)
api.add_router("", deliveries)
api.add_router("/inlets", inlets)
api.add_router("/outlets", outlet_sheets)
api.add_router("/outlets", rehearsals)
api.add_router("/drafts", drafts)
api.add_router("/pictures", pictures)
api.add_router("/storage", storage)
api.add_router("/questions", questions)
api.add_router("/sets", sets)
api.add_router("", beside)
api.add_router("", receipts)
api.add_router("", runs)


class MeOut(Schema):
    user: str
    studio: str
    demo: bool
    upload_bytes: int
    output: str
    extensions: list[str]


@api.get("/me", response=MeOut)
def me(request: HttpRequest) -> MeOut:
    """Who is signed in, and what the interface needs to know of the settings."""
    output = str(studio_of(request).output)
    base = str(settings.BASE_DIR) + "/"
    return MeOut(
        extensions=sorted(EXTENSIONS),
        user=request.user.get_username(),
        studio=studio_of(request).name,
        demo=conf.demo,
        upload_bytes=conf.upload_bytes,
        output=output.removeprefix(base),
    )
