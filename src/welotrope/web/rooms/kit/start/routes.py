"""The way in for an empty kit: a body, a lens with the first reading of its ring, then the set-up."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.store.queries import kit, mounts
from welotrope.web.rooms.kit.detour import form_from
from welotrope.web.rooms.kit.edit_page import EditPage
from welotrope.web.rooms.kit.setup.context import setup_page
from welotrope.web.rooms.kit.setup.form import SetupForm
from welotrope.web.rooms.kit.things.forms import BodyForm, LensForm
from welotrope.web.rooms.kit.things.routes import first_lens
from welotrope.web.shell.desk import AtDesk

router = APIRouter()


@router.get("/start")
def start(desk: AtDesk) -> Response:
    """Show the first step that is still missing; with a set-up, go to its ring."""
    query = desk.request.query_params
    bodies, lenses = kit.list_bodies(desk.book), kit.list_lenses(desk.book)
    if kit.setup_in_hand(desk.book) is not None:
        return desk.go("/scale")
    names = [mount.name for _, mount, _ in mounts.list_mounts(desk.book)]
    if not bodies:
        body = form_from(BodyForm, query, BodyForm())
        body_page = EditPage(
            form=body, action="/kit/bodies", title="Your camera", step="1", mounts=names, detour="/kit/bodies/detour"
        )
        return desk.page("kit/things/body.html", body_page)
    if not lenses:
        lens = form_from(LensForm, query, first_lens(desk))
        lens_page = EditPage(
            form=lens, action="/kit/lenses", title="Your lens", step="2", mounts=names, detour="/kit/lenses/detour"
        )
        return desk.page("kit/things/lens.html", lens_page)
    form = form_from(SetupForm, query, SetupForm(body_id=str(bodies[0][0]), lens_id=str(lenses[0][0])))
    return desk.page("kit/setup/page.html", setup_page(desk, form, None, {}, step="3"))
