"""The Kit room: what is in hand, and making, changing and deleting bodies, lenses and set-ups."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import WelotropeError
from welotrope.store.queries import kit
from welotrope.web.desk import AtDesk, Desk
from welotrope.web.rooms.kit.body_form import BodyForm
from welotrope.web.rooms.kit.contexts import EditPage, kit_page
from welotrope.web.rooms.kit.lens_form import LensForm
from welotrope.web.rooms.kit.setup_form import FIELD_OF, SetupForm

router = APIRouter()


@router.get("/kit")
def show_kit(desk: AtDesk) -> Response:
    """Open on the set-up in hand; an empty kit leads to the start page."""
    page = kit_page(desk.session, desk.preferences.unit)
    if not (page.bodies or page.lenses or page.changes):
        return desk.go("/start")
    return desk.page("kit.html", page, room="kit")


@router.get("/kit/bodies/new")
def new_body(desk: AtDesk) -> Response:
    """Offer an empty body form."""
    return desk.page("body.html", EditPage(BodyForm(), "/kit/bodies", "A body"), room="kit")


@router.get("/kit/bodies/{id}")
def edit_body(desk: AtDesk, id: int) -> Response:
    """Offer a body for change."""
    body = kit.get_body(desk.session, id)
    return desk.page("body.html", EditPage(BodyForm.of(body), f"/kit/bodies/{id}", body.name, id), room="kit")


@router.post("/kit/bodies")
async def create_body(desk: AtDesk) -> Response:
    """Store a new body."""
    return await _save_body(desk, None)


@router.post("/kit/bodies/{id}")
async def update_body(desk: AtDesk, id: int) -> Response:
    """Store a changed body."""
    return await _save_body(desk, id)


async def _save_body(desk: Desk, id: int | None) -> Response:
    data = await desk.request.form()
    form = BodyForm.read(data)
    body, errors = form.body()
    if body is None:
        action = "/kit/bodies" if id is None else f"/kit/bodies/{id}"
        page = EditPage(form, action, form.name or "A body", id, errors, step=str(data.get("step", "")))
        return desk.page("body.html", page, room="kit", status=422)
    with desk.change(f"{'Added' if id is None else 'Changed'} body {body.name}"):
        kit.save_body(desk.session, body, id)
    return desk.back_to("/start" if data.get("step") else "/kit")


@router.post("/kit/bodies/{id}/delete")
def delete_body(desk: AtDesk, id: int) -> Response:
    """Delete a body with its set-ups, undoably."""
    with desk.change(f"Deleted body {kit.get_body(desk.session, id).name}"):
        kit.delete_body(desk.session, id)
    return desk.back_to("/kit")


@router.get("/kit/lenses/new")
def new_lens(desk: AtDesk) -> Response:
    """Offer an empty lens form."""
    return desk.page("lens.html", EditPage(LensForm(), "/kit/lenses", "A lens"), room="kit")


@router.get("/kit/lenses/{id}")
def edit_lens(desk: AtDesk, id: int) -> Response:
    """Offer a lens for change."""
    lens = kit.get_lens(desk.session, id)
    return desk.page("lens.html", EditPage(LensForm.of(lens), f"/kit/lenses/{id}", lens.name, id), room="kit")


@router.post("/kit/lenses")
async def create_lens(desk: AtDesk) -> Response:
    """Store a new lens."""
    return await _save_lens(desk, None)


@router.post("/kit/lenses/{id}")
async def update_lens(desk: AtDesk, id: int) -> Response:
    """Store a changed lens."""
    return await _save_lens(desk, id)


async def _save_lens(desk: Desk, id: int | None) -> Response:
    data = await desk.request.form()
    form = LensForm.read(data)
    lens, errors = form.lens(desk.preferences.unit)
    if lens is None:
        action = "/kit/lenses" if id is None else f"/kit/lenses/{id}"
        page = EditPage(form, action, form.name or "A lens", id, errors, step=str(data.get("step", "")))
        return desk.page("lens.html", page, room="kit", status=422)
    with desk.change(f"{'Added' if id is None else 'Changed'} lens {lens.name}"):
        kit.save_lens(desk.session, lens, id)
    return desk.back_to("/start" if data.get("step") else "/kit")


@router.post("/kit/lenses/{id}/delete")
def delete_lens(desk: AtDesk, id: int) -> Response:
    """Delete a lens with its set-ups and presets, undoably."""
    with desk.change(f"Deleted lens {kit.get_lens(desk.session, id).name}"):
        kit.delete_lens(desk.session, id)
    return desk.back_to("/kit")


@router.get("/kit/setups/new")
def new_setup(desk: AtDesk) -> Response:
    """Offer an empty set-up form."""
    return desk.page("setup.html", _setup_page(desk, SetupForm(), None, {}), room="kit")


@router.get("/kit/setups/{id}")
def edit_setup(desk: AtDesk, id: int) -> Response:
    """Offer a set-up for change."""
    form = SetupForm.of(kit.get_setup(desk.session, id))
    return desk.page("setup.html", _setup_page(desk, form, id, {}), room="kit")


@router.post("/kit/setups")
async def create_setup(desk: AtDesk) -> Response:
    """Store a new set-up and take it in hand."""
    return await _save_setup(desk, None)


@router.post("/kit/setups/{id}")
async def update_setup(desk: AtDesk, id: int) -> Response:
    """Store a changed set-up."""
    return await _save_setup(desk, id)


async def _save_setup(desk: Desk, id: int | None) -> Response:
    form = SetupForm.read(await desk.request.form())
    body_id, lens_id, standard, errors = form.values()
    if not errors:
        try:
            with desk.change("Added a set-up" if id is None else "Changed a set-up"):
                saved = kit.save_setup(desk.session, body_id, lens_id, standard, id)
                kit.take_in_hand(desk.session, saved)
            return desk.back_to("/scale")
        except WelotropeError as error:
            desk.session.rollback()
            errors = {FIELD_OF.get(error.field, "standard"): error.sentence}
    return desk.page("setup.html", _setup_page(desk, form, id, errors), room="kit", status=422)


@router.post("/kit/setups/{id}/delete")
def delete_setup(desk: AtDesk, id: int) -> Response:
    """Delete a set-up, undoably; its body and lens stay."""
    with desk.change(f"Deleted set-up {kit.get_setup(desk.session, id).setup.name}"):
        kit.delete_setup(desk.session, id)
    return desk.back_to("/kit")


def _setup_page(desk: Desk, form: SetupForm, id: int | None, errors: dict[str, str]) -> EditPage[SetupForm]:
    bodies, lenses = kit.list_bodies(desk.session), kit.list_lenses(desk.session)
    action = "/kit/setups" if id is None else f"/kit/setups/{id}"
    title = "A set-up" if id is None else kit.get_setup(desk.session, id).setup.name
    return EditPage(form, action, title, id, errors, bodies, lenses)
