"""/practice/hand: the hand of who is practising, who that is, and what was changed on the kit."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import Response

from welotrope.store.queries import practice, test_shots
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.request.limits import local_path
from welotrope.web.request.preferences import remember
from welotrope.web.rooms.practice.hand.context import HandPage, hand_page
from welotrope.web.rooms.practice.hand.form import ChangeForm, person_of

router = APIRouter()


@router.get("/practice/hand")
def hand(context: CurrentContext) -> Response:
    """Show the hand."""
    return _page(context, ChangeForm(), {})


@router.post("/practice/person")
def practise_as(context: CurrentContext, *, person: Annotated[str, Form()] = "") -> Response:
    """Say who is practising on this device from now on."""
    response = context.go("/practice/hand")
    remember(response, "person", person_of(person))
    return response


@router.post("/practice/sessions/{session}/person")
def give_session(context: CurrentContext, session: str, *, person: Annotated[str, Form()] = "") -> Response:
    """Say that all trials of a session were somebody else's, undoably."""
    name = person_of(person)
    with context.undoable_transaction(f"Gave a session to {name or 'me'}"):
        practice.give_to(context.uow, session[:60], name)
    return context.back_to("/practice/hand")


@router.post("/practice/changes")
def note_change(context: CurrentContext, *, back: Annotated[str, Form()] = "") -> Response:
    """Note a change of the kit, from which on it is watched."""
    form = ChangeForm.read(context.typed)
    change, errors = form.value(context.selected_setup().id, context.now())
    if change is None:
        return _page(context, form, errors, status=422)
    with context.undoable_transaction("Noted a change of the kit"):
        practice.add_change(context.uow, change)
    return context.back_to(local_path(back, otherwise="/practice/hand"))


@router.post("/practice/changes/{id}/delete")
def delete_change(context: CurrentContext, id: int) -> Response:
    """Forget a change, undoably."""
    with context.undoable_transaction("Deleted a change of the kit"):
        practice.delete_change(context.uow, id)
    return context.back_to("/practice/hand")


def _page(context: RequestContext, form: ChangeForm, errors: dict[str, str], *, status: int = 200) -> Response:
    stored, personal, preferences = context.selected_setup(), context.personal(), context.preferences

    def compute() -> HandPage:
        shots = test_shots.shots_of_setup(context.uow, stored.id)
        return hand_page(
            stored, personal, context.observations(), practice.changes_of(context.uow, stored.id),
            practice.persons(context.uow), preferences.person, preferences.unit, form, errors,
            [one for one in shots if one.person == preferences.person],
        )  # fmt: skip

    what = ("hand page", context.selection.key, context.now().date(), preferences, personal.average)
    # What was typed wrong is of one request only.
    return context.page(
        "practice/hand/page.html", compute() if errors else context.cached(what, compute), status=status
    )
