"""The way in for an empty kit: a body, a lens with the first reading of its ring, then the set-up."""

from __future__ import annotations

from urllib.parse import urlencode

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import WelotropeError
from welotrope.core.inputs import Typed, read_record, shown_at
from welotrope.core.optics.sharpness import SharpnessStandard
from welotrope.core.units.distance import write_distance
from welotrope.store.queries import kit, mounts
from welotrope.web.rooms.kit.detour import form_from
from welotrope.web.rooms.kit.edit_page import EditPage
from welotrope.web.rooms.kit.setup.context import setup_page
from welotrope.web.rooms.kit.setup.form import SetupForm
from welotrope.web.rooms.kit.start.context import StartPage
from welotrope.web.rooms.kit.start.form import FirstAsked, FirstForm
from welotrope.web.rooms.kit.things.forms import BodyForm, LensForm
from welotrope.web.rooms.kit.things.routes import first_lens
from welotrope.web.shell.desk import AtDesk

router = APIRouter()


@router.get("/start")
def start(desk: AtDesk) -> Response:
    """Ask a newcomer for the least; once something is entered, for the step that is still missing."""
    if kit.list_bodies(desk.book) or kit.list_lenses(desk.book):
        return start_by_fields(desk)
    return desk.page("kit/start/page.html", StartPage(form=FirstForm()))


@router.post("/start")
def take_first(desk: AtDesk) -> Response:
    """Make the first kit with typical values, take it in hand and answer the first question."""
    form = FirstForm.read(desk.typed)
    asked, errors = read_record(FirstAsked, Typed(texts=form.model_dump(), bare=desk.numbers_in))
    if asked is None:
        return desk.page("kit/start/page.html", StartPage(form=form, errors=errors), status=422)
    try:
        with desk.change("Started with a first kit"):
            body, lens = kit.save_body(desk.book, asked.body()), kit.save_lens(desk.book, asked.lens())
            desk.take_in_hand(kit.save_setup(desk.book, body, lens, SharpnessStandard()))
    except WelotropeError as error:
        page = StartPage(form=form, errors={shown_at(FirstAsked, error): error.sentence})
        return desk.page("kit/start/page.html", page, status=422)
    scene = [("name", "nearest"), ("distance", write_distance(asked.near_mm)), ("name", "farthest")]
    return desk.back_to(f"/plan?{urlencode([*scene, ('distance', write_distance(asked.far_mm))])}")


@router.get("/start/fields")
def start_by_fields(desk: AtDesk) -> Response:
    """Show the first step that is still missing, every field of it; with a set-up, go to its ring."""
    query = desk.request.query_params
    bodies, lenses = kit.list_bodies(desk.book), kit.list_lenses(desk.book)
    if desk.held() is not None:
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
