"""Set-ups: what goes together, and what counts as sharp."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import WelotropeError
from welotrope.core.kit.fit import check_fit, verdict
from welotrope.core.rules import Severity
from welotrope.store.queries import kit
from welotrope.web.forms.text_form import key_of
from welotrope.web.rooms.kit.detour import detour, form_from
from welotrope.web.rooms.kit.setup.context import chosen_of, first_setup, joined, setup_page
from welotrope.web.rooms.kit.setup.form import FIELD_OF, SetupForm
from welotrope.web.rooms.kit.things.forms import AdapterForm, adapter_between
from welotrope.web.shell.desk import AtDesk, Desk

router = APIRouter()


@router.get("/kit/setups/new")
def new_setup(desk: AtDesk) -> Response:
    """Offer an empty set-up form, or the one a detour left."""
    form = form_from(SetupForm, desk.request.query_params, first_setup(desk))
    return desk.page("kit/setup/page.html", setup_page(desk, joined(desk, form), None, {}))


@router.post("/kit/setups/detour")
def leave_setup(desk: AtDesk) -> Response:
    """Go and make an adapter for the lens and body chosen; the form is there again afterwards."""
    form, id = SetupForm.read(desk.typed), key_of(str(desk.typed.get("id", "")))
    own = "/start" if desk.typed.get("step") else f"/kit/setups/{'new' if id is None else id}"
    chosen = chosen_of(desk, form)
    sides = (adapter_between(chosen.lens, chosen.body) if chosen else AdapterForm()).model_dump()
    prefill = {name: sides[name] for name in ("lens_side", "body_side")}
    return desk.go(detour(own, form, desk.typed, prefill))


@router.get("/kit/setups/{id}")
def edit_setup(desk: AtDesk, id: int) -> Response:
    """Offer a set-up for change."""
    form = form_from(SetupForm, desk.request.query_params, SetupForm.of(kit.get_setup(desk.book, id)))
    return desk.page("kit/setup/page.html", setup_page(desk, joined(desk, form), id, {}))


@router.post("/kit/setups")
def create_setup(desk: AtDesk) -> Response:
    """Store a new set-up and take it in hand."""
    return _save_setup(desk, None)


@router.post("/kit/setups/{id}")
def update_setup(desk: AtDesk, id: int) -> Response:
    """Store a changed set-up."""
    return _save_setup(desk, id)


def _save_setup(desk: Desk, id: int | None) -> Response:
    form = SetupForm.read(desk.typed)
    body_id, lens_id, standard, errors = form.values()
    if not errors:
        try:
            with desk.change("Added a set-up" if id is None else "Changed a set-up"):
                saved = kit.save_setup(desk.book, body_id, lens_id, standard, id, form.joint)
                desk.take_in_hand(saved)
            findings = check_fit(kit.get_setup(desk.book, saved).setup)
            return desk.back_to("/kit" if verdict(findings) is Severity.STOP else "/scale")
        except WelotropeError as error:
            errors = {
                FIELD_OF.get(
                    error.key, error.key if error.key in SetupForm.model_fields else "standard"
                ): error.sentence
            }
    return desk.page("kit/setup/page.html", setup_page(desk, form, id, errors), status=422)


@router.post("/kit/setups/{id}/delete")
def delete_setup(desk: AtDesk, id: int) -> Response:
    """Delete a set-up, undoably; its body and lens stay."""
    with desk.change(f"Deleted set-up {kit.get_setup(desk.book, id).setup.name}"):
        kit.delete_setup(desk.book, id)
    return desk.back_to("/kit")
