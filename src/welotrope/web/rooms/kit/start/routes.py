"""The short way in: a first kit, another camera, another lens; and the long one, every field of it."""

from __future__ import annotations

from urllib.parse import urlencode

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import WelotropeError
from welotrope.core.inputs import FormInput, read_record, shown_at
from welotrope.core.optics.sharpness import SharpnessStandard
from welotrope.core.units.distance import Unit, write_distance
from welotrope.store.queries import kit, mounts
from welotrope.web.request.context import CurrentContext
from welotrope.web.request.preferences import remember
from welotrope.web.rooms.kit.detour import form_from
from welotrope.web.rooms.kit.edit_page import EditPage
from welotrope.web.rooms.kit.setup.context import setup_page
from welotrope.web.rooms.kit.setup.form import SetupForm
from welotrope.web.rooms.kit.start.adding import add_lens_page, read_added_lens, save_lens_for
from welotrope.web.rooms.kit.start.context import StartPage
from welotrope.web.rooms.kit.start.form import AddedCamera, CameraForm, FirstAsked, FirstForm, SceneAsked
from welotrope.web.rooms.kit.things.forms import BodyForm, LensForm
from welotrope.web.rooms.kit.things.routes import first_lens

router = APIRouter()


@router.get("/start")
def start(context: CurrentContext) -> Response:
    """Ask a newcomer for the least; once something is entered, for the step that is still missing."""
    if kit.list_bodies(context.uow) or kit.list_lenses(context.uow):
        return start_by_fields(context)
    return context.page("kit/start/page.html", StartPage(form=FirstForm()))


@router.post("/start")
def take_first(context: CurrentContext) -> Response:
    """Make the first kit with typical values, take it in hand and answer the first question."""
    form = FirstForm.read(context.typed)
    asked, errors = read_record(FirstAsked, FormInput(texts=form.model_dump(), bare=context.numbers_in))
    if asked is None:
        return context.page("kit/start/page.html", StartPage(form=form, errors=errors), status=422)
    try:
        with context.undoable_transaction("Started with a first kit"):
            body = kit.save_body(context.uow, asked.camera.body())
            lens = kit.save_lens(context.uow, asked.lens.lens(asked.camera.kind))
            context.select_setup(kit.save_setup(context.uow, body, lens, SharpnessStandard()))
    except WelotropeError as error:
        page = StartPage(form=form, errors={shown_at(FirstAsked, error): error.sentence})
        return context.page("kit/start/page.html", page, status=422)
    answer = context.back_to(f"/plan?{urlencode(_subjects(asked.scene))}")
    if asked.lens.units == (Unit.FEET,):
        remember(answer, "unit", Unit.FEET.value)  # who has only feet to set reads feet first
    return answer


def _subjects(scene: SceneAsked) -> list[tuple[str, str]]:
    near, far = write_distance(scene.near_mm), write_distance(scene.far_mm)
    if scene.near_mm == scene.far_mm:
        return [("name", "subject"), ("distance", near)]
    return [("name", "nearest"), ("distance", near), ("name", "farthest"), ("distance", far)]


@router.get("/kit/add/camera")
def ask_camera(context: CurrentContext) -> Response:
    """Ask for another camera in short."""
    return context.page("kit/start/camera.html", StartPage(form=CameraForm()))


@router.post("/kit/add/camera")
def add_camera(context: CurrentContext) -> Response:
    """Add a camera with the typical values of its kind, and go on to a lens for it."""
    form = CameraForm.read(context.typed)
    asked, errors = read_record(AddedCamera, FormInput(texts=form.model_dump(), bare=context.numbers_in))
    if asked is None:
        return context.page("kit/start/camera.html", StartPage(form=form, errors=errors), status=422)
    body = asked.camera.body(name=asked.name)
    with context.undoable_transaction(f"Added body {body.name}"):
        key = kit.save_body(context.uow, body)
    return context.back_to(f"/kit/add/lens?body={key}")


@router.get("/kit/add/lens")
def ask_lens(context: CurrentContext) -> Response:
    """Ask for another lens in short, for the body at hand or the one asked for; without any body, for that first."""
    page = add_lens_page(context)
    return context.go("/kit/add/camera") if page is None else context.page("kit/start/lens.html", page)


@router.post("/kit/add/lens")
def add_lens(context: CurrentContext) -> Response:
    """Add a lens, join it to its body, and take the set-up in hand."""
    asked, errors = read_added_lens(context)
    page = add_lens_page(context, errors=errors)
    if page is None:
        return context.go("/kit/add/camera")
    if asked is None:
        return context.page("kit/start/lens.html", page, status=422)
    try:
        with context.undoable_transaction("Added a lens and a set-up"):
            save_lens_for(context, page.body_id, page.body, asked)
    except WelotropeError as error:
        page = add_lens_page(context, errors={shown_at(type(asked), error): error.sentence})
        return context.page("kit/start/lens.html", page, status=422)
    return context.back_to("/scale")


@router.get("/start/fields")
def start_by_fields(context: CurrentContext) -> Response:
    """Show the first step that is still missing, every field of it; with a set-up, go to its ring."""
    query = context.request.query_params
    bodies, lenses = kit.list_bodies(context.uow), kit.list_lenses(context.uow)
    if context.find_selected_setup() is not None:
        return context.go("/scale")
    names = [mount.name for _, mount, _ in mounts.list_mounts(context.uow)]
    if not bodies:
        body = form_from(BodyForm, query, BodyForm())
        body_page = EditPage(
            form=body, action="/kit/bodies", title="Your camera", step="1", mounts=names, detour="/kit/bodies/detour"
        )
        return context.page("kit/things/body.html", body_page)
    if not lenses:
        lens = form_from(LensForm, query, first_lens(context))
        lens_page = EditPage(
            form=lens, action="/kit/lenses", title="Your lens", step="2", mounts=names, detour="/kit/lenses/detour"
        )
        return context.page("kit/things/lens.html", lens_page)
    form = form_from(SetupForm, query, SetupForm(body_id=str(bodies[0][0]), lens_id=str(lenses[0][0])))
    return context.page("kit/setup/page.html", setup_page(context, form, None, {}, step="3"))
