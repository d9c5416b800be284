"""Set-ups: what goes together, and what counts as sharp."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import WelotropeError
from welotrope.core.kit.fit import check_fit, verdict
from welotrope.core.rules import Severity
from welotrope.store.queries import kit
from welotrope.web.forms.text_form import key_of
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.kit.detour import detour, form_from
from welotrope.web.rooms.kit.setup.context import chosen_of, first_setup, joined, setup_page
from welotrope.web.rooms.kit.setup.form import FIELD_OF, SetupForm
from welotrope.web.rooms.kit.things.forms import AdapterForm, adapter_between

router = APIRouter()


@router.get("/kit/setups/new")
def new_setup(context: CurrentContext) -> Response:
    """Offer an empty set-up form, or the one a detour left."""
    form = form_from(SetupForm, context.request.query_params, first_setup(context))
    return context.page("kit/setup/page.html", setup_page(context, joined(context, form), None, {}))


@router.post("/kit/setups/detour")
def leave_setup(context: CurrentContext) -> Response:
    """Go and make an adapter for the lens and body chosen; the form is there again afterwards.

    What is made is for these two: a form left before it was drawn anew must not choose another on coming back.
    """
    form, id = joined(context, SetupForm.read(context.typed)), key_of(str(context.typed.get("id", "")))
    own = "/start" if context.typed.get("step") else f"/kit/setups/{'new' if id is None else id}"
    chosen = chosen_of(context, form)
    sides = (adapter_between(chosen.lens, chosen.body) if chosen else AdapterForm()).model_dump()
    prefill = {name: sides[name] for name in ("lens_side", "body_side")}
    return context.go(detour(own, form, context.typed, prefill))


@router.get("/kit/setups/{id}")
def edit_setup(context: CurrentContext, id: int) -> Response:
    """Offer a set-up for change."""
    form = form_from(SetupForm, context.request.query_params, SetupForm.of_stored(kit.get_setup(context.uow, id)))
    return context.page("kit/setup/page.html", setup_page(context, joined(context, form), id, {}))


@router.post("/kit/setups")
def create_setup(context: CurrentContext) -> Response:
    """Store a new set-up and take it in hand."""
    return _save_setup(context, None)


@router.post("/kit/setups/{id}")
def update_setup(context: CurrentContext, id: int) -> Response:
    """Store a changed set-up."""
    return _save_setup(context, id)


def _save_setup(context: RequestContext, id: int | None) -> Response:
    form = SetupForm.read(context.typed)
    body_id, lens_id, standard, errors = form.values()
    if not errors:
        try:
            with context.undoable_transaction("Added a set-up" if id is None else "Changed a set-up"):
                saved = kit.save_setup(context.uow, body_id, lens_id, standard, id=id, joint=form.joint)
                context.select_setup(saved)
            findings = check_fit(kit.get_setup(context.uow, saved).setup)
            return context.back_to("/kit" if verdict(findings) is Severity.BLOCKER else "/scale")
        except WelotropeError as error:
            errors = {
                FIELD_OF.get(
                    error.key, error.key if error.key in SetupForm.model_fields else "standard"
                ): error.sentence
            }
    return context.page("kit/setup/page.html", setup_page(context, form, id, errors), status=422)


@router.post("/kit/setups/{id}/delete")
def delete_setup(context: CurrentContext, id: int) -> Response:
    """Delete a set-up, undoably; its body and lens stay."""
    with context.undoable_transaction(f"Deleted set-up {kit.get_setup(context.uow, id).setup.name}"):
        kit.delete_setup(context.uow, id)
    return context.back_to("/kit")
