"""The way in for an empty kit: a body, a lens with the first reading of its ring, then the set-up."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.store.queries import kit
from welotrope.web.desk import AtDesk
from welotrope.web.rooms.kit.body_form import BodyForm
from welotrope.web.rooms.kit.contexts import EditPage
from welotrope.web.rooms.kit.lens_form import LensForm
from welotrope.web.rooms.kit.setup_form import SetupForm

router = APIRouter()


@router.get("/start")
def start(desk: AtDesk) -> Response:
    """Show the first step that is still missing; with a set-up, go to its ring."""
    bodies, lenses = kit.list_bodies(desk.session), kit.list_lenses(desk.session)
    if kit.setup_in_hand(desk.session) is not None:
        return desk.go("/scale")
    if not bodies:
        usual = BodyForm(display_px="", steps="", peaking="")
        return desk.page("body.html", EditPage(usual, "/kit/bodies", "Your camera", step="1"), room="kit")
    if not lenses:
        return desk.page("lens.html", EditPage(LensForm(), "/kit/lenses", "Your lens", step="2"), room="kit")
    form = SetupForm(body_id=str(bodies[0][0]), lens_id=str(lenses[0][0]))
    page = EditPage(form, "/kit/setups", "Your set-up", bodies=bodies, lenses=lenses, step="3")
    return desk.page("setup.html", page, room="kit")
