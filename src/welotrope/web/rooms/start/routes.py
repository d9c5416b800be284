"""The way in for an empty kit: a body, a lens with the first reading of its ring, then the set-up."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.store.queries import kit, mounts
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
    names = [mount.name for _, mount, _ in mounts.list_mounts(desk.session)]
    if not bodies:
        body_page = EditPage(BodyForm(), "/kit/bodies", "Your camera", step="1", mounts=names)
        return desk.page("body.html", body_page, room="kit")
    if not lenses:
        lens_page = EditPage(LensForm(), "/kit/lenses", "Your lens", step="2", mounts=names)
        return desk.page("lens.html", lens_page, room="kit")
    form = SetupForm(body_id=str(bodies[0][0]), lens_id=str(lenses[0][0]))
    adapters = mounts.list_adapters(desk.session)
    page = EditPage(form, "/kit/setups", "Your set-up", bodies=bodies, lenses=lenses, step="3", adapters=adapters)
    return desk.page("setup.html", page, room="kit")
